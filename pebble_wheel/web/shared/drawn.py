"""By what a drawing is known: the design, and a mark of all that works it out and draws it."""

import binascii
import hashlib
import zlib
from base64 import urlsafe_b64decode, urlsafe_b64encode
from functools import lru_cache
from pathlib import Path

import pebble_wheel
from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.mechanics.finish.knit import Knit, before_and_after
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.design import Design, read_design, write_design
from pebble_wheel.notation.faults import Fault, InputError

MOST_TEXT = 1_000_000
"""Bytes of a design file."""


@lru_cache(maxsize=1)
def drawn_by() -> bytes:
    """Return a mark of all that works out and draws a yarn: with other mechanics it is another picture."""
    home, digest = Path(pebble_wheel.__file__).parent, hashlib.blake2b(digest_size=6)
    for room in ("mechanics", "drawing"):
        for file in sorted((home / room).rglob("*.py")):
            digest.update(file.read_bytes())
    return digest.digest()


def strands_address(design: Design) -> str:
    """Return where the strands of a design are given; whatever its name, it is the same yarn."""
    text = write_design(design.model_copy(update={"name": "yarn"}))
    return f"/strands/{drawn_by().hex()}?yarn={urlsafe_b64encode(zlib.compress(text.encode())).decode()}"


def swatch_address(design: Design, washed: bool) -> str:
    """Return where a knit row of a design is given."""
    return f"{strands_address(design).replace('strands', 'swatches', 1)}&washed={int(washed)}"


def swatches_of(reading: Reading) -> tuple[Knit, Knit]:
    """Return the plain knit to start from with a yarn, off the needles and once washed."""
    plied, finished = reading.diameter_as_plied.p50, reading.diameter_finished.p50
    return before_and_after(float(wraps_per_inch(finished)), plied, finished / plied)


def written_in(yarn: str) -> Design:
    """Return the design that an address names.

    Raises:
        InputError: where it names none.
    """
    try:
        text = zlib.decompressobj().decompress(urlsafe_b64decode(yarn), MOST_TEXT)
    except (zlib.error, binascii.Error, ValueError):
        raise InputError(Fault("yarn", "this address names no yarn")) from None
    return read_design(text)
