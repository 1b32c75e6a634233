"""Pictures as files: what is taken of one is its pixels, upright and no larger than a page needs."""

from dataclasses import dataclass
from io import BytesIO
from typing import NoReturn

import numpy as np
from numpy.typing import NDArray
from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from pebble_wheel.notation.faults import Fault, InputError

MOST_BYTES = 25_000_000
"""Of a picture that is sent."""

KINDS = ("JPEG", "PNG", "WEBP")
LEAST, MOST_POINTS = 160, 80_000_000
"""Pixels across at the least, and in all at the most."""

WEB, QUALITY = 1600, 88
"""Pixels of the longer side of the copy that is kept, and its quality as JPEG."""

MIRRORED = (2, 4, 5, 7)
"""Orientations that turn S into Z."""


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept: a JPEG without anything but its pixels."""

    data: bytes
    width: int
    height: int


def read_picture(data: bytes, place: str = "picture") -> Picture:
    """Return a web-sized copy of a picture, upright and without place, time or person.

    Raises:
        InputError: for what is no picture, moves, is mirrored, cut off, too small or too large.
    """
    if not data:
        _refuse(place, "choose a picture")
    if len(data) > MOST_BYTES:
        _refuse(place, f"a picture may have at most {MOST_BYTES // 1_000_000} MB")
    try:
        with Image.open(BytesIO(data), formats=KINDS) as image:
            if image.width * image.height > MOST_POINTS:
                _refuse(place, "it has more pixels than anything here needs; send a smaller copy")
            if min(image.size) < LEAST:
                _refuse(place, f"it is too small: at least {LEAST} pixels each way are wanted")
            if getattr(image, "n_frames", 1) > 1:
                _refuse(place, "it moves; send a still picture")
            if image.getexif().get(ExifTags.Base.Orientation) in MIRRORED:
                _refuse(place, "it is mirrored, which makes S of Z; turn mirroring off in the camera")
            image.load()
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except InputError:
        raise
    except UnidentifiedImageError:
        _refuse(place, "this is no picture that can be read; send a JPEG, a PNG or a WebP")
    except (OSError, ValueError, SyntaxError, MemoryError, Image.DecompressionBombError):
        _refuse(place, "this picture is damaged or cut off; send it again")
    upright.thumbnail((WEB, WEB))
    packed = BytesIO()
    upright.save(packed, "JPEG", quality=QUALITY)
    return Picture(packed.getvalue(), *upright.size)


def pixels_of(data: bytes) -> NDArray[np.uint8]:
    """Return the pixels of a picture that is kept, shape (rows, columns, 3)."""
    with Image.open(BytesIO(data), formats=KINDS) as image:
        return np.asarray(image.convert("RGB"))


def written(pixels: NDArray[np.uint8]) -> bytes:
    """Return pixels as a picture file."""
    packed = BytesIO()
    Image.fromarray(pixels).save(packed, "JPEG", quality=QUALITY)
    return packed.getvalue()


def _refuse(place: str, message: str) -> NoReturn:
    raise InputError(Fault(place, message))
