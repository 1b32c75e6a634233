"""Where yarns are evaluated: it owns the constants, what is remembered, and that evaluations take turns."""

import math
from collections.abc import Callable, Hashable, Mapping
from contextlib import suppress
from copy import copy
from dataclasses import dataclass, replace
from typing import TypeVar

from pebble_wheel.mechanics.backwards.merits import Hands, Judged, judge
from pebble_wheel.mechanics.backwards.solve import Handle, Hindrance, Knobs, Wish, fit, handles, hold
from pebble_wheel.mechanics.finish.alternatives import Over, Washed, washed_over
from pebble_wheel.mechanics.finish.moments import AtMoment, Moment, at_moments
from pebble_wheel.mechanics.learning.model import Lessons, YarnMeasured
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.mechanics.reading.constants import Constants, Middle
from pebble_wheel.mechanics.reading.reading import JammedError, Reading, fullness, read
from pebble_wheel.mechanics.reading.uneven import vary
from pebble_wheel.mechanics.rest.balance import NoBalanceError, fold_turns, loop_turns, resolve, resolve_made
from pebble_wheel.mechanics.strand.state import Made
from pebble_wheel.mechanics.strand.structure import Node, Single
from pebble_wheel.mechanics.wash.bloom import Finish
from pebble_wheel.mechanics.wash.resting import rested
from pebble_wheel.notation.address import Address
from pebble_wheel.notation.design import Design, finish_of, place_in_file, structure_of
from pebble_wheel.notation.faults import Fault, InputError
from pebble_wheel.notation.settings import Settings
from pebble_wheel.notation.spinning import twist_text
from pebble_wheel.workshop.turns import LONGEST, TooLongError, Turns

Found = TypeVar("Found")


@dataclass(frozen=True)
class Limits:
    """How much is remembered; what was not asked for longest is forgotten first."""

    readings: int = 256
    candidates: int = 512
    figures: int = 4096
    """Balances, courses and the like, of which readings and candidates are made."""


@dataclass(frozen=True)
class Spun:
    """A structure spun to a wish, or as near to it as can be."""

    knobs: Knobs
    hindrances: tuple[Hindrance, ...]
    judged: Judged | None
    """None where nothing can be spun."""


