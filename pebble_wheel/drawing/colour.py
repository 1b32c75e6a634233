"""Colour as pictures: a braid laid out, the whole yarn as one strip, a skein, and cloth."""

from base64 import b64encode
from io import BytesIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from pebble_wheel.drawing.svg import group, tag, words
from pebble_wheel.mechanics.arrays import FloatArray

BRAID, BRAID_HIGH = 1000.0, 74.0
"""Pixels of a braid, along and across."""

LINES, LINE_LONG, LINE_HIGH, LINE_APART = 8, 1000.0, 17.0, 6.0
"""Lines in which the whole yarn is laid, and their size."""

SHADES, FINE = 128, 17
"""Colours of a picture that are told apart, and points across a strip."""

ROUNDS, ARCS = 18, 36
"""Rounds of a skein that are drawn, and pieces of each."""


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


def strip_svg(colours: NDArray[np.uint8], shares: FloatArray, at: float, title: str, lines: int = LINES) -> str:
    """Return a whole yarn as one strip laid in lines, with what shows of every strand across it.

    Args:
        colours: sRGB along the yarn, of each strand that shows, shape (strands, places, 3).
        shares: of what is seen, of each.
        at: share of the yarn at which it is seen close; none below zero.
        title: what it shows, in words.
        lines: in which it is laid.
    """
    places = colours.shape[1]
    per_line = -(-places // lines)
    middles = (np.arange(FINE) + 0.5) / FINE
    across = colours[np.minimum(np.searchsorted(np.cumsum(shares), middles), len(colours) - 1)]
    parts = []
    for line in range(lines):
        own = across[:, line * per_line : (line + 1) * per_line]
        wide = LINE_LONG * own.shape[1] / per_line
        parts.append(_picture(own, 0, line * (LINE_HIGH + LINE_APART), wide, LINE_HIGH))
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


def _picture(colours: NDArray[np.uint8], x: float, y: float, wide: float, high: float) -> str:
    """Return points of colour, shape (rows, points, 3), as a picture of a size."""
    packed = BytesIO()
    Image.fromarray(np.ascontiguousarray(colours)).quantize(SHADES).save(packed, "PNG", compress_level=4)
    href = f"data:image/png;base64,{b64encode(packed.getvalue()).decode()}"
    own = {"href": href, "preserveAspectRatio": "none", "class_": "stitches"}
    return tag("image", x=x, y=y, width=wide, height=high, **own)


def skein_svg(colours: list[str], title: str) -> str:
    """Return a skein seen from the side: rounds beside each other, coloured as the yarn goes round them.

    Args:
        colours: along the yarn, as many as all rounds have pieces.
        title: what it shows, in words.
    """
    parts = []
    turn = np.linspace(0, 2 * np.pi, ARCS + 1)
    for each in range(ROUNDS):
        out = 1 - 0.42 * each / ROUNDS
        x = 150 + 140 * np.sign(np.cos(turn)) * np.abs(np.cos(turn)) ** 0.8 * (0.86 + 0.14 * out)
        y = 70 + 62 * np.sin(turn) * out
        for arc in range(ARCS):
            d = f"M{x[arc]:.1f} {y[arc]:.1f}L{x[arc + 1]:.1f} {y[arc + 1]:.1f}"
            parts.append(tag("path", d=d, stroke=colours[each * ARCS + arc]))
    ties = [tag("path", d=f"M{x} {y}v30", class_="tie") for x, y in ((84, 2), (216, 2), (84, 108), (216, 108))]
    return tag(
        "svg",
        words("title", title) + group(parts, class_="rounds") + group(ties),
        viewBox="0 0 300 140",
        role="img",
        class_="wound-skein",
    )


def cloth_svg(colours: NDArray[np.uint8], wide: float, high: float, woven: bool, title: str) -> str:
    """Return a piece of cloth, its stitches or crossings at their places, the first row at the foot.

    Args:
        colours: sRGB of both legs of every stitch, shape (rows, stitches, 2, 3).
        wide: a stitch [mm].
        high: a row [mm].
        woven: whether it is woven; else knit.
        title: what it shows, in words.
    """
    rows, stitches = colours.shape[:2]
    across, up = 10.0, 10.0 * high / wide
    long, tall = stitches * across, rows * up
    patch = _picture(colours[::-1].reshape(rows, 2 * stitches, 3), 0, 0, long, tall)
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
