"""The figures of a reading as a screen shows them, each with the key of its reason."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from pebble_wheel.mechanics.backwards.solve import Handle
from pebble_wheel.mechanics.counts import wraps_per_inch
from pebble_wheel.mechanics.reading.draws import VARIANTS
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.mechanics.strand import kinds
from pebble_wheel.mechanics.strand.state import NestState
from pebble_wheel.mechanics.strand.structure import Bought, Chain, CoreSpun, Leaf, Ply, Single, Wrapped
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.hands import behind_words
from pebble_wheel.wording.names import Row, rest_words
from pebble_wheel.workshop.refit import Held

MEASURED_WELL = 0.1
"""How far the linear density of a single may be off without being worth a word."""

OPEN_LOOP = 0.25
"""Turns of a hung loop that cannot be told from none."""


class Figure(NamedTuple):
    """One figure with its label."""

    label: str
    value: str
    why: str
    """Key of its reason, with the path of the part."""
    sense: str = ""
    """``z`` or ``s`` where it has a direction."""
    strong: bool = False


def _twist(label: str, turns_per_m: float, why: str, display: Display) -> Figure:
    value, sense = _turned(turns_per_m, display)
    return Figure(label, value, why, sense)


def _turned(turns_per_m: float, display: Display) -> tuple[str, str]:
    """Return a twist, and its direction as a figure has it."""
    return display.turned(turns_per_m), "z" if turns_per_m > 0 else "s"


def part_figures(row: Row, reading: Reading, display: Display) -> list[Figure]:
    """Return what is to be said of the part in hand."""
    level, path = row.level, row.path
    found = [_twist("twist as made", level.turns_per_m_as_made, f"as-made@{path}", display)]
    if path != "yarn":
        found.append(_twist("twist now", level.turns_per_m_now, f"now@{path}", display))
    single = reading.singles.get(level.path)
    if single:
        found.append(Figure("on the bobbin", display.length(single.diameter), f"bobbin@{path}"))
    found.append(Figure("fibres lean" if single else "leans", display.angle(level.angle), f"lean@{path}"))
    if path != "yarn":
        found += [
            Figure("thick, in the yarn", display.length(level.diameter), f"thick@{path}"),
            Figure(
                f"per {display.long_word}",
                f"{level.metres_per_metre:.2f} {display.settings.long_unit}",
                f"metres@{path}",
            ),
            Figure(f"in {display.hundred}", display.grams_in_100(level.grams_per_100_m), f"grams@{path}"),
        ]
    return found


@dataclass(frozen=True)
class Movable:
    """A reading of the whole that can be held or moved."""

    handle: Handle
    label: str
    value: str


def what_if(held: Iterable[Held], display: Display) -> list[Movable]:
    """Return the readings that can be held or moved, as they would be typed."""
    return [_movable(each.handle, each.value, display) for each in held]


def _movable(handle: Handle, value: float, display: Display) -> Movable:
    match handle:
        case "size":
            return Movable(handle, "finished", f"{display.settings.wraps(float(wraps_per_inch(value))):.1f} wpi")
        case "twist":
            return Movable(handle, "singles’ twist factor", f"{value:.1f}")
        case "angle":
            return Movable(
                handle, "angle", f"{90 - value if display.settings.angle_from == 'crosswise' else value:.1f}°"
            )
        case "ratio":
            return Movable(handle, "times balanced", f"{value:.2f}")


def yarn_figures(reading: Reading, display: Display) -> list[Figure]:
    """Return what is to be said of the whole, beside the picture."""
    top = reading.levels[0]
    found = [_twist("twist", top.turns_per_m_as_made, "as-made@yarn", display)]
    if not isinstance(top.node, Leaf):
        found.append(Figure("angle", display.angle_range(reading.angle_band), "lean@yarn"))
        found.append(Figure("take-up", f"{100 * top.take_up:.1f} %", "take-up@yarn"))
    plied = "as spun" if isinstance(top.node, Leaf) else "as plied"
    found.append(Figure(plied, display.wpi_range(reading.wpi_as_plied), "wpi@yarn"))
    found.append(Figure("finished", display.wpi_range(reading.wpi_finished), "wpi-finished@yarn", strong=True))
    if display.by_card:
        found.append(Figure("truly", display.true_range(reading.wpi_finished), "wpi-finished@yarn"))
    return found


def rest_figures(reading: Reading, display: Display) -> list[Figure]:
    """Return the twist to rest by energy and by the schools; of what cannot be compared, its fold on itself."""
    balance = reading.balance
    found = []
    if not (reading.schools or np.isfinite(balance.ratio)):
        return [_twist("fresh ply-back", balance.fold_turns_per_m, "loop@yarn", display)]
    found.append(Figure("rests by energy at", rest_words(balance, display), "energy@yarn", strong=True))
    if np.isfinite(balance.ratio):
        found.append(Figure("yours is", f"{balance.ratio:.2f} ×", "ratio@yarn"))
    return found + [
        Figure(school.name, display.twist(school.turns_per_m), f"{school.name}@yarn") for school in reading.schools
    ]


def loop_figure(reading: Reading, display: Display) -> Figure:
    """Return how far a length hung up turns."""
    turns, hung_up = display.hung_turns(reading.balance.loop_turns), f"{display.hung} hung up"
    if not np.isfinite(turns):
        return Figure(hung_up, "it would jam", "loop@yarn")
    if abs(turns) < OPEN_LOOP:
        return Figure(hung_up, "open", "loop@yarn")
    sense = "Z" if turns > 0 else "S"
    counted = f"{abs(turns):.0f}" if abs(turns) >= 3 else f"{abs(turns):.1f}"
    return Figure(hung_up, f"{counted} turns {sense}", "loop@yarn", sense.lower())


def size_figures(reading: Reading, display: Display) -> list[Figure]:
    """Return thickness, grist and weight class."""
    return [
        Figure("thick, as plied", display.length_range(reading.diameter_as_plied), "thick@yarn"),
        Figure("thick, finished", display.length_range(reading.diameter_finished), "finished@yarn"),
        Figure("grist, as plied", display.grist(reading.resultant_tex), "grist@yarn"),
        Figure("grist, finished", display.grist(reading.finished_tex), "grist-finished@yarn"),
        Figure("weight class", display.weight_classes(reading.wpi_finished), "class@yarn"),
        Figure("full of turns", f"{100 * reading.jamming:.0f} %", "jamming@yarn"),
    ]


def spinning_figures(row: Row, reading: Reading, display: Display) -> list[Figure]:
    """Return a spinner's own measures of the single in hand; nothing for another part."""
    single = reading.singles.get(row.level.path)
    if not single or not isinstance(row.level.node, Single):
        return []
    tex, path = float(row.level.node.tex), row.path
    low, high = single.usual_factor
    return [
        Figure("grist", display.grist(tex), f"grist@{path}"),
        Figure("wraps", display.gauge(single.diameter), f"wraps@{path}"),
        Figure("fibres across", f"{single.fibres_across:.0f}", f"fibres@{path}"),
        Figure(f"twist factor, usual {low:.0f}–{high:.0f}", f"{single.twist_factor:.0f}", f"factor@{path}"),
        Figure("turns per staple", f"{single.turns_per_staple:.1f}", f"staple@{path}"),
        _twist("fresh ply-back", single.ply_back_turns_per_m, f"ply-back@{path}", display),
    ]


