"""The photo screens over HTTP: kept without what a camera tells, marked, looked at, noted, put away, carried along."""

import io
import json
import re
import zipfile

import pytest
from PIL import Image

from pebble_wheel.demo import photos as taken
from pebble_wheel.demo.lantern_lane import designs as planned
from pebble_wheel.notation.marks import MARK_FIELDS
from pebble_wheel.notation.picture import MOST_BYTES, pixels_of
from pebble_wheel.store import designs, notebook, photos, records
from pebble_wheel.store.database import opened, prepare
from tests.notation.test_picture import picture, with_exif
from tests.web.test_plan import ply
from tests.workshop.test_photographed import TYPED


@pytest.fixture
def place(file):
    with opened(file) as connection:
        return f"/designs/{designs.keep_new(connection, ply())}/photo"


def send(http, place, data=None, **more):
    fields = {"design": place.split("/")[2], "strand": "yarn", **more}
    return http.post("/photos", data=fields, files={"picture": ("yarn.jpg", data or picture(800, 500), "image/jpeg")})


def uid_of(file, number=1):
    with opened(file) as connection:
        return connection.execute("SELECT uid FROM photo WHERE id = ?", (number,)).fetchone()[0]


def test_a_photo_is_kept_upright_and_without_what_the_camera_tells(http, place, file):
    kept = send(http, place, with_exif(orientation=6, maker="Somebody"))
    assert kept.status_code == 303 and kept.headers["location"] == f"{place}/1"
    given = http.get(f"/photos/{uid_of(file)}.jpg")
    assert given.headers["content-type"] == "image/jpeg" and b"Exif" not in given.content
    assert pixels_of(given.content).shape == (400, 300, 3)
    with opened(file) as connection:
        assert connection.execute("SELECT original FROM photo").fetchone()[0] is None
    send(http, place, original="yes")
    with opened(file) as connection:
        assert connection.execute("SELECT original FROM photo WHERE id = 2").fetchone()[0] == picture(800, 500)
    listed = http.get(place).text
    assert listed.count("/photos/") == 2 and listed.count("Not measured yet") == 2


@pytest.mark.parametrize("data", [b"GIF89a" + bytes(99), picture()[:900], picture(100, 100), with_exif(orientation=2)])
def test_what_is_no_good_picture_is_refused_in_words_and_nothing_is_kept(http, place, file, data):
    answer = send(http, place, data)
    assert answer.status_code == 422 and 'role="alert"' in answer.text
    with opened(file) as connection:
        assert connection.execute("SELECT count(*) FROM photo").fetchone()[0] == 0


def test_a_picture_is_taken_or_chosen(http, place):
    """A form sends both of its files; the one that was left empty does not count, and with none one is asked for."""
    for files in ([("", b""), ("chosen.jpg", picture())], [("taken.jpg", picture()), ("", b"")]):
        sent = [("picture", (name, data, "image/jpeg")) for name, data in files]
        assert http.post("/photos", data={"design": "1", "strand": "yarn"}, files=sent).status_code == 303
    none = http.post("/photos", data={"design": "1"}, files=[("picture", ("", b"", "image/jpeg"))])
    assert none.status_code == 422 and "choose a picture" in none.text
    shown = http.get(place).text
    assert shown.count('name="picture"') == 2 and shown.count("capture=") == 1


def test_pictures_have_a_limit_of_their_own(http, place):
    assert send(http, place, bytes(MOST_BYTES + 200_000)).status_code == 413
    assert send(http, place, bytes(2_000_000)).status_code == 422
    assert http.post(f"{place}/1", data={"note": "x" * 1_100_000}).status_code == 413
    assert send(http, place, strand="yarn.strands[9]").status_code == 422
    assert http.post("/photos", data={"design": "99"}, files={"picture": picture()}).status_code == 404


