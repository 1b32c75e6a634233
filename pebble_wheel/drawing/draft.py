"""A draft to scale: from the orifice to the hand, with a mark for every beat, and every ten centimetres under it."""

import numpy as np

from pebble_wheel.drawing.svg import tag, words

WIDE, HIGH = 1000.0, 64.0
LEAST = 1000.0
"""mm that the whole width stands for, at the least."""

STRAND, RULER = 22.0, 44.0
"""Where the strand lies, and the ruler under it."""

TENTH = 100.0


def draft_svg(draft_mm: float, beats: int, title: str) -> str:
    """Return a draft as long as it is beside a metre; what fills it is laid over it as the turns come in."""
    scale = WIDE / max(draft_mm, LEAST)
    long = draft_mm * scale
    marks = [
        tag("path", d=f"M{long * place / beats:.1f} {STRAND - 9}v18", class_="draft-beat")
        for place in range(1, beats + 1)
    ]
    ruler = "".join(
        f"M{each * scale:.1f} {RULER}v{8 if round(each / TENTH) % 5 else 14}"
        for each in np.arange(0, WIDE / scale + 1, TENTH)
    )
    return tag(
        "svg",
        words("title", title)
        + tag("path", d=f"M0 {STRAND}h{long:.1f}", class_="draft-strand")
        + tag("rect", x=0, y=STRAND - 6, width=f"{long:.1f}", height=12, class_="draft-turned", id="draft-turned")
        + "".join(marks)
        + tag("circle", cx=4, cy=STRAND, r=8, class_="draft-orifice")
        + tag("path", d=f"M0 {RULER}h{WIDE}{ruler}", class_="draft-ruler"),
        viewBox=f"-6 0 {WIDE + 12:.0f} {HIGH:.0f}",
        role="img",
        class_="draft",
    )