def level_columns(display: Display) -> list[tuple[str, str]]:
    """Return the columns of the table of levels: the key of the reason, and the heading."""
    long = display.settings.long_unit
    return [
        ("as-made", "as made"),
        ("now", "now"),
        ("at-rest", "at rest"),
        ("lean", "leans"),
        ("take-up", "take-up"),
        ("thick", "thick"),
        ("metres", f"{long} per {long}"),
        ("grams", f"in {display.hundred}"),
    ]


def level_figures(row: Row, display: Display) -> list[Figure]:
    """Return one strand in the columns of :func:`level_columns`."""
    level, rest = row.level, row.level.at_balance
    values = [
        _turned(level.turns_per_m_as_made, display),
        _turned(level.turns_per_m_now, display),
        ("–", "") if rest is None else _turned(float(rest.twist_now), display),
        (display.angle(level.angle), ""),
        (f"{100 * level.take_up:.1f} %", ""),
        (display.length(level.diameter), ""),
        (f"{level.metres_per_metre:.2f}", ""),
        (display.grams_in_100(level.grams_per_100_m), ""),
    ]
    return [
        Figure(words, value, f"{key}@{row.path}", sense)
        for (value, sense), (key, words) in zip(values, level_columns(display), strict=True)
    ]


def sure_words(reading: Reading) -> str:
    """Return what the ranges hold, and what they were worked out from."""
    said = f"Ranges hold 8 lengths of 10: {VARIANTS:,} variants. {behind_words(reading.constants, reading.node)}"
    if any(float(level.node.size_off) > MEASURED_WELL for level in reading.levels if isinstance(level.node, Single)):
        said += " They are wide because a card, or a range, said how thick a single is: weigh a length of it."
    return said


def kind_figures(row: Row, display: Display) -> list[Figure]:
    """Return what only the kind of the part in hand has."""
    level, path = row.level, row.path
    if not isinstance(level.now, NestState):
        return []
    match level.node:
        case Chain():
            links = kinds.chain(level.now)
            per_long = links.links_per_m * display.shorter
            return [
                Figure(f"links in a {display.long_word}", f"{per_long:.1f}", f"links@{path}"),
                Figure("at a link", f"{links.bump:.2f}× as thick", f"bump@{path}"),
                Figure("overlaps take", f"{links.overlap_share:.1%} more", f"overlap@{path}"),
                Figure("colours mix over", display.metres(links.mixed_over / 1000), f"legs@{path}"),
            ]
        case CoreSpun():
            spun = kinds.core_spun(level.now)
            return [
                Figure("core covered", f"{spun.coverage:.0%}", f"covered@{path}"),
                Figure(f"wrap in a {display.long_word}", display.per_long(spun.wrap_grams_per_m), f"wrap@{path}"),
                Figure("core twist", f"{spun.core_change:+.0%}", f"core@{path}"),
            ]
        case Wrapped():
            wound = kinds.wrapped(level.now)
            return [
                Figure(*display.in_short("coils", wound.coils_per_cm), f"coils@{path}"),
                Figure("coils packed", f"{wound.coverage:.0%}", f"packed@{path}"),
                Figure("coils stand off", display.length(wound.coil_radius), f"coil@{path}"),
            ]
        case Single() | Bought() | Ply():
            return [Figure("full of turns", f"{100 * float(level.now.jamming):.0f} %", f"jamming@{path}")]