class Evaluator:
    """Evaluates yarns by one set of constants, one at a time."""

    def __init__(self, constants: Constants | None = None, limits: Limits | None = None) -> None:
        self.constants = constants or Constants()
        limits = limits or Limits()
        self._readings, self._candidates, self._figures = (
            Memory(most) for most in (limits.readings, limits.candidates, limits.figures)
        )
        self._turn = Turns()

    def taught(self, lessons: Lessons | None, whose: str, measured: YarnMeasured | None = None) -> "Evaluator":
        """Return one that reads by what samples have taught, and shares its turns and its memory with this one."""
        if lessons is self.constants.lessons and measured is self.constants.measured:
            return self
        other = copy(self)
        other.constants = replace(self.constants, lessons=lessons, whose=whose, measured=measured)
        return other

    def about(self, middle: Middle | None) -> "Evaluator":
        """Return one that reckons about what was learned elsewhere, likewise."""
        if middle is None:
            return self
        other = copy(self)
        other.constants = replace(self.constants, middle=middle)
        return other

    def middle_of(self, design: Design) -> Middle | None:
        """Return about what a design is reckoned; None where nothing was learned."""
        return self.constants.middle_of(structure_of(design.yarn))

    def structure(self, design: Design) -> Node:
        """Return the structure of a design, with what was learned of how it packs and blooms."""
        return self.constants.as_learned(structure_of(design.yarn))

    def read(self, design: Design, settings: Settings | None = None) -> Reading:
        """Return the reading of a design; what is wrong with it is said in the units of settings.

        Raises:
            InputError: where a level jams or a multiple of balance has no answer, with its place.
        """
        node, finish = self.structure(design), finish_of(design)
        try:
            with self._turn:
                return self._readings.recall(
                    (node, finish, self.constants), lambda: read(node, finish, self.constants, memory=self._figures)
                )
        except JammedError as error:
            raise InputError(_jammed(design, error, settings or Settings())) from None
        except NoBalanceError as error:
            raise InputError(_unbalanced(design, error)) from None
        except TooLongError:
            raise InputError(_TOO_LONG) from None

    def made(self, design: Design) -> Made:
        """Return the yarn of a design as it lies, for a picture: its bands are not worked out for that.

        Raises:
            InputError: as :meth:`read`.
        """
        node = self.structure(design)
        if (node, finish_of(design), self.constants) not in self._readings:
            with suppress(NoBalanceError, TooLongError), self._turn:
                made = resolve_made(node, self.constants.rod_for(node), memory=self._figures)
                if float(fullness(made.state)) < 1:
                    return made
        return self.read(design).made

    def unbalanced(self, design: Design) -> Address | None:
        """Return the path in the file of the first strand whose multiple of balance has no answer, if there is one."""
        try:
            with self._turn:
                node = self.structure(design)
                resolve(node, self.constants.rod_for(node), self._figures)
        except NoBalanceError as error:
            return place_in_file(design.yarn, error.path)
        return None

    def moments(self, reading: Reading, finish: Finish, rest_hours: float) -> dict[Moment, AtMoment]:
        """Return a yarn at every moment of a finish; one that it does not come to is left out."""

        def work() -> dict[Moment, AtMoment]:
            made, loop = reading.made, reading.balance.loop_turns
            uneven = vary(made, finish, self.constants)
            return at_moments(made, finish, uneven, loop, rest_hours, self.constants.spreads)

        with self._turn:
            return self._figures.recall((at_moments, reading.made.node, finish, rest_hours, self.constants), work)

    def rested_share(self, spun: Node, hours: float) -> float:
        """Return by what share a ply-back of a single reads low after a rest on the bobbin."""
        rod = self.constants.rod_for(spun)
        with self._turn:
            fresh, later = (abs(fold_turns(spun, each, memory=self._figures)) for each in (rod, rested(rod, hours)))
        return 1 - later / fresh

    def fold_of(self, single: Single) -> float:
        """Return the twist of the fresh ply-back of a single [turns/m of the fold], without sign."""
        with self._turn:
            return abs(fold_turns(single, self.constants.rod_for(single), memory=self._figures))

    def loop_turns(self, made: Made) -> float:
        """Return the turns, signed, in which 30 cm of a made yarn hang folded."""
        with self._turn:
            rod = self.constants.rod_for(made.node)
            return float(loop_turns(fold_turns(made.node, rod, made, self._figures)))

    def alternatives(self, design: Design, over: Over) -> list[Washed]:
        """Return a design in other finishes, preparations or fibres, what blooms most first."""
        with self._turn:
            return washed_over(structure_of(design.yarn), finish_of(design), over, self.constants, self._figures)

    def handles(self, reading: Reading) -> tuple[Handle, ...]:
        """Return the readings of a yarn that can be held or moved."""
        with self._turn:
            return handles(reading.made, self.constants.rod_for(reading.node), self._figures)

    def hold(self, design: Design, reading: Reading, wanted: Mapping[Handle, float]) -> Knobs:
        """Return the knobs at which readings stand in given proportions to those of a design; see ``solve.hold``.

        Raises:
            NoSuchYarnError: where nothing meets them.
        """
        with self._turn:
            node, finish = self.structure(design), finish_of(design)
            return hold(node, reading.made, wanted, finish, self.constants.rod_for(node), self._figures)

    def spin_to(self, node: Node, finish: Finish, wish: Wish, hands: Hands, colour_run: float) -> Spun:
        """Return a structure spun to a wish, with its merits."""

        node = self.recall((Constants.as_learned, node, self.constants), lambda: self.constants.as_learned(node))

        def work() -> Spun:
            fitted = fit(node, finish, wish, self.constants, self._figures)
            judged = None
            if fitted.made:
                judged = judge(fitted.made, finish, self.constants, hands, colour_run, fitted.varied, fitted.shape)
            return Spun(fitted.knobs, fitted.hindrances, judged)

        with self._turn:
            return self._candidates.recall((node, finish, wish, hands, colour_run, self.constants), work)

    def recall(self, key: Hashable, work: Callable[[], Found]) -> Found:
        """Return what is remembered under a key, else work it out: for what candidates are made of."""
        with self._turn:
            return self._candidates.recall(key, work)


_TOO_LONG = Fault(
    "yarn",
    f"this yarn takes more than {LONGEST} s to work out, and was given up. Make more of its strands alike",
)


def _jammed(design: Design, error: JammedError, settings: Settings) -> Fault:
    place = f"{place_in_file(design.yarn, error.path)}.twist"
    if math.isfinite(error.most_turns_per_m):
        return Fault(
            place,
            f"no more turns fit: these strands jam at about {twist_text(error.most_turns_per_m, settings, 3)}, where a "
            "further turn takes up more length than there is. Use less twist, or thinner strands",
        )
    return Fault(
        place,
        "no more turns fit: the twist of the levels above jams these strands, where a further turn takes up more "
        "length than there is. Use less twist, or thinner strands",
    )


def _unbalanced(design: Design, error: NoBalanceError) -> Fault:
    place = f"{place_in_file(design.yarn, error.path)}.twist.of_balanced"
    match error.cause:
        case "a single":
            return Fault(place, "a single has no balanced twist; give its turns")
        case "quiet":
            return Fault(place, "these strands hang quiet by themselves and want no twist; give turns")
        case "needs Z" | "needs S":
            return Fault(
                place,
                f"these strands have no balanced twist in the {error.cause[-1]} direction; ply the other way, "
                "or give turns",
            )
