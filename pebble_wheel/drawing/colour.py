"""Colour as pictures: a braid laid out, the whole yarn as one strip, a skein, and cloth."""

from base64 import b64encode
from dataclasses import dataclass
from functools import lru_cache
from io import BytesIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.mechanics.arrays import FloatArray, IntArray

Bytes = NDArray[np.uint8]

BRAID, BRAID_HIGH = 1000.0, 74.0
"""Pixels of a braid, along and across."""

LINES, LINE_LONG, LINE_HIGH, LINE_APART = 8, 1000.0, 17.0, 6.0
"""Lines in which the whole yarn is laid, and their size."""

SHADES, FINE = 128, 17
"""Colours of a picture that are told apart, and points across a strip."""

CLEAR = SHADES
"""Number of the ink through which one sees."""

ROUNDS, ARCS = 18, 36
"""Rounds of a skein that are drawn, and pieces of each."""

SKEIN_WIDE, SKEIN_HIGH, FINER, ROUND_WIDE = 300, 140, 2, 4.4
"""Size of a skein, points to one of it, and how wide a round is."""


def braid_svg(ends: FloatArray, colours: list[str], blended: float, name: str, title: str) -> str:
    """Return a braid laid out from its beginning to its end, its bands as long as they are; their ends can be dragged.

    Args:
        ends: where each band ends, as a share of the whole.
        colours: of each band.
        blended: share of a band over which it runs into the next.
        name: unique in the page.
        title: what it shows, in words.
    """
    starts = np.concatenate([[0.0], ends[:-1]])
    stops = []
    for begin, end, colour in zip(starts, ends, colours, strict=True):
        soft = blended * (end - begin) / 2
        stops += [tag("stop", offset=f"{place:.4f}", stop_color=colour) for place in (begin + soft, end - soft)]
    fill = tag("linearGradient", "".join(stops), id=f"braid-{name}")
    plait = tag(
        "pattern",
        tag("path", d="M0 37C13 37 13 3 26 3S39 37 52 37M0 37C13 37 13 71 26 71S39 37 52 37", class_="plait"),
        id=f"plait-{name}",
        width=52,
        height=BRAID_HIGH,
        patternUnits="userSpaceOnUse",
    )
    body = f"M0 37C6 8 30 3 60 3H{BRAID - 60}C{BRAID - 30} 3 {BRAID - 6} 8 {BRAID} 37"
    body += f"C{BRAID - 6} 66 {BRAID - 30} 71 {BRAID - 60} 71H60C30 71 6 66 0 37z"
    grips = [
        tag("path", d=f"M{BRAID * end:.1f} 2V{BRAID_HIGH - 2}", class_="band-end", data_band=place, tabindex="-1")
        for place, end in enumerate(ends[:-1])
    ]
    return tag(
        "svg",
        words("title", title)
        + tag("defs", fill + plait)
        + tag("path", d=body, fill=f"url(#braid-{name})")
        + tag("path", d=body, fill=f"url(#plait-{name})")
        + group(grips),
        viewBox=f"0 0 {BRAID:.0f} {BRAID_HIGH:.0f}",
        preserveAspectRatio="none",
        role="img",
        class_="braid",
    )


