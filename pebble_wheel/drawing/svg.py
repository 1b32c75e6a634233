"""The few pieces of SVG that the drawings share."""

from collections.abc import Iterable
from functools import lru_cache
from html import escape

from pebble_wheel.mechanics.counts import INCH

CSS_PX_PER_MM = 96 / INCH
"""Of a screen at its nominal size, by the definition of the CSS pixel."""


def words(name: str, text: str, /, **attributes: str | float) -> str:
    """Return an element holding plain text."""
    return tag(name, escape(text), **attributes)


def tag(name: str, inside: str | None = None, /, **attributes: str | float) -> str:
    """Return an element; underscores in attribute names become hyphens, numbers are written short."""
    written = "".join([f' {_hyphened(key)}="{_short(value)}"' for key, value in attributes.items()])
    return f"<{name}{written}/>" if inside is None else f"<{name}{written}>{inside}</{name}>"


def group(parts: Iterable[str], **attributes: str | float) -> str:
    """Return the parts in one group."""
    return tag("g", "".join(parts), **attributes)


@lru_cache(maxsize=4096)
def mix(colour: str, other: str, share: float) -> str:
    """Return a colour with a share of another in it, mixed in sRGB; for shading, not for blending fibres."""
    pairs = zip(bytes.fromhex(colour[1:]), bytes.fromhex(other[1:]), strict=True)
    return "#" + bytes(round(own + share * (far - own)) for own, far in pairs).hex()


@lru_cache(maxsize=256)
def _hyphened(name: str) -> str:
    return name.rstrip("_").replace("_", "-")


def _short(value: str | float) -> str:
    return escape(value) if isinstance(value, str) else f"{value:.2f}".rstrip("0").rstrip(".")
