"""By what a drawing is known: the design, and a mark of all that works it out and draws it."""

import binascii
import hashlib
import zlib
from base64 import urlsafe_b64decode, urlsafe_b64encode
from functools import lru_cache
from pathlib import Path

from pydantic import TypeAdapter, ValidationError

import pebble_wheel
from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.mechanics.finish.knit import Knit, before_and_after
from pebble_wheel.mechanics.reading.constants import Middle
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


def strands_address(design: Design, middle: Middle | None = None, at: float | None = None) -> str:
    """Return where the strands of a design are given; whatever its name, it is the same yarn.

    Args:
        design: whose.
        middle: about what it is reckoned, where samples have taught it.
        at: which piece, mm from its beginning; None for one in which a colour changes.
    """
    text = write_design(design.model_copy(update={"name": "yarn", "version": 1, "sections": None}), close=True)
    hands = f"&hands={_written(_MIDDLE.dump_json(middle))}" if middle else ""
    place = "" if at is None else f"&at={at:.1f}"
    return f"/strands/{drawn_by().hex()}?yarn={_written(text.encode())}{hands}{place}"


def sequence_address(design: Design, middle: Middle | None, at: float, wide: float) -> str:
    """Return where a window on a yarn that changes along its length is given.

    Args:
        design: whose.
        middle: about what it is reckoned, where samples have taught it.
        at: middle of the window [mm].
        wide: how much is seen [mm].
    """
    text = write_design(design.model_copy(update={"name": "yarn"}), close=True)
    hands = f"&hands={_written(_MIDDLE.dump_json(middle))}" if middle else ""
    return f"/sequences/{drawn_by().hex()}?yarn={_written(text.encode())}{hands}&at={at:.2f}&wide={wide:.2f}"


def swatch_address(design: Design, washed: bool, middle: Middle | None = None) -> str:
    """Return where a knit row of a design is given."""
    return f"{strands_address(design, middle).replace('strands', 'swatches', 1)}&washed={int(washed)}"


_MIDDLE = TypeAdapter(Middle)


def _written(told: bytes) -> str:
    return urlsafe_b64encode(zlib.compress(told)).decode()


def swatches_of(reading: Reading) -> tuple[Knit, Knit]:
    """Return the plain knit to start from with a yarn, off the needles and once washed."""
    plied, finished = reading.diameter_as_plied.p50, reading.diameter_finished.p50
    return before_and_after(float(wraps_per_inch(finished)), plied, finished / plied)


def written_in(yarn: str) -> Design:
    """Return the design that an address names.

    Raises:
        InputError: where it names none.
    """
    return read_design(_read(yarn))


def hands_in(hands: str) -> Middle | None:
    """Return about what is reckoned, as an address says it; None where it says nothing.

    Raises:
        InputError: where it says what no hands are.
    """
    if not hands:
        return None
    try:
        middle = _MIDDLE.validate_json(_read(hands))
    except ValidationError:
        raise InputError(Fault("hands", "this address names no hands")) from None
    told = (middle.bend_to_twist, middle.set_share, *(each for _, *factors in middle.singles for each in factors))
    if not all(0 <= each <= MOST_OTHERWISE for each in told):
        raise InputError(Fault("hands", "this address names no hands"))
    return middle


MOST_OTHERWISE = 20.0
"""Times that hands can do otherwise than is usual."""


def _read(written: str) -> bytes:
    try:
        return zlib.decompressobj().decompress(urlsafe_b64decode(written), MOST_TEXT)
    except (zlib.error, binascii.Error, ValueError):
        raise InputError(Fault("yarn", "this address names no yarn")) from None
