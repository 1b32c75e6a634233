"""Colour in words: preparations, what becomes of them, mud and contrast, stripes and pools; always with a figure."""

from collections.abc import Mapping

from pebble_wheel.mechanics.colour.fabric import Told
from pebble_wheel.mechanics.colour.seen import MUDDY, POLED
from pebble_wheel.mechanics.strand.structure import CHAIN_LEGS
from pebble_wheel.notation.colour import Eyes
from pebble_wheel.notation.colouring import Cloth, Colouring, Distance, Prepared, Way
from pebble_wheel.notation.lot import Edges, Order
from pebble_wheel.wording.display import Display
from pebble_wheel.workshop.colour import Figures

WAY_WORDS: dict[Way, str] = {
    "whole": "as it is",
    "other-end": "from the other end",
    "strips": "in strips, lengthwise",
    "broken": "broken and shuffled",
    "by-colour": "colour by colour",
}
CLOTH_WORDS: dict[Cloth, str] = {"round": "knit round", "flat": "knit flat", "weave": "woven"}
DISTANCE_WORDS: dict[Distance, str] = {"reading": "read", "arm": "at arm’s length", "room": "across a room"}
EYES_WORDS: dict[Eyes, str] = {
    "own": "all colours",
    "protan": "red seen dimly",
    "deutan": "green like red",
    "tritan": "blue like green",
}
EDGES_WORDS: dict[Edges, str] = {"sharp": "meet sharply", "blended": "run into each other"}
ORDER_WORDS: dict[Order, str] = {"turn": "in turn", "random": "at random", "heather": "blended on cards"}
ALIKE, ENDS, FRACTAL = "all alike", "one from the other end", "fractal: whole, 3 strips, 9"
PRESETS = {"alike": ALIKE, "ends": ENDS, "fractal": FRACTAL}
STRIP, SKEIN, CLOTH_TITLE = "The whole yarn, laid in lines", "A skein of it", "Cloth of it"
CLOSE = "The yarn, close"
BRAID = "braid"
WITHOUT_LOTS = "No lot is planned for this yarn: its colours are those typed where it is constructed."
BESIDE_WORDS = {
    "chain": "chain",
    "ply-3": "3-ply",
    "ply-2": "2-ply",
    "fractal": "fractal 3-ply",
    "core-spun": "core-spun",
    "single": "single",
}

LOOPS_MIX = 2
"""Links of a chain that a run of colour has to last, or the chain mixes it (common practice, no source)."""


def braid_words(name: str, grams: str) -> str:
    """Return what a braid is."""
    return f"{name}, {grams}" if grams else name


def split_words(way: Prepared, grams: str, runs: str) -> str:
    """Return how one strand's fibre is split, and how long its colours run; nothing of one colour's runs."""
    run = f"; a colour runs {runs}" if runs else "; of one colour"
    match way.way:
        case "strips":
            return f"{grams}, in {way.parts} strips{run}"
        case "broken":
            return f"{grams}, in {way.parts} pieces{run}"
        case "whole" | "other-end" | "by-colour":
            return f"{grams}{run}"


def prepared_words(colouring: Colouring) -> str:
    """Return how the fibre of each strand is prepared for its colours; empty where all of it is spun as it is."""
    said = []
    for place, each in enumerate(colouring.strands, 1):
        match each.way:
            case "strips" | "broken":
                said.append(
                    f"strand {place} in {each.parts} {'strips' if each.way == 'strips' else 'pieces, shuffled'}"
                )
            case "other-end" | "by-colour":
                said.append(f"strand {place} {WAY_WORDS[each.way]}")
            case "whole":
                continue
    return f"For its colours: {', '.join(said)}." if said else ""


def runs_words(figures: Figures, colours: tuple[str, ...], display: Display) -> str:
    """Return how much of a yarn is of one colour, and how long it stays so."""
    if not figures.runs:
        return "No piece of it is of one colour: every strand shows its own."
    shortest, longest = min(figures.runs.values()), max(figures.runs.values())
    if len(colours) == 1 or len(set(figures.runs)) == 1 == len(colours):
        return "All of it is of one colour."
    ends = (
        display.metres(longest)
        if longest < 1.3 * shortest
        else f"{display.metres(shortest)} to {display.metres(longest)}"
    )
    return f"{100 * figures.solid:.0f} % of it is of one colour, {ends} at a time."


def mud_words(figures: Figures) -> str:
    """Return whether colours keep their strength, with the figure."""
    kept = f"{100 * figures.kept:.0f} %"
    if figures.kept < MUDDY:
        return f"Muddy from afar: {kept} of their colourfulness is left where they mix."
    return f"Colours stay clear: {kept} of their colourfulness is left where they mix."


def contrast_words(figures: Figures) -> str:
    """Return how strongly a yarn is poled, with the figure."""
    poled = "a barber pole" if figures.contrast > POLED else "calm"
    return f"Side by side: {poled}, {100 * figures.contrast:.0f} of 100 apart."


def cloth_words(told: Told, rows: Mapping[str, float], turned: bool) -> list[str]:
    """Return what cloth looks like, and how many rows a colour holds."""
    each = "row" if not turned else "round"
    held = [f"{count:.1f} {each}s" if count >= 0.95 else f"{100 * count:.0f} % of a {each}" for count in rows.values()]
    low, high = (held[0], held[-1]) if held else ("", "")
    first = _pattern_words(told, each)
    if not held:
        return [first]
    return [first, f"A colour holds {low}." if low == high else f"A colour holds {low} to {high}."]


def _pattern_words(told: Told, each: str) -> str:
    match told.pattern:
        case "even":
            return "Even: it neither stripes nor pools."
        case "stripes":
            return f"It stripes: {100 * told.between_rows:.0f} % of what differs lies between {each}s."
        case "pools":
            return f"It pools: {100 * told.in_columns:.0f} % of what differs in a {each} stands above itself."
        case "mottled":
            return f"Mottled: {100 * told.between_rows:.0f} % of what differs lies between {each}s."


def chain_words(run_mm: float, loop_mm: float, display: Display) -> str:
    """Return whether a chain mixes its colours: where a run of single is shorter than two links; empty where not."""
    if run_mm >= LOOPS_MIX * CHAIN_LEGS * loop_mm:
        return ""
    least = display.metres(LOOPS_MIX * CHAIN_LEGS * loop_mm / 1000)
    return (
        f"Runs of {display.metres(run_mm / 1000)} are shorter than two links, {least} of single: the chain mixes them."
    )


def drift_words(off: float, metres: float, display: Display) -> str:
    """Return how far colours that are meant to meet come apart, where strands are spun unlike."""
    apart = display.metres(metres)
    return f"As if strands were spun alike: {100 * off:.0f} % off, and colours are {apart} apart at the end."


def next_words(metres: float, display: Display) -> str:
    """Return where another skein is begun."""
    return f"Begin the next skein of it {display.metres(metres)} in: it goes on as this one ends."


def skeins_words() -> str:
    """Return what to do with skeins that are not alike."""
    return "Skeins that are not alike: two rows of each, in turn."
