"""Texture in words: gestures, what they take, what slides and what locks, and what such a yarn is good for."""

from pebble_wheel.mechanics.colour.fabric import woven_length
from pebble_wheel.mechanics.finish.cloth import PLAIN, needle, sett
from pebble_wheel.mechanics.strand.structure import Single
from pebble_wheel.notation.design import (
    BoughtModel,
    Design,
    RepeatModel,
    SectionModel,
    SingleModel,
    WrapModel,
    fibre_of,
)
from pebble_wheel.wording.advice import advice_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.making import hours_words
from pebble_wheel.workshop.gestures import PLAIN_END, Gesture, gesture_in
from pebble_wheel.workshop.sequence import Along, Member, Part

GESTURE_WORDS: dict[Gesture, str] = {
    "plain": "plain, as constructed",
    "thick": "a thick place",
    "spiral": "thread straight, single rolled on",
    "turned": "single straight, thread square to it",
    "coils": "coils: single fed in excess round a thread",
    "packed": "coils pushed up until they touch",
    "bobble": "bobble: thread tossed over and back",
}
GESTURE_DO: dict[Gesture, str] = {
    "plain": "Both hands even, a narrow V.",
    "thick": "Let a thick place of fibre pass without drafting it out; twist runs past it into the thin.",
    "spiral": "Hold the thread straight and taut; let the single roll on at a narrow V.",
    "turned": "Hold the single straight; bring the thread in square to it, a wide V: it plumps between the wraps.",
    "coils": "Hold the thread straight; feed the single at a right angle, more of it than the yarn is long.",
    "packed": "Hold the thread straight; feed the single at a right angle, and push it up so that no thread shows.",
    "bobble": "Toss the thread over one spot and back, four or five times, with an open hand.",
}
START_WORDS = {
    "coils": "coils locked by bobbles",
    "packed": "packed coils, locked",
    "slubs": "thick and thin",
    "spiral": "spiral all along",
    "beads": "beads of thread",
    "turned": "plump, wrapped by a thread",
}
STRIP = "Sections along the yarn, as long and as thick as they are"
DRIFTS = ("too-few-fibres", "staple-not-held")
"""Findings that make a place fall apart."""

BEGIN_PLAIN = "Begin and end plain, some 30 cm, to cast on from and to tie."
WEFT_WIDE = 500.0
"""mm of cloth that weft is told for (assumed)."""

ISO_CANNOT = "A designation cannot say a yarn that changes along its length."
NO_SINGLE = "Texture is made of a spun single: this yarn has none."
NO_GESTURES = "It was given as a file with sections that no gesture here makes; typing anew replaces them."
SNAGS = "It snags: for trims, hair and weft, not for warp or hard wear. Guide hooks and orifice must clear it."
STURDY = "Nothing in it slides and little stands off: it will do for knitting, and for warp with care."


def member_words(member: Member) -> str:
    """Return what a strand is that runs through a sequence."""
    model = member.model
    match model:
        case SingleModel():
            return f"single of {fibre_of(model.fibre).name}, {model.tex:.4g} tex"
        case BoughtModel():
            return f"thread, {model.tex:.4g} tex"
        case WrapModel():
            return f"strip of {fibre_of(model.fibre).name}, {model.strip_tex:.4g} tex"


def taken_words(member: Member, display: Display) -> str:
    """Return how much of a strand a sequence takes."""
    return f"{display.metres(member.metres)}, {display.grams(member.grams)}"


def whole_words(along: Along, display: Display) -> str:
    """Return what a sequence comes to."""
    said = f"{display.metres(along.whole.metres)}, {display.grams(along.whole.grams)}, {hours_words(along.hours)}"
    ends = f"{display.grist(along.whole.finest_tex)} to {display.grist(along.whole.stoutest_tex)}"
    return f"{said}; {display.grist(along.whole.mean_tex)} on the whole, {ends} from place to place"


def part_words(part: Part, display: Display) -> str:
    """Return what one section is."""
    times = f"{part.times} × " if part.times > 1 else ""
    state = "coils touch" if part.packed else ""
    loose = "" if part.locked else "slides"
    more = ", ".join(each for each in (state, loose) if each)
    wide = display.wpi_range(part.reading.wpi_finished)
    spun = [each for each in part.reading.levels if isinstance(each.node, Single)]
    twist = f", single {display.twist(spun[0].turns_per_m_as_made)}" if spun else ""
    return f"{times}{display.width(part.section.length_mm)}: {wide}{twist}" + (f", {more}" if more else "")


def along_advice(along: Along, thickest: float, orifice: float | None, display: Display) -> list[str]:
    """Return what is to be said of a sequence."""
    said = []
    if orifice is not None and thickest > orifice:
        said.append(
            f"Refused: the thickest place, {display.length(thickest)}, does not pass the orifice, "
            f"{display.length(orifice)}. Feed less round, use a finer single, or a wheel with a wider orifice."
        )
    if any(not each.locked for each in along.parts):
        said.append("Coils slide unless they are locked: toss a bobble of thread at both ends of them.")
    for each in along.parts:
        found = [told for told in advice_of(each.design, each.reading, display) if told.code in DRIFTS]
        said += [f"{display.width(each.section.length_mm)}: {told.text} {told.do}" for told in found]
    plain = [each for each in along.parts if each.section.yarn is None]
    first, last = along.parts[0], along.parts[-1]
    if len(along.parts) > 1 and (first not in plain or last not in plain or first.times > 1 or last.times > 1):
        said.append(BEGIN_PLAIN)
    short = [each for each in (first, last) if each in plain and each.section.length_mm < PLAIN_END and each.times == 1]
    if short and len(along.parts) > 1:
        said.append(f"The plain end of {display.width(short[0].section.length_mm)} is short to cast on from.")
    if plain:
        size = float(needle(plain[0].reading.diameter_finished.p50))
        said.append(f"Needle by its plain part: {display.needle(size)} to start from.")
    textured = any(each.section.yarn is not None for each in along.parts)
    if textured:
        said.append(SNAGS if any(each.packed or not each.locked for each in along.parts) or len(plain) == 0 else STURDY)
        said.append("Low ratio, slow treadling, strong intake; S for the right-handed shows the face as it is laid.")
    return said


def weft_words(along: Along, display: Display) -> str:
    """Return how much cloth a sequence makes as weft, half a metre wide, packed as thick as it is on the whole."""
    thick = sum(each.metres * each.reading.diameter_finished.p50 for each in along.parts) / along.whole.metres
    between = 100 / float(sett(thick, PLAIN))
    long = woven_length(along.whole.metres, WEFT_WIDE, between)
    picks = display.in_short("picks", 10 / between)
    return f"As weft, {display.width(WEFT_WIDE)} wide: {picks[1]} {picks[0]}, {display.width(long)} of cloth."


def sections_words(design: Design, display: Display) -> list[str]:
    """Return what comes one after the other at the wheel; nothing of a yarn that is the same all along."""
    said = []
    for piece in design.sections or ():
        match piece:
            case SectionModel():
                said.append(_section_words(piece, design, display))
            case RepeatModel():
                inner = "; ".join(_section_words(each, design, display) for each in piece.of)
                said.append(f"{piece.repeat} times: {inner}")
    return said


def _section_words(section: SectionModel, design: Design, display: Display) -> str:
    own = gesture_in(section.yarn, design)
    what = GESTURE_WORDS[own[0]] if own else "as the file says"
    return f"{display.width(section.length_mm)} {what}"


def along_words(design: Design, structure: str) -> str:
    """Return a yarn's structure, with the word that it changes along its length where it does."""
    return f"{structure}, textured along its length" if design.sections else structure
