"""Pictures as files: upright, small, without what a camera tells; whatever else is sent is refused in words."""

import io

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.picture import KINDS, LEAST, MOST_BYTES, WEB, pixels_of, read_picture, written


def picture(width=400, height=300, kind="JPEG", **more):
    """Red above, blue below, with a green corner at its upper left."""
    image = Image.new("RGB", (width, height), (200, 20, 20))
    image.paste((20, 20, 200), (0, height // 2, width, height))
    image.paste((20, 200, 20), (0, 0, width // 4, height // 4))
    packed = io.BytesIO()
    image.save(packed, kind, **more)
    return packed.getvalue()


def with_exif(**tags):
    exif = Image.Exif()
    for tag, value in tags.items():
        exif[{"orientation": 0x0112, "maker": 0x010F}[tag]] = value
    exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)  # a place
    return picture(exif=exif)


def colour(pixels, x, y):
    return "rgb"[int(np.argmax(pixels[int(y * pixels.shape[0]), int(x * pixels.shape[1])]))]


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_is_read_as_a_small_jpeg(kind):
    read = read_picture(picture(3200, 2400, kind))
    assert (read.width, read.height) == (WEB, 1200) and read.data.startswith(b"\xff\xd8")
    pixels = pixels_of(read.data)
    assert pixels.shape == (1200, WEB, 3) and [colour(pixels, *at) for at in ((0.1, 0.1), (0.9, 0.1), (0.5, 0.9))] == [
        *"grb"
    ]


@pytest.mark.parametrize(
    ("orientation", "corner"), [(1, (0.1, 0.1)), (3, (0.9, 0.9)), (6, (0.9, 0.1)), (8, (0.1, 0.9))]
)
def test_a_picture_stands_upright_and_tells_nothing_of_place_or_person(orientation, corner):
    """EXIF 2.3, orientation: 3 by half a turn, 6 a quarter to the right, 8 to the left."""
    read = read_picture(with_exif(orientation=orientation, maker="Somebody"))
    assert colour(pixels_of(read.data), *corner) == "g"
    assert b"Exif" not in read.data and b"Somebody" not in read.data
    with Image.open(io.BytesIO(read.data)) as image:
        assert not dict(image.getexif()) and set(image.info) <= {"jfif", "jfif_version", "jfif_unit", "jfif_density"}


def moving():
    frames = [Image.new("RGB", (300, 300), (each * 60, 0, 0)) for each in range(3)]
    packed = io.BytesIO()
    frames[0].save(packed, "WEBP", save_all=True, append_images=frames[1:])
    return packed.getvalue()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "choose a picture"),
        (b"GIF89a" + bytes(200), "no picture that can be read"),
        (b"%PDF-1.7 named yarn.jpg", "no picture that can be read"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "no picture that can be read"),
        (picture()[:900], "damaged or cut off"),
        (picture(kind="PNG")[:200], "damaged or cut off"),
        (picture(LEAST - 1, 400), "too small"),
        (moving(), "it moves"),
        (with_exif(orientation=2), "mirrored"),
        (with_exif(orientation=5), "mirrored"),
        (bytes(MOST_BYTES + 1), "at most 25 MB"),
    ],
)
def test_what_is_no_still_picture_is_refused_in_words(data, says):
    with pytest.raises(InputError) as caught:
        read_picture(data)
    assert says in caught.value.faults[0].message and caught.value.faults[0].place == "picture"


def test_a_picture_that_unpacks_to_more_than_a_machine_holds_is_refused_unread():
    """A PNG of a gigapixel, of a few bytes: only its head is looked at."""
    small = bytearray(picture(kind="PNG"))
    small[16:24] = (40_000).to_bytes(4, "big") * 2
    with pytest.raises(InputError):
        read_picture(bytes(small))


@given(st.binary(max_size=400), st.integers(0, 400))
def test_nothing_that_is_sent_breaks_it(junk, at):
    """Bytes in the middle of a good picture, or alone: a picture or a refusal, never anything else."""
    good = picture(200, 200, "PNG")
    for data in (junk, good[:at] + junk + good[at + len(junk) :]):
        try:
            assert read_picture(data).width >= LEAST
        except InputError as error:
            assert error.faults[0].message


def test_pixels_are_written_and_read_again():
    grey = np.full((200, 220, 3), 90, np.uint8)
    assert np.abs(pixels_of(written(grey)).astype(int) - 90).max() <= 2
