"""Texture in words: gestures, what they take, what slides and what locks, and what such a yarn is good for."""

import numpy as np

from pebble_wheel.mechanics.colour.fabric import woven_length
from pebble_wheel.mechanics.finish.cloth import PLAIN, needle, sett
from pebble_wheel.mechanics.making.splitting import RunOut
from pebble_wheel.mechanics.strand.structure import Single
from pebble_wheel.notation.design import (
    BoughtModel,
    ChainModel,
    CoreSpunModel,
    Design,
    NodeModel,
    PlyModel,
    RepeatModel,
    SectionModel,
    SingleModel,
    WrapModel,
    WrappedModel,
    fibre_of,
)
from pebble_wheel.notation.texture import is_held
from pebble_wheel.wording.advice import advice_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.making import hours_words
from pebble_wheel.wording.names import verdict_words
from pebble_wheel.workshop.gestures import PLAIN_END, STANDS_OFF, Gesture, gesture_in
from pebble_wheel.workshop.sequence import Along, Member, Part

GESTURE_WORDS: dict[Gesture, str] = {
    "plain": "plain, as constructed",
    "thick": "a thick place",
    "spiral": "thread straight, single rolled on",
    "turned": "single straight, thread square to it",
    "tied": "a thick place, thread square over it",
    "coils": "coils: single fed in excess round a thread",
    "packed": "coils pushed up until they touch",
    "bobble": "bobble: thread tossed over and back",
    "wound": "fibre wound round the thread, hand closed",
    "lofty": "fibre wound round the thread, hand off",
    "locks": "locks caught by their ends, tips free",
    "loose-locks": "locks laid in free",
    "looped": "looped core, left to show",
}
GESTURE_DO: dict[Gesture, str] = {
    "plain": "Both hands even, a narrow V.",
    "thick": "Let a thick place of fibre pass without drafting it out; twist runs past it into the thin.",
    "spiral": "Hold the thread straight and taut; let the single roll on at a narrow V.",
    "turned": "Hold the single straight; bring the thread in square to it, a wide V: it plumps between the wraps.",
    "tied": "Let a thick place pass, and lay the thread square over it, a wide V, so that it cannot draw out.",
    "coils": "Hold the thread straight; feed the single at a right angle, more of it than the yarn is long.",
    "packed": "Hold the thread straight; feed the single at a right angle, and push it up so that no thread shows.",
    "bobble": "Toss the thread over one spot and back, four or five times, with an open hand.",
    "wound": "Feed fibre square to the thread and close the hand on it: the wrap lies firm.",
    "lofty": "Feed fibre square to the thread and keep the hand off: the wrap stays lofty.",
    "locks": "Lay each lock in by its cut end, wind fibre over that end, and keep the hand off the tips.",
    "loose-locks": "Lay locks in as they come, hand off.",
    "looped": "Feed a thin strip with gaps, so that the loops of the core stand out between.",
}
GESTURE_HOLDS: dict[Gesture, str] = {
    "plain": "Stays where it is.",
    "thick": "So many times as heavy as the thin; draws out where too few turns hold it.",
    "spiral": "A little more single than thread; stays.",
    "turned": "A third more thread than single; stays.",
    "tied": "As heavy as it is thick; the thread holds it.",
    "coils": "Three of single to one of thread; slides until bobbles lock both ends.",
    "packed": "As much as there is room for, no thread shows; springs apart until bobbles lock both ends.",
    "bobble": "Five of thread to one of single; stays, and locks what lies beside it.",
    "wound": "Eight times as heavy as its core; firm, stays.",
    "lofty": "Eight times as heavy as its core; thicker and softer, snags sooner.",
    "locks": "Ten times as heavy as its core; stays, tips hang.",
    "loose-locks": "Ten times as heavy as its core; pulls out.",
    "looped": "Two and a half times as heavy as its core, which shows on purpose.",
}
"""What it takes, whether it stays, and how it looks; figures as in :data:`OVERFEED`."""

START_WORDS = {
    "slubs": "thick and thin with a thread",
    "spiral": "spiral all along",
    "coils": "coils locked by bobbles",
    "locks": "core-spun with locks, for weaving",
    "looped": "looped core, left to show",
    "packed": "packed coils, locked",
    "thick": "thick and thin",
    "beads": "beads of thread",
    "turned": "plump, wrapped by a thread",
}
ON_ITS_BOBBIN = "On its bobbin"
FIELD_WORDS = {"begins": "Begins plain", "times": "Then so often", "ends": "Ends plain"}
ALONG, KNIT, WOVEN = "The yarn along its sections", "Knit of it, to scale", "Woven of it as weft, to scale"
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
LOW_RATIO = (
    "Low ratio, slow treadling, strong intake, a bobbin larger than for its weight. Wound S a right-handed spinner "
    "sees the face as it is laid, wound Z a left-handed one."
)
CORE_GRIP = (
    "A hairy core grips, a slick one slips: begin with a few cm of plain single, and at the end cut the core and "
    "finish as a single."
)
STURDY = "Nothing in it slides and little stands off: it will do for knitting, and for warp with care."


def field_words(field: str) -> str:
    """Return what a field of the sections is called: one of a row by the number that its section has on the page."""
    _, _, place = field.partition("-")
    if is_held(field):
        return ON_ITS_BOBBIN
    return FIELD_WORDS.get(field) or f"Section {int(place) + 1}"


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


