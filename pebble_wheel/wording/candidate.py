"""One structure spun to an aim, as the screen hangs it beside the others."""

from dataclasses import dataclass

from pebble_wheel.mechanics.backwards.merits import Judged
from pebble_wheel.mechanics.backwards.solve import SIZES, Hindrance, Obstacle
from pebble_wheel.mechanics.strand.state import LeafState, State
from pebble_wheel.mechanics.strand.structure import Leaf, Single
from pebble_wheel.notation.aim import Aim
from pebble_wheel.wording.advice import Advice
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.making import StepRow, hours_words, step_rows
from pebble_wheel.workshop.aim import BASE_TEX, Candidate


@dataclass(frozen=True)
class Cell:
    """One telling figure."""

    value: str
    sense: str = ""


IN_SHORT: dict[Obstacle, str] = {
    "few-fibres": "too few fibres",
    "too-thin": "singles too thin",
    "staple": "drifts apart",
    "jammed": "too full of turns",
    "no-balance": "never rests",
    "out-of-reach": "out of reach",
    "grams": "not enough fibre",
}


def cells(found: Candidate, display: Display, owned: int = 0) -> dict[str, Cell]:
    """Return the telling figures of a candidate by their label, with the bobbins it wants where some are owned."""
    judged = found.judged
    aimed = Cell(IN_SHORT[found.hindrances[0].obstacle] if found.hindrances else "yes", "" if found.met else "missed")
    if judged is None:
        return {"as aimed": aimed}
    whole = judged.levels[0]
    spun = [level for level in judged.levels if isinstance(level.node, Single)]
    gauges = [f"{each.strands}×{_gauge(each.made, display)}" for each in spun]
    singles = " + ".join([*(each.removesuffix(" wpi") for each in gauges[:-1]), *gauges[-1:]]) or "–"
    return {
        "as aimed": aimed,
        **_bobbins(judged, owned),
        "singles": Cell(singles),
        "spun": _turns(spun[0].turns_per_m_as_made, display) if spun else Cell("–"),
        "laid": Cell("–") if isinstance(whole.node, Leaf) else _turns(whole.turns_per_m_as_made, display),
        "leans": Cell(display.angle(whole.angle)),
        "finished": Cell(display.wpi_range(judged.wpi_finished)),
        "makes": Cell(f"{display.metres(found.metres)} of {display.grams(found.grams)}"),
        "takes": Cell(hours_words(_hours(judged) * found.metres)),
    }


def _bobbins(judged: Judged, owned: int) -> dict[str, Cell]:
    """Return how many bobbins a structure wants at once, marked where fewer are owned; nothing where nobody said."""
    if not owned:
        return {}
    wants = bobbins_at_once(judged)
    return {
        "bobbins": Cell(f"{wants}, you own {owned}" if wants > owned else f"{wants}", "missed" if wants > owned else "")
    }


def bobbins_at_once(judged: Judged) -> int:
    """Return how many bobbins a structure wants at once: one for each strand of the last step, and one for the yarn."""
    return 1 + sum(level.strands for level in judged.levels if level.path.count(".") == 1)


def _gauge(state: State, display: Display) -> str:
    return display.gauge(float(state.bobbin_diameter if isinstance(state, LeafState) else state.diameter))


def _turns(turns_per_m: float, display: Display) -> Cell:
    sense = "Z" if turns_per_m > 0 else "S"
    return Cell(f"{display.twist(turns_per_m)} {sense}", sense.lower())


def _hours(judged: Judged) -> float:
    return sum(step.hours for step in judged.steps)


def steps_of(found: Candidate, display: Display) -> list[StepRow]:
    """Return how to make a candidate, the singles first."""
    return step_rows(found.judged.steps, found.metres, display) if found.judged else []


def in_the_way(found: Candidate, aim: Aim, display: Display) -> list[Advice]:
    """Return what stands in the way of an aim, why, and what to do; with the nearest that can be spun."""
    nearest = ""
    if found.judged:
        nearest = f" The nearest that can be spun is drawn: {display.wpi_range(found.judged.wpi_finished)} finished."
    return [_hindered(each, aim, display, nearest) for each in found.hindrances]


def _hindered(hindrance: Hindrance, aim: Aim, display: Display, nearest: str) -> Advice:
    text, why, do = _said(hindrance, aim, display)
    return Advice(hindrance.obstacle, text, why, do if hindrance.obstacle == "grams" else do + nearest)


def _said(hindrance: Hindrance, aim: Aim, display: Display) -> tuple[str, str, str]:
    value, limit = hindrance.value, hindrance.limit
    match hindrance.obstacle:
        case "few-fibres":
            return (
                f"The finest strand would have about {value:.0f} fibres across; {limit:.0f} are the least.",
                "With fewer, a strand cannot be drafted: it falls apart.",
                "Take fewer strands or a finer fibre, or aim thicker.",
            )
        case "too-thin":
            return (
                f"It wants singles of {display.gauge(value)}; the thinnest you would spin is {display.gauge(limit)}.",
                "More strands to the same thickness want finer ones.",
                "Take fewer strands, or aim thicker.",
            )
        case "staple":
            return (
                f"Only {value:.1f} turns would hold each staple; {limit:.0f} are the least.",
                "So thick a single takes so little twist that its fibres slide apart.",
                "Aim firmer or thinner, take more strands, or a longer staple.",
            )
        case "jammed":
            return (
                f"The strands would be {value:.0%} full of turns.",
                "Past that no further turn can be laid in.",
                "Aim softer or quieter: here the twist is eased as far as it must be.",
            )
        case "no-balance":
            return (
                "These strands find no rest with that much twist.",
                "They are so lively that they would jam before their torque is spent.",
                "Aim softer: here the twist is eased as far as it must be.",
            )
        case "out-of-reach" if value < limit:
            return (
                "What it is laid on is thicker by itself.",
                "A core or a binder stays what it is, however little is spun on it.",
                "Take a thinner core or binder in the construction screen.",
            )
        case "out-of-reach":
            return (
                "So thick a yarn is past what can be reckoned here.",
                f"Beyond some {display.grist(SIZES[-1] * BASE_TEX)} a single is a rope of roving, not a spun strand.",
                "Aim thinner, or take more strands.",
            )
        case "grams":
            made = f"{display.grams(aim.grams or 0)} make {display.metres(value)}"
            return (
                f"{made} of the {display.metres(limit)} wanted.",
                "Metres, grams and thickness hang together; waste is counted in.",
                "Make less of it, aim thinner, or take more fibre.",
            )
