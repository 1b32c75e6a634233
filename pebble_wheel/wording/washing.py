"""What to do at the basin, in words: each wash and drying with its times, warmth and cautions."""

from dataclasses import dataclass

from pebble_wheel.mechanics.finish.hung import hides, per_strand
from pebble_wheel.mechanics.wash.bloom import Drying, Wash
from pebble_wheel.notation.design import FinishModel, NodeModel, SingleModel
from pebble_wheel.wording.display import Display


@dataclass(frozen=True)
class Doing:
    """One thing to do."""

    words: str
    caution: str = ""
    minutes: int = 0
    """To be timed; 0 where there is nothing to wait for."""
    timer: str = ""
    """Name of its timer, unique in the list."""


WASH_WORDS: dict[Wash, str] = {
    "none": "not at all",
    "steam": "steamed",
    "soak": "soaked",
    "swing": "soaked, swung",
    "snap": "soaked, snapped",
    "thwack": "soaked, thwacked",
    "full": "lightly fulled",
}
DRYING_WORDS: dict[Drying, str] = {"free": "hung free", "light": "light weight", "heavy": "heavy weight"}
BLOCKING_WORDS = {"none": "not blocked", "light": "lightly blocked", "severe": "severely blocked"}

_SOAK = Doing(
    "Fill a basin hand-warm, 35 to 40 °C, with a little wool wash. Lay the skein in; do not run water on it.",
    "Wool felts by rubbing and by sudden change of warmth: lay it in and leave it.",
    20,
    "soak",
)
_WARM = Doing(
    "Fill a basin as warm as bath water, 45 to 50 °C, with wool wash, to lift the grease. Lay the skein in; leave it.",
    "Wool felts by rubbing and by sudden change of warmth. Hot water scalds.",
    20,
    "soak",
)
_AGAIN = Doing("Soak it again in fresh water as warm, until the water stays clear.", "", 20, "second soak")
_RINSE = Doing("Rinse in water as warm as the soak, without wringing.", "", 5, "rinse")
_SQUEEZE = Doing("Press the water out, roll the skein in a towel and stand on it.", "Wet floors are slippery.")
_HANDLING: dict[Wash, tuple[Doing, ...]] = {
    "none": (),
    "steam": (),
    "soak": (),
    "swing": (Doing("Swing the skein in wide circles until no more water flies off.", "Mind what stands around."),),
    "snap": (
        Doing("Snap it a few times between both hands, a quarter turn on each time.", "Mind what stands around."),
    ),
    "thwack": (
        Doing(
            "Thwack it against a smooth wall, both ends in turn. It evens the twist; some do it to raise fuzz.",
            "Thwacking wants room and a dry place to stand.",
        ),
    ),
    "full": (
        Doing(
            "Full it lightly: into hot water, some 50 °C, then cold, and again, working it until it just clings.",
            "Hot water scalds: wear gloves. Fulling cannot be undone; stop early and look.",
        ),
    ),
}
_HANGING: dict[Drying, Doing] = {
    "free": Doing("Hang it free over a rod, without weight, and turn it once. 12 to 48 hours."),
    "light": Doing(
        "Hang it with a light weight. It dries straight, and hides torque until it is wet again. 12 to 48 hours.",
        "Tie the weight: it falls otherwise.",
    ),
    "heavy": Doing(
        "Hang it with a heavy weight. It dries straight and thin, and hides most of its torque. 12 to 48 hours.",
        "Tie the weight well, and keep feet and small hands away from under it.",
    ),
}


def doings(finish: FinishModel) -> list[Doing]:
    """Return what to do, in order."""
    tied = Doing("Wind it into a skein and tie it loosely in three or four places.")
    if finish.wash == "none":
        return [Doing("Use it off the bobbin. Its first wash, in the cloth, will bloom and shorten it: wash a swatch.")]
    if finish.wash == "steam":
        steam = Doing(
            "Hold the skein in the steam of a kettle or an iron until it is damp all through, turning it.",
            "Steam scalds: use tongs and a glove, and keep your face away.",
            3,
            "steam",
        )
        return [tied, steam, _HANGING[finish.drying]]
    measure = Doing("Measure again when it is dry all through: wraps, length, weight and the loop; then note it below.")
    soaked = [_WARM if finish.warm else _SOAK, *([_AGAIN] if finish.again else [])]
    return [tied, *soaked, _RINSE, _SQUEEZE, *_HANDLING[finish.wash], _HANGING[finish.drying], measure]


def hung_words(finish: FinishModel, display: Display) -> str:
    """Return what the weight hung in the skein does; empty where none is."""
    if finish.hung_grams is None or finish.hung_rounds is None:
        return ""
    carried = float(per_strand(finish.hung_grams, finish.hung_rounds))
    kind = {"light": "a light weight", "heavy": "a heavy weight", "free": "next to nothing"}[finish.drying]
    return (
        f"{display.grams(finish.hung_grams)} over {finish.hung_rounds} rounds is {display.light(carried)} on a strand: "
        f"{kind}. It hides some {100 * float(hides(carried)):.0f} % of the torque until it is wet again (assumed)."
    )


def bare_words(yarn: NodeModel) -> str:
    """Return what a bare single does in cloth; empty of any other yarn."""
    if not isinstance(yarn, SingleModel):
        return ""
    return "A bare single slants knitting, however it was washed or weighed: only plying takes its torque away."