def whole_words(along: Along, thickest: float, display: Display) -> str:
    """Return what a sequence comes to."""
    said = f"{display.metres(along.whole.metres)}, {display.grams(along.whole.grams)}, {hours_words(along.hours)}"
    ends = f"{display.grist(along.whole.finest_tex)} to {display.grist(along.whole.stoutest_tex)}"
    thick = display.length(thickest)
    grist = f"{display.grist(along.whole.mean_tex)} on the whole, {ends} from place to place"
    return f"{said}; {grist}; {thick} at its thickest"


def part_words(part: Part, display: Display) -> str:
    """Return what one section is."""
    times = f"{part.times} × " if part.times > 1 else ""
    said = [display.wpi_range(part.reading.wpi_finished), *_spun_words(part, display)]
    if isinstance(part.design.yarn, PlyModel | ChainModel):
        said.append(verdict_words(part.reading.balance.verdict, part.design.yarn))
    said += ["coils touch"] if part.packed else []
    said += [] if part.locked else ["slides" if not isinstance(part.section.yarn, CoreSpunModel) else "pulls out"]
    return f"{times}{display.width(part.section.length_mm)}: {', '.join(said)}"


def amount_words(part: Part, display: Display) -> str:
    """Return what all sections that are such come to."""
    told = display.metres(part.metres), display.light(part.grams), hours_words(part.hours)
    return f"{', '.join(told)}; {display.grist(part.reading.resultant_tex)}"


def _spun_words(part: Part, display: Display) -> list[str]:
    """Return the twist of a section's single, between what and what where it runs from thick to thin, and its hold."""
    spun = [each for each in part.reading.levels if isinstance(each.node, Single)]
    if not spun:
        return []
    twist = spun[0].turns_per_m_as_made
    if part.turned is None:
        return [f"single {display.twist(twist)}"]
    low, high = (display.twist(twist * each) for each in part.turned)
    held = part.reading.singles[spun[0].path].turns_per_staple
    return [f"single {low} to {high}", f"{held:.1f} turns to a staple"]


def ends_words(along: Along, found: RunOut, display: Display) -> str:
    """Return which strand ends first, where, and what is left of the others whose bobbins were weighed."""
    name = member_words(along.members[found.first])
    reach = f"{name} ends first, after {display.metres(found.metres)} of {display.metres(along.whole.metres)}"
    if found.metres >= along.whole.metres:
        reach = f"All of them last: {name} would end first, after {display.metres(found.metres)}"
    left = [
        f"{display.grams(float(grams))} of {member_words(each)}"
        for each, grams in zip(along.members, found.left, strict=True)
        if 0 < grams < np.inf
    ]
    return f"{reach}." + (f" Then there are left {', '.join(left)}." if left else "")


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
        said.append(SNAGS if any(map(_stands_off, along.parts)) or not plain else STURDY)
        said.append(LOW_RATIO)
    if any(isinstance(each.section.yarn, CoreSpunModel) for each in along.parts):
        said.append(CORE_GRIP)
    return said


def _stands_off(part: Part) -> bool:
    """Return whether something of a section stands off, slides or shows, and so snags."""
    yarn = part.design.yarn
    coils = isinstance(yarn, WrappedModel) and yarn.overfeed >= STANDS_OFF
    hangs = isinstance(yarn, CoreSpunModel) and (yarn.wrap.locks or yarn.wrap.covers)
    return part.packed or not part.locked or bool(coils or hangs)


def between_picks(along: Along) -> float:
    """Return how far weft lies apart in plain weave [mm], packed as thick as the yarn is on the whole."""
    thick = sum(each.metres * each.reading.diameter_finished.p50 for each in along.parts) / along.whole.metres
    return 100 / float(sett(thick, PLAIN))


def weft_words(along: Along, display: Display) -> str:
    """Return how much cloth a sequence makes as weft, half a metre wide, packed as thick as it is on the whole."""
    between = between_picks(along)
    long = woven_length(along.whole.metres, WEFT_WIDE, between)
    picks = display.in_short("picks", 10 / between)
    return f"As weft, {display.width(WEFT_WIDE)} wide: {picks[1]} {picks[0]}, {display.width(long)} of cloth."


def sections_words(design: Design, display: Display) -> list[str]:
    """Return what comes one after the other at the wheel; nothing of a yarn that is the same all along."""
    said = []
    for piece in design.sections or ():
        match piece:
            case SectionModel():
                said.append(section_words(piece, design, display))
            case RepeatModel():
                inner = "; ".join(section_words(each, design, display) for each in piece.of)
                said.append(f"{piece.repeat} times: {inner}")
    return said


def section_words(section: SectionModel, design: Design, display: Display) -> str:
    """Return a section by its length and its gesture."""
    return f"{display.width(section.length_mm)} {gesture_words(section.yarn, design)}"


def gesture_words(model: NodeModel | None, design: Design) -> str:
    """Return by what gesture a section is made."""
    own = gesture_in(model, design)
    return GESTURE_WORDS[own[0]] if own else "as the file says"


def along_words(design: Design, structure: str) -> str:
    """Return a yarn's structure, with the word that it changes along its length where it does."""
    return f"{structure}, textured along its length" if design.sections else structure
