"""Small pictures of kept designs, at addresses by their content."""

import hashlib

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.yarn import small_svg
from pebble_wheel.mechanics.memory import Memory
from pebble_wheel.notation.design import Design, write_design
from pebble_wheel.store.designs import Kept
from pebble_wheel.store.pictures import Pictures, Small
from pebble_wheel.web.shared.drawn import drawn_by
from pebble_wheel.wording import titles
from pebble_wheel.wording.names import verdict_words
from pebble_wheel.workshop.evaluator import Evaluator
from pebble_wheel.workshop.lines import designation_of


def content_of(design: Design, learned: str = "") -> str:
    """Return by what the small picture of a design is known, with the hands that it is reckoned with."""
    told = write_design(design).encode() + learned.encode() + drawn_by()
    return hashlib.blake2b(told, digest_size=12).hexdigest()


def content_of_kept(kept: Kept, learned: str = "") -> str:
    """Return the same of a design on the shelf, which is known by its mark."""
    return _KNOWN.recall((kept.id, kept.mark, learned), lambda: content_of(kept.design, learned))


_KNOWN = Memory(4096)


def kept_small(pictures: Pictures, design: Design, evaluator: Evaluator) -> Small:
    """Return the small picture of a design, made and kept where it has not been yet.

    Raises:
        InputError: where it cannot be made.
    """
    content = content_of(design, evaluator.constants.known_by)
    small = pictures.find([content]).get(content)
    if small is None:
        small = small_of(design, evaluator)
        pictures.keep(content, small)
    return small


def small_of(design: Design, evaluator: Evaluator) -> Small:
    """Return the small picture of a design.

    Raises:
        InputError: where it cannot be made.
    """
    reading = evaluator.read(design)
    svg = small_svg(reading.made, dress_of(design.yarn), "small", titles.kept(design.name))
    verdict = verdict_words(reading.balance.verdict, design.yarn)
    return Small(svg, reading.wpi_finished, verdict, designation_of(design, reading))
