"""Styles, scripts and fonts: fetched by a mark of their content, also where a script or a style fetches them."""

import re
from urllib.parse import urljoin

import pytest

from pebble_wheel.web.shared.assets import ASSETS, Assets

PAGES = ("/", "/aim", "/construct", "/designs/9", "/designs/9/finish", "/settings")


@pytest.mark.parametrize("path", PAGES)
def test_all_that_a_page_fetches_carries_the_mark_and_may_be_kept_for_good(demo_http, path):
    page = demo_http.get(path)
    assert page.headers["cache-control"] == "no-store"
    wanted = [address for address in re.findall(r'(?:href|src)="([^"]+)"', page.text) if "static" in address]
    seen: set[str] = set()
    while wanted:
        address = wanted.pop()
        if address in seen:
            continue
        seen.add(address)
        answer = demo_http.get(address)
        assert answer.status_code == 200, address
        assert address.startswith(f"/static/{ASSETS.mark}/"), address
        assert answer.headers["cache-control"] == "public, max-age=31536000, immutable"
        inner = re.findall(r'(?:from|import) "([^"]+)"', answer.text) if address.endswith(".js") else []
        inner += re.findall(r'url\("?([^")]+\.woff2)', answer.text) if address.endswith(".css") else []
        wanted += [urljoin(address, each) for each in inner]
    names = {address.rsplit("/", 1)[1] for address in seen}
    assert {"pebble.css", "atkinson.woff2", "young-serif.woff2", "pebble.svg"} <= names
    assert path in ("/", "/settings") or {"follow.js", "htmx.js"} <= names


def test_without_the_mark_of_today_nothing_is_kept(demo_http):
    for name in ("follow.js", "construct.js", "pebble.css"):
        other = demo_http.get(f"/static/000000000000/{name}")
        assert other.status_code == 200 and other.headers["cache-control"] == "no-cache"
        assert other.text == demo_http.get(ASSETS.address(name)).text
        assert demo_http.get(f"/static/{name}").status_code == 404
    for address in (f"/static/{ASSETS.mark}/app.py", f"/static/{ASSETS.mark}/..%2fbase.py", "/static/../app.py"):
        assert demo_http.get(address).status_code == 404


def test_a_change_of_any_file_changes_every_address(tmp_path):
    files = []
    for name, text in (("a.js", "one"), ("b.css", "two")):
        file = tmp_path / name
        file.write_text(text)
        files.append(file)
    before = Assets(files)
    assert Assets(files[::-1]).mark == before.mark and len(before.mark) == 12
    files[1].write_text("three")
    after = Assets(files)
    assert after.mark != before.mark and after.address("a.js") == f"/static/{after.mark}/a.js" != before.address("a.js")
    with pytest.raises(KeyError):
        after.address("c.js")
