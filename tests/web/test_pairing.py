"""Beyond this machine: another device sees nothing without its link, everything with it, nothing once revoked."""

import re

import pytest

from bench.serving import serving
from pebble_wheel.store import devices
from pebble_wheel.store.database import opened
from pebble_wheel.web.app import create_app
from pebble_wheel.web.pairing import COOKIE, MOST_TRIES
from tests.conftest import client_of

ADDRESSES = (
    *("/", "/construct", "/designs/1", "/designs/1/design.json", "/designs/1/small/0.svg", "/settings", "/notebook"),
    *("/notebook/export", "/devices", "/static/x/pebble.css", "/nothing", "/aim"),
)


@pytest.fixture
def beyond(tmp_path):
    """The invented yarn room, open to paired devices: the address it is at, and its database."""
    file = tmp_path / "yarn.sqlite3"
    app = create_app(file, demo=True, paired_at="http://192.0.2.7:8000")
    with serving(application=app) as address:
        yield address, file


def link(file) -> str:
    with opened(file) as connection:
        return f"/pair/{devices.new_link(connection)}"


def test_without_a_link_nothing_is_served_not_even_names(beyond):
    address, _ = beyond
    with client_of(address) as stranger:
        for path in ADDRESSES:
            answer = stranger.get(path)
            assert answer.status_code == 401 and "not paired" in answer.text, path
            assert "jersey" not in answer.text and "yarn room" not in answer.text
        for path in ("/construct/keep", "/designs/1/delete", "/api/evaluate", "/devices/link", "/notebook/import"):
            assert stranger.post(path, data={"name": "x"}).status_code == 401, path
        assert stranger.get("/", headers={"cookie": f"{COOKIE}=guess; a=b"}).status_code == 401
        assert stranger.get("/", headers={"cookie": "\x01=;;;=" + "x" * 3000}).status_code == 401


def test_a_link_pairs_one_device_once_and_only_when_it_says_so(beyond):
    address, file = beyond
    path = link(file)
    with client_of(address) as tablet, client_of(address) as other:
        for _ in range(2):  # being looked at uses nothing up
            page = tablet.get(path)
            assert page.status_code == 200 and "Pair this device" in page.text
        paired = tablet.post(path, data={"name": "  tablet  at the stool "})
        assert paired.status_code == 303
        cookie = paired.headers["set-cookie"]
        assert "HttpOnly" in cookie and "SameSite=lax" in cookie and "Secure" not in cookie
        assert all(tablet.get(each).status_code in (200, 404) for each in ADDRESSES)
        assert "jersey" in tablet.get("/").text and "tablet at the stool" in tablet.get("/devices").text
        assert other.post(path, data={"name": "second"}).status_code == 404 and other.get("/").status_code == 401


def test_a_device_is_revoked_and_a_link_withdrawn(beyond):
    address, file = beyond
    with client_of(address) as tablet, client_of(address) as other:
        tablet.post(link(file), data={"name": "tablet"})
        made = tablet.post("/devices/link")
        shown = re.search(r"<code>http://192\.0\.2\.7:8000(/pair/[\w-]+)</code>", made.text)[1]
        assert "<svg" in made.text and other.get(shown).status_code == 200
        tablet.post("/devices/link/withdraw")
        assert other.get(shown).status_code == 404
        again = re.search(r"(/pair/[\w-]+)</code>", tablet.post("/devices/link").text)[1]
        newest = re.search(r"(/pair/[\w-]+)</code>", tablet.post("/devices/link").text)[1]
        assert other.get(again).status_code == 404 and other.get(newest).status_code == 200  # one link at a time
        other.post(newest, data={"name": "phone"})
        revoke = re.search(r'action="(/devices/\d+/revoke)"', tablet.get("/devices").text)[1]
        assert tablet.post(revoke).status_code == 303
        assert other.get("/").status_code == 401 and tablet.get("/").status_code == 200


def test_a_link_holds_for_a_day_and_secrets_are_not_kept(beyond):
    address, file = beyond
    path = link(file)
    with client_of(address) as tablet:
        secret = tablet.post(path, data={}).cookies[COOKIE]
    late = link(file)
    with opened(file) as connection:
        connection.execute("UPDATE pairing SET made_at = '2026-01-01T00:00:00.000+00:00'")
        (kept,) = devices.devices(connection)
        assert kept.name == "device"
        rows = [
            str(tuple(row)) for table in ("device", "pairing") for row in connection.execute(f"SELECT * FROM {table}")
        ]
    assert not any(told in row for row in rows for told in (secret, path[6:], late[6:]))
    with client_of(address) as other:
        assert other.get(late).status_code == 404


def test_guessing_links_is_slowed_down(beyond):
    address, file = beyond
    with client_of(address) as stranger:
        tried = [stranger.get(f"/pair/{number}").status_code for number in range(MOST_TRIES + 2)]
        assert tried == [404] * MOST_TRIES + [429, 429]
        assert stranger.get(link(file)).status_code == 429


def test_on_this_machine_alone_nothing_is_asked(http):
    assert http.get("/devices").status_code == 200 and "this machine alone" in http.get("/devices").text
    assert "<svg" not in http.post("/devices/link").text and http.get("/pair/x").status_code == 404