def test_marks_are_followed_kept_and_noted_as_a_sample(http, place, file):
    send(http, place)
    shown = http.get(f"{place}/1").text
    assert "Drag the marks" in shown and shown.count("mark-handle") == 8 and "Turns" not in shown
    answer = http.post(f"{place}/1/follow", data=TYPED, headers={"hx-request": "true"})
    assert answer.status_code == 200 and "133 t/m" in answer.text and "<html" not in answer.text
    assert http.post(f"{place}/1", data=TYPED).headers["location"] == f"{place}/1?kept=1"
    assert "133 t/m ± 0.5 %, S" in http.get(f"{place}/1").text and "133 t/m S" in http.get(place).text
    noted = http.post(place, data={"photo": "1"})
    assert noted.status_code == 303 and "/sample?strand=yarn" in noted.headers["location"]
    with opened(file) as connection:
        (sample,) = records.samples(connection, 1)
        (photo,) = photos.of_design(connection, 1)
    assert sample.record.thick_by == "photo" and sample.record.thick_mm == pytest.approx(2.0)
    assert sample.record.angle == pytest.approx(26.28, abs=0.01)  # atan(2π · 1.1 mm / (1 + sin 60°) · 133.3 t/m)
    assert sample.record.photos == (photo.uid,)
    log = http.get(place.replace("/photo", "/log")).text
    assert "across, by photo" in log and f'src="/photos/{photo.uid}.jpg"' in log


def test_several_photos_count_by_their_middle_and_unmarked_ones_not_at_all(http, place, file):
    for number, wide in enumerate((18, 20, 26), 1):
        send(http, place)
        http.post(f"{place}/{number}", data=TYPED | {"up": f"{-wide}", "down": f"{wide}"})
    send(http, place)
    assert http.post(place, data={"photo": ["1", "2", "3", "4"]}).status_code == 303
    with opened(file) as connection:
        (sample,) = records.samples(connection, 1)
    assert sample.record.thick_mm == pytest.approx(2.0) and sample.record.places == 3
    assert http.post(place, data={"photo": "4"}).status_code == 422 and http.post(place).status_code == 422


def test_what_looking_finds_stands_apart_until_it_is_taken(http, place, file):
    send(http, place, (taken.FOLDER / "0.jpg").read_bytes())
    http.post(f"{place}/1", data=TYPED)
    assert http.post(f"{place}/1", data=TYPED | {"do": "look"}).status_code == 303
    page = http.get(f"{place}/1").text
    assert "Along it its width varies by ±" in page
    assert "by-looking" in page and "133 t/m" in page and "Take what was found" in page
    with opened(file) as connection:
        body = photos.find(connection, 1).body
    assert body.typed["from"] == "100" and float(body.found["from"]) != 100 and body.looked and not body.accepted
    http.post(f"{place}/1", data=TYPED | {"do": "take"})
    with opened(file) as connection:
        after = photos.find(connection, 1).body
    assert after.accepted and after.typed["from"] == body.found["from"] and after.found == body.found
    http.post(f"{place}/1", data=TYPED | {"do": "leave"})
    assert "by-looking" not in http.get(f"{place}/1").text
    send(http, place)
    http.post(f"{place}/2", data=TYPED | {"do": "look"})
    assert "Cannot tell." in http.get(f"{place}/2").text


def test_what_cannot_be_read_is_said_and_stays(http, place):
    send(http, place)
    for answer in (
        http.post(f"{place}/1/follow", data=TYPED | {"up": "high"}),
        http.post(f"{place}/1", data=TYPED | {"up": "high"}),
    ):
        assert answer.status_code == 422 and 'value="high"' in answer.text and "is not a number" in answer.text


