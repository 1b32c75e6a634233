"""What to do at the basin, in words: each wash and drying with its times, warmth and cautions."""

from dataclasses import dataclass

from pebble_wheel.mechanics.wash.bloom import Drying, Finish, Wash


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
_RINSE = Doing("Rinse in water as warm as the soak, without wringing.", "", 5, "rinse")
_SQUEEZE = Doing("Press the water out, roll the skein in a towel and stand on it.", "Wet floors are slippery.")
_HANDLING: dict[Wash, tuple[Doing, ...]] = {
    "none": (),
    "steam": (),
    "soak": (),
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


def doings(finish: Finish) -> list[Doing]:
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
    return [tied, _SOAK, _RINSE, _SQUEEZE, *_HANDLING[finish.wash], _HANGING[finish.drying], measure]