def strip_svg(colours: Bytes, shares: FloatArray, at: float, title: str, lines: int = LINES) -> str:
    """Return a whole yarn as one strip laid in lines, with what shows of every strand across it.

    Args:
        colours: sRGB along the yarn, of each strand that shows, shape (strands, places, 3).
        shares: of what is seen, of each, shape (strands, places).
        at: share of the yarn at which it is seen close; none below zero.
        title: what it shows, in words.
        lines: in which it is laid.
    """
    places = colours.shape[1]
    per_line = -(-places // lines)
    middles = (np.arange(FINE) + 0.5) / FINE
    strand = np.minimum((middles[:, None, None] > np.cumsum(shares, axis=0)).sum(axis=1), len(colours) - 1)
    inks = _inks(colours)
    across = inks.numbers[strand, np.arange(places)]
    apart = round(FINE * LINE_APART / LINE_HIGH)
    laid = np.full((lines, FINE + apart, per_line), CLEAR, dtype=np.uint8)
    for line in range(lines):
        own = across[:, line * per_line : (line + 1) * per_line]
        laid[line, :FINE, : own.shape[1]] = own
    points = laid.reshape(-1, per_line)[:-apart]
    parts = [_picture(points, inks, 0, 0, LINE_LONG, lines * (LINE_HIGH + LINE_APART) - LINE_APART)]
    if at >= 0:
        lies_in, place = divmod(min(at, 0.9999) * places, per_line)
        x, y = place * LINE_LONG / per_line, lies_in * (LINE_HIGH + LINE_APART)
        parts.append(tag("rect", x=x - 4, y=y - 2.5, width=8, height=LINE_HIGH + 5, rx=2, class_="strip-at"))
    high = lines * (LINE_HIGH + LINE_APART) - LINE_APART
    return tag(
        "svg",
        words("title", title) + "".join(parts),
        viewBox=f"-5 -4 {LINE_LONG + 10:.0f} {high + 8:.0f}",
        role="img",
        class_="yarn-strip",
        preserveAspectRatio="none" if lines == 1 else "xMidYMid meet",
        data_lines=lines,
    )


@dataclass(frozen=True)
class _Inks:
    """Colours of a picture, so many as are told apart."""

    numbers: Bytes
    """Of the ink of every colour, as they were given."""
    palette: list[int]
    """sRGB of the inks, one after the other."""


def _inks(colours: Bytes) -> _Inks:
    """Return colours, shape (rows, points, 3), as inks."""
    image = Image.fromarray(np.ascontiguousarray(colours)).quantize(SHADES)
    palette = image.getpalette() or []
    return _Inks(np.asarray(image), palette[: 3 * SHADES] + [0] * (3 * (SHADES + 1) - min(len(palette), 3 * SHADES)))


def _picture(points: Bytes, inks: _Inks, x: float, y: float, wide: float, high: float) -> str:
    """Return points, numbers of inks of shape (rows, points), as a picture of a size."""
    packed = BytesIO()
    image = Image.fromarray(np.ascontiguousarray(points))
    image.putpalette(inks.palette)
    image.save(packed, "PNG", compress_level=1, transparency=CLEAR)
    href = f"data:image/png;base64,{b64encode(packed.getvalue()).decode()}"
    own = {"href": href, "preserveAspectRatio": "none", "class_": "stitches"}
    return tag("image", x=x, y=y, width=wide, height=high, **own)


@lru_cache(maxsize=1)
def _wound() -> IntArray:
    """Return the piece of yarn at every point of a skein, round by round, from 1; 0 where there is none."""
    turn = np.linspace(0, 2 * np.pi, ARCS + 1)
    image = Image.new("I", (SKEIN_WIDE * FINER, SKEIN_HIGH * FINER))
    pen, thick = ImageDraw.Draw(image), round(ROUND_WIDE * FINER)
    for each in range(ROUNDS):
        out = 1 - 0.42 * each / ROUNDS
        x = FINER * (150 + 140 * np.sign(np.cos(turn)) * np.abs(np.cos(turn)) ** 0.8 * (0.86 + 0.14 * out))
        y = FINER * (70 + 62 * np.sin(turn) * out)
        for arc in range(ARCS):
            piece = each * ARCS + arc + 1
            pen.line([(x[arc], y[arc]), (x[arc + 1], y[arc + 1])], piece, thick)
            pen.circle((x[arc + 1], y[arc + 1]), thick / 2 - 0.5, piece)
    return np.asarray(image).astype(np.int64)


def wound_svg(colours: Bytes, title: str) -> str:
    """Return a skein seen from the side: rounds beside each other, coloured as the yarn goes round them.

    Args:
        colours: sRGB along the yarn, of as many pieces as all rounds have, shape (pieces, 3).
        title: what it shows, in words.
    """
    inks = _inks(colours[None])
    points = np.concatenate([[CLEAR], inks.numbers[0]]).astype(np.uint8)[_wound()]
    picture = _picture(points, inks, 0, 0, SKEIN_WIDE, SKEIN_HIGH)
    ties = [tag("path", d=f"M{x} {y}v30", class_="tie") for x, y in ((84, 2), (216, 2), (84, 108), (216, 108))]
    return tag(
        "svg",
        words("title", title) + picture + group(ties),
        viewBox=f"0 0 {SKEIN_WIDE} {SKEIN_HIGH}",
        role="img",
        class_="wound-skein",
    )


def cloth_svg(tones: Bytes, shown: IntArray, wide: float, high: float, woven: bool, title: str) -> str:
    """Return a piece of cloth, its stitches or crossings at their places, the first row at the foot.

    Args:
        tones: sRGB along the yarn, of each strand that shows, shape (strands, places, 3).
        shown: which of these both legs of every stitch are, counted strand by strand, shape (rows, stitches, 2).
        wide: a stitch [mm].
        high: a row [mm].
        woven: whether it is woven; else knit.
        title: what it shows, in words.
    """
    rows, stitches = shown.shape[:2]
    across, up = 10.0, 10.0 * high / wide
    long, tall = stitches * across, rows * up
    inks = _inks(tones)
    patch = _picture(inks.numbers.ravel()[shown[::-1]].reshape(rows, 2 * stitches), inks, 0, 0, long, tall)
    half = across / 2
    mark = (
        tag("path", d=f"M0 0h{half}v{up / 2}h-{half}zM{half} {up / 2}h{half}v{up / 2}h-{half}z")
        if woven
        else tag("path", d=f"M0 {up * 0.05:.2f}L{half} {up * 0.85:.2f}L{across} {up * 0.05:.2f}")
        + tag("path", d=f"M{half} 0V{up}M0 0V{up}", class_="wale")
    )
    own = {"width": across, "height": up}
    pattern = tag(
        "pattern", mark, id="stitch", patternUnits="userSpaceOnUse", class_="woven" if woven else "looped", **own
    )
    over = tag("rect", width=long, height=tall, fill="url(#stitch)")
    return tag(
        "svg",
        words("title", title) + tag("defs", pattern) + patch + over,
        viewBox=f"0 0 {long:.0f} {tall:.1f}",
        role="img",
        class_="cloth",
    )