def test_a_photo_put_away_leaves_the_record_whole(http, place, file):
    send(http, place)
    http.post(f"{place}/1", data=TYPED)
    http.post(place, data={"photo": "1"})
    away = http.post(f"{place}/1/away")
    assert away.headers["location"] == f"{place}?away=1" and http.get(f"{place}/1").status_code == 404
    assert "put away" in http.get(away.headers["location"]).text
    with opened(file) as connection:
        assert len(records.samples(connection, 1)) == 1
    log = http.get(place.replace("/photo", "/log")).text
    assert "across, by photo" in log and "/photos/" not in log
    http.post(f"{place}/1/back")
    assert http.get(f"{place}/1").status_code == 200
    http.post(f"{place}/1/delete")
    assert http.get(f"{place}/1").status_code == 200, "only what was put away is deleted"
    http.post(f"{place}/1/away")
    was = uid_of(file)
    http.post(f"{place}/1/delete")
    assert http.post(f"{place}/1/back").status_code == 404 and http.get(f"/photos/{was}.jpg").status_code == 404
    send(http, place)  # its number comes again, the name by which a browser keeps its picture does not
    assert uid_of(file, 1) != was
    with opened(file) as connection:
        assert len(records.samples(connection, 1)) == 1
    assert http.get("/designs/99/photo").status_code == 404 and http.get("/photos/none.jpg").status_code == 404


def test_photos_are_in_the_notebook_and_come_back_the_same(http, place, file, tmp_path):
    send(http, place)
    http.post(f"{place}/1", data=TYPED)
    with opened(file) as connection:
        packed = notebook.export(connection)
        before = photos.find(connection, 1)
    other = tmp_path / "other.sqlite3"
    prepare(other)
    with opened(other) as connection:
        assert notebook.read(connection, packed).added >= 2 and notebook.read(connection, packed).added == 0
        (after,) = photos.of_design(connection, 1)
        assert (after.uid, after.body) == (before.uid, before.body)
        assert notebook.export(connection) and photos.picture(connection, after.uid).startswith(b"\xff\xd8")
        assert not photos.damaged(connection)
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        (told,) = json.loads(archive.read("photos.json"))
        documents = {name: archive.read(name) for name in archive.namelist()}
    documents["photos.json"] = json.dumps([told | {"picture": "bm8gcGljdHVyZQ=="}]).encode()
    broken = io.BytesIO()
    with zipfile.ZipFile(broken, "w") as archive:
        for name, data in documents.items():
            archive.writestr(name, data)
    third = tmp_path / "third.sqlite3"
    prepare(third)
    with opened(third) as connection, pytest.raises(ValueError, match=r"photos.json\[0\]"):
        notebook.read(connection, broken.getvalue())


def test_a_damaged_photo_hides_no_other(http, place, file):
    send(http, place)
    send(http, place)
    with opened(file) as connection:
        connection.execute("UPDATE photo SET body = '{}' WHERE id = 1")
        connection.commit()
        assert photos.damaged(connection) == [1] and len(photos.of_design(connection, 1)) == 1
    page = http.get(place)
    assert page.status_code == 200 and "1 of its photos cannot be read" in page.text
    assert http.get(f"{place}/1").status_code >= 400


def test_the_demo_has_four_photos_as_its_camera_takes_them(demo_http):
    page = demo_http.get("/designs/9/photo").text
    assert len(re.findall(r"/photos/\w+.jpg", page)) == 3 and "160 t/m S" in page
    assert len(re.findall(r"/photos/\w+.jpg", demo_http.get("/designs/8/photo").text)) == 1
    assert set(json.loads((taken.FOLDER / "found.json").read_text())[0]["typed"]) <= set(MARK_FIELDS)


def test_the_camera_takes_the_demos_photos_again_the_same():
    """The first: as it was kept, but for what JPEG loses."""
    again = taken.pixels(taken.TAKEN[0], planned()[taken.TAKEN[0].design])
    with Image.open(taken.FOLDER / "0.jpg") as image:
        kept = pixels_of((taken.FOLDER / "0.jpg").read_bytes())
        assert image.size == (taken.WIDE, taken.HIGH)
    assert abs(again.astype(int) - kept).mean() < 3
