"""What a screen shows of one yarn: its picture, its reading and its advice."""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal, get_args

from markupsafe import Markup

from pebble_wheel.drawing.cut import CutAt, cut_svg
from pebble_wheel.drawing.dress import Dress, dress_of
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.drawing.scale import scale_svg
from pebble_wheel.drawing.unrolled import Flat, unrolled_svg
from pebble_wheel.drawing.yarn import Reach, Wedge, magnification, yarn_svg
from pebble_wheel.mechanics.reading.advice import Advice
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.iso1139 import unsayable
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import Bar, Row, matters_of, rows_of, structure_words, verdict_words
from pebble_wheel.workshop.answer import advice_of, designation_of, read_of

Picture = Literal["along", "across", "unrolled"]
PICTURES = get_args(Picture)


@dataclass(frozen=True)
class View:
    """Which picture of the yarn is wanted."""

    picture: Picture = "along"
    reach: Reach = "table"
    held: str = "yarn"
    """Path of the part in hand."""


@dataclass(frozen=True)
class Look:
    """Everything a screen shows of a yarn; drawings are made when they are asked for."""

    design: Design
    reading: Reading
    display: Display
    view: View

    @cached_property
    def rows(self) -> list[Row]:
        """The strands of the design with their levels."""
        return rows_of(self.design, self.reading)

    @property
    def held(self) -> Row:
        """The part in hand."""
        return next((row for row in self.rows if row.path == self.view.held), self.rows[0])

    @property
    def structure(self) -> str:
        """What it is, in words."""
        return structure_words(self.design.yarn)

    @property
    def verdict(self) -> str:
        """How it rests, in a word."""
        return verdict_words(self.reading.balance.verdict, self.design.yarn)

    @property
    def designation(self) -> str:
        """By ISO 1139, or why there is none."""
        return designation_of(self.design, self.reading) or unsayable(self.design.yarn)

    @property
    def advice(self) -> tuple[Advice, ...]:
        """What a teacher would say."""
        return advice_of(self.design, self.reading)

    @property
    def matters(self) -> list[tuple[str, list[Bar]]]:
        """What matters most."""
        return matters_of(self.reading)

    @property
    def magnification(self) -> float:
        """How much larger than life the yarn is drawn."""
        return magnification(self.reading.made, self.view.reach)

    @cached_property
    def dress(self) -> Dress:
        """Colours and paths."""
        return dress_of(self.design.yarn)

    @property
    def picture(self) -> Markup:
        """The large picture."""
        draw = {"along": self._along, "across": self._across, "unrolled": self._unrolled}
        return Markup(draw[self.view.picture]())

    @property
    def loop(self) -> Markup:
        """The hung loop."""
        turns = self.reading.balance.loop_turns
        said = f"A hung loop of 30 cm: {abs(turns):.1f} turns {'Z' if turns > 0 else 'S'}"
        return Markup(loop_svg(turns, self.reading.levels[0].diameter, list(self.dress.shown()), said))

    @property
    def scale(self) -> Markup:
        """Balance as a scale."""
        return Markup(scale_svg(self.reading.balance, self.reading.schools, self.display))

    def _along(self) -> str:
        top = self.reading.levels[0]
        wedge = Wedge(abs(top.angle), self.display.settings.angle_from == "crosswise", self.display.angle(top.angle))
        title = f"The yarn, a {self.structure}, to scale"
        made, view = self.reading.made, self.view
        return yarn_svg(made, self.dress, wedge, self.display.settings.imperial, title, view.reach, view.held)

    def _across(self) -> str:
        reading = self.reading
        grown = reading.diameter_finished.p50 / reading.diameter_as_plied.p50
        sizes = [
            CutAt("as plied", 1.0, self.display.length_range(reading.diameter_as_plied)),
            CutAt("finished", grown, self.display.length_range(reading.diameter_finished)),
        ]
        title = f"The yarn, a {self.structure}, cut across"
        return cut_svg(reading.made, self.dress, sizes, title, self.view.held)

    def _unrolled(self) -> str:
        unlike = {row.level.path: row for row in reversed(self.rows)}
        flats = [Flat(row.level, row.name, row.path) for row in self.rows if unlike[row.level.path] is row]
        return unrolled_svg(flats, self.display, "Twist level by level: as made, now, at rest", self.view.held)


def look_at(design: Design, display: Display, view: View | None = None) -> Look:
    """Return what a screen shows of a design.

    Raises:
        InputError: where it cannot be made, with its place.
    """
    return Look(design, read_of(design), display, view or View())
