"""What every screen of one yarn shows: its drawings, its reading and its advice."""

from dataclasses import dataclass

from markupsafe import Markup

from pebble_wheel.drawing.loop import draw_loop
from pebble_wheel.drawing.scale import draw_scale
from pebble_wheel.drawing.yarn import Wedge, draw_yarn, magnification
from pebble_wheel.mechanics.advice import Advice, advise
from pebble_wheel.mechanics.reading import Reading
from pebble_wheel.notation.answer import designation_of, read_of
from pebble_wheel.notation.design import Design
from pebble_wheel.notation.display import Settings
from pebble_wheel.notation.iso1139 import unsayable
from pebble_wheel.web.words import Bar, colours_of, facts_of, matters_of, structure_words, verdict_words


@dataclass(frozen=True)
class Look:
    """Everything the screen shows of a yarn."""

    design: Design
    reading: Reading
    structure: str
    verdict: str
    designation: str
    yarn: Markup
    loop: Markup
    scale: Markup
    magnification: float
    advice: tuple[Advice, ...]
    matters: list[tuple[str, list[Bar]]]
    facts: list[tuple[str, str]]


def look_at(design: Design, chosen: Settings) -> Look:
    """Return what the screen shows of a design.

    Raises:
        InputError: where it cannot be made, with its place.
    """
    reading = read_of(design)
    colours, balance = colours_of(design.yarn), reading.balance
    top = reading.levels[0]
    verdict = verdict_words(balance.verdict, design.yarn)
    wedge = Wedge(abs(top.angle), chosen.angle_from == "crosswise", chosen.angle(top.angle))
    structure = structure_words(design.yarn)
    sense = "Z" if balance.loop_turns > 0 else "S"
    return Look(
        design=design,
        reading=reading,
        structure=structure,
        verdict=verdict,
        designation=designation_of(design, reading) or unsayable(design.yarn),
        yarn=Markup(draw_yarn(reading.made, colours, wedge, chosen.imperial, f"The yarn, a {structure}, to scale")),
        loop=Markup(
            draw_loop(
                balance.loop_turns,
                top.diameter,
                colours,
                f"A hung loop of 30 cm: {abs(balance.loop_turns):.1f} turns {sense}",
            )
        ),
        scale=Markup(draw_scale(balance, reading.schools, chosen)),
        magnification=magnification(reading.made),
        advice=advise(reading),
        matters=matters_of(reading),
        facts=facts_of(reading),
    )
