"""What screens show of one yarn: its pictures, its strands and its words."""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal, assert_never, get_args

from markupsafe import Markup

from pebble_wheel.drawing.cut import CutAt, cut_svg
from pebble_wheel.drawing.dress import Dress, dress_of
from pebble_wheel.drawing.loop import loop_svg
from pebble_wheel.drawing.scale import scale_svg
from pebble_wheel.drawing.unrolled import Flat, unrolled_svg
from pebble_wheel.drawing.wool import packed
from pebble_wheel.drawing.yarn import Reach, Relief, Wedge, closely, magnification, yarn_svg
from pebble_wheel.mechanics.reading.reading import Reading
from pebble_wheel.notation.address import WHOLE, Address
from pebble_wheel.notation.design import Design, finish_of
from pebble_wheel.notation.iso1139 import unsayable
from pebble_wheel.web.shared.drawn import strands_address
from pebble_wheel.wording import titles
from pebble_wheel.wording.advice import Advice, advice_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.names import Bar, Row, matters_of, rows_of, structure_words, verdict_words
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.lines import designation_of

Picture = Literal["along", "across", "unrolled"]
PICTURES = get_args(Picture)


@dataclass(frozen=True)
class Viewpoint:
    """Which picture of the yarn is wanted, from how near, and which part is in hand."""

    picture: Picture = "along"
    reach: Reach = "table"
    at: Address = WHOLE
    painted: bool = True
    """Whether the yarn is to be painted for a browser that cannot draw it in relief."""


@dataclass(frozen=True)
class YarnView:
    """A design with its reading as it is shown; drawings are made when they are asked for."""

    evaluator: Evaluator
    design: Design
    reading: Reading
    display: Display
    viewpoint: Viewpoint

    @cached_property
    def rows(self) -> list[Row]:
        """The strands of the design with their levels."""
        return rows_of(self.design, self.reading)

    @property
    def in_hand(self) -> Row:
        """The part in hand."""
        return next((row for row in self.rows if row.path == self.viewpoint.at), self.rows[0])

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

    @cached_property
    def advice(self) -> tuple[Advice, ...]:
        """What a teacher would say."""
        return advice_of(self.design, self.reading, self.display)

    @property
    def matters(self) -> list[tuple[str, list[Bar]]]:
        """What matters most."""
        return matters_of(self.reading)

    @property
    def magnification(self) -> float:
        """How much larger than life the yarn is drawn."""
        return magnification(self.reading.made, self.viewpoint.reach)

    @cached_property
    def dress(self) -> Dress:
        """Colours and paths."""
        return dress_of(self.design.yarn)

    @property
    def picture(self) -> Markup:
        """The large picture."""
        match self.viewpoint.picture:
            case "along":
                return Markup(self._along())
            case "across":
                return Markup(self._across())
            case "unrolled":
                return Markup(self._unrolled())
            case _:
                assert_never(self.viewpoint.picture)

    @property
    def loop(self) -> Markup:
        """The hung loop."""
        turns = self.reading.balance.loop_turns
        thick, colours = self.reading.levels[0].diameter, list(self.dress.shown())
        return Markup(loop_svg(turns, thick, colours, titles.loop(turns, self.display)))

    @property
    def scale(self) -> Markup:
        """Balance as a scale."""
        return Markup(scale_svg(self.reading.balance, self.reading.schools, titles.scale(self.reading, self.display)))

    def _along(self) -> str:
        top = self.reading.levels[0]
        wedge = Wedge(abs(top.angle), self.display.settings.angle_from == "crosswise", self.display.angle(top.angle))
        made, view = self.reading.made, self.viewpoint
        title = titles.along(self.structure)
        address = strands_address(self.design, self.reading.constants.middle_of(made.node))
        relief = Relief(address, view.painted, "" if view.painted else self._given(address))
        inches = self.display.settings.inches
        return yarn_svg(made, self.dress, wedge, inches, title, view.reach, view.at, relief=relief)

    def _given(self, address: str) -> str:
        """Return the strands that an address gives, the same for a page that asks something else of the same yarn."""

        def work() -> str:
            return closely(packed(self.reading.made, self.dress, finish_of(self.design)))

        return self.evaluator.recall((closely, address), work)

    def _across(self) -> str:
        reading = self.reading
        grown = reading.diameter_finished.p50 / reading.diameter_as_plied.p50
        sizes = [
            CutAt("as plied", 1.0, self.display.length_range(reading.diameter_as_plied)),
            CutAt("finished", grown, self.display.length_range(reading.diameter_finished)),
        ]
        return cut_svg(reading.made, self.dress, sizes, titles.across(self.structure), self.viewpoint.at)

    def _unrolled(self) -> str:
        unlike = {row.level.path: row for row in reversed(self.rows)}
        flats = [Flat(row.level, row.name, row.path) for row in self.rows if unlike[row.level.path] is row]
        return unrolled_svg(flats, self.display, titles.UNROLLED, self.viewpoint.at)


def view_of(evaluator: Evaluator, design: Design, display: Display, viewpoint: Viewpoint | None = None) -> YarnView:
    """Return what screens show of a design.

    Raises:
        InputError: where it cannot be made, with its place.
    """
    return YarnView(evaluator, design, evaluator.read(design, display.settings), display, viewpoint or Viewpoint())
