"""Yarn in a photo in words: what was measured, how sure, and what to do where it cannot be told."""

import math

from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.photographed import TOO_LONG, Figure, Figures

CANNOT = "Cannot tell."
REFUSED_WORDS: dict[str, str] = {
    "no-yarn": "No yarn lies across the picture. Lay one strand of it straight from side to side.",
    "too-small": "Too few pixels across it. Go nearer, until a strand fills 20 pixels and more.",
    "low-contrast": "It is too like its ground. Lay it on the card's light or dark strip, plain and matte.",
    "halo": "A halo, a shadow or the ground hides its edges. Use the other ground, and light along the yarn.",
    "either-way": "Its strands lean no way that is clear. Focus on the yarn, and light it along, not across.",
    "halves-differ": "Its two halves tell different turns. Lay it straight, with eight crossings or more in view.",
    "no-lean": "Its fibres show no lean. Go nearer, or mark a fibre by hand.",
    TOO_LONG: "It took too long to look at. Mark it by hand, or send a smaller picture.",
}
"""Why looking cannot tell something, and what to do."""

TRIED = "Looking was tried on simulated photos only: check what is drawn over yours, and put it right."
TAKE_CARE = (
    "Fill the frame; 20 pixels and more across each strand.",
    "A plain matte ground, clearly lighter or darker.",
    "Light along the yarn, not across.",
    "A ruler, the card's square or a bank card beside it, at the same height.",
    "The phone parallel; 8 to 10 crossings in view; yarn not stretched.",
)
MARKS_TITLE, FOUND_TITLE = "What is marked in the photo", "What looking found"
UNSCALED = "Set both ends of the scale first: a ruler's marks, the square (10 mm) or a bank card (85.6 mm)."
NOT_YET = "Not measured yet: drag its marks onto the yarn, or look."


def photo_lines(figures: Figures, strands: int, display: Display) -> list[tuple[str, str]]:
    """Return what marks come to: names and figures with how far pointing may be off."""
    if figures.px_per_mm is None:
        return []
    lines = [("Scale", f"{figures.px_per_mm.value:.1f} pixels to a mm ± {_share(figures.px_per_mm)}")]
    if figures.turns:
        turned = display.twist(figures.turns.value)
        lines.append(("Turns", f"{turned} ± {_share(figures.turns)}{f', {figures.way}' if figures.way else ''}"))
    elif figures.way:
        lines.append(("Direction", figures.way))
    if figures.apparent:
        lines.append(("Width of its outline", f"{display.length(figures.apparent.value)} ± {_share(figures.apparent)}"))
    if figures.enveloping and strands > 1:
        lines.append(
            ("Width over its bumps", f"{display.length(figures.enveloping.value)} ± {_share(figures.enveloping)}")
        )
    if figures.centre:
        name = "Angle of a fibre" if strands == 1 else "Angle of strands' middle lines"
        lines.append((name, _angle(figures.centre, display)))
    if figures.surface and strands > 1:
        lines.append(("Angle on its outside", _angle(figures.surface, display)))
    return lines


def _share(figure: Figure) -> str:
    return f"{100 * figure.off / figure.value:.1f} %"


def _angle(figure: Figure, display: Display) -> str:
    angle = display.degrees(math.radians(figure.value))
    return f"{angle:.1f}° ± {max(figure.off, 0.1):.1f}° {display.angle_words}"


def photo_words(figures: Figures, display: Display) -> str:
    """Return a photo's figures in a line."""
    said = []
    if figures.turns:
        said.append(f"{display.twist(figures.turns.value)} {figures.way}".strip())
    if figures.apparent:
        said.append(display.length(figures.apparent.value))
    if figures.centre:
        said.append(display.angle(math.radians(figures.centre.value)))
    return ", ".join(said) or UNSCALED


def uneven_words(share: float) -> str:
    """Return how much a yarn's width varies along it."""
    return f"Along it its width varies by ± {share:.0%}."
