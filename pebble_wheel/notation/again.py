"""What somebody noted for the next time, as far as it can be done to a design: thinner, four plies, firmer."""

import re
from dataclasses import dataclass
from typing import Literal

from pebble_wheel.notation.amounts import read_number
from pebble_wheel.notation.faults import InputError

LITTLE, PLAINLY, MUCH = 0.05, 0.10, 0.20
"""What "a little", nothing and "much" come to where no percent is told: assumed."""

FEWEST_PLIES, MOST_PLIES = 2, 12

Wished = Literal["thick", "wraps", "plies", "ply twist", "single twist", "wash", "drying"]


@dataclass(frozen=True)
class Wish:
    """One thing to do otherwise."""

    what: Wished
    amount: float = 0.0
    """Of thickness and twist a factor, of wraps relaxed ones of the finished yarn, of plies how many."""
    choice: str = ""
    """Of a wash or a drying which."""
    said: str = ""
    """As it was noted."""


_MANNER = (
    r"(?:(?P<little>a little|a bit|slightly|a touch|somewhat)|(?P<much>much|a lot|far|way)|"
    r"(?P<percent>\d[\d.,]*)\s*(?:%|percent))"
)
_OF_SINGLES = r"(?:twist in the singles?|singles twist|twisted singles?|spun singles?)"
_COMPARED: tuple[tuple[str, Wished, int], ...] = (
    (rf"(?:more|higher|firmer|tighter|harder)\s+{_OF_SINGLES}|firmer singles?", "single twist", 1),
    (rf"(?:less|lower|softer|looser)\s+{_OF_SINGLES}|softer singles?", "single twist", -1),
    (r"more ply(?:ing)?[- ]twist|more twist in the ply|firmer|tighter|harder", "ply twist", 1),
    (r"less ply(?:ing)?[- ]twist|less twist in the ply|softer|looser|slacker", "ply twist", -1),
    (r"thinner|finer", "thick", -1),
    (r"thicker|heavier|bulkier", "thick", 1),
)
_COUNTS = {"two": 2, "three": 3, "four": 4, "five": 5, "six": 6}
_PLIES = re.compile(rf"(\d+|{'|'.join(_COUNTS)})[- ]?pl(?:y|ies)", re.IGNORECASE)
_WRAPS = re.compile(r"(?:at |to )?(\d[\d.]*\s?[½¼¾]?)\s*(?:wpi|wraps)", re.IGNORECASE)
_CLAUSES = re.compile(r"[,;!\n]|\.(?!\d)|\band\b(?=[\w%½ -]*(?:er|ply|plies|twist|wraps|wpi)\s*(?:[,;.!\n]|$))")
_LEAD = re.compile(r"(?:next time|make it|make|spin it|spin|ply it|try|with|as an?|in)\s+")
_WASHES = {
    "thwack": "thwack",
    "snap": "snap",
    "swing": "swing",
    "steam": "steam",
    "soak": "soak",
    "full": "full",
    "no wash": "none",
    "unwashed": "none",
}
_DRYINGS = {
    "weighted": "heavy",
    "under weight": "heavy",
    "hung free": "free",
    "without weight": "free",
    "no weight": "free",
}


def read_wishes(text: str) -> tuple[tuple[Wish, ...], str]:
    """Return what in a note can be done, in its order, and what is left of it for people to read.

    Example:
        >>> read_wishes("thinner, 4-ply; and mind the dog")
        ((Wish(what='thick', amount=0.9, choice='', said='thinner'), Wish(what='plies', amount=4.0, choice='', \
said='4-ply')), 'and mind the dog')
    """
    wishes: list[Wish] = []
    left = []
    for clause in _CLAUSES.split(text):
        said = clause.strip()
        found = _read(said)
        if found is None and said:
            left.append(said)
        elif found is not None and all(each.what != found.what for each in wishes):
            wishes.append(found)
        elif found is not None:
            left.append(said)
    return tuple(wishes), "; ".join(left)


def _read(said: str) -> Wish | None:
    """Return the one thing that a clause wishes for; None where that is not clear, or it says more than that."""
    bare = said.lower()
    while lead := _LEAD.match(bare):
        bare = bare[lead.end() :]
    plies = _PLIES.fullmatch(bare)
    if plies:
        count = _COUNTS.get(plies[1]) or int(plies[1])
        return Wish("plies", float(count), said=said) if FEWEST_PLIES <= count <= MOST_PLIES else None
    wraps = _WRAPS.fullmatch(bare)
    if wraps:
        return _wraps(wraps[1], said)
    for table, what in ((_WASHES, "wash"), (_DRYINGS, "drying")):
        for words, choice in table.items():
            if bare in (words, f"{words} it", f"{words} dry", f"dry {words}", f"dry it {words}"):
                return Wish("wash" if what == "wash" else "drying", choice=choice, said=said)
    for pattern, about, way in _COMPARED:
        found = re.fullmatch(
            rf"(?:by )?(?:{_MANNER}\s+)?(?:{pattern})(?:\s+by\s+(?P<after>\d[\d.,]*)\s*(?:%|percent))?", bare
        )
        if found:
            return _compared(found, about, way, said)
    return None


def _wraps(text: str, said: str) -> Wish | None:
    try:
        wraps = read_number(text, "next")
    except InputError:
        return None
    return Wish("wraps", wraps, said=said) if 1 <= wraps <= 120 else None


def _compared(found: re.Match[str], about: Wished, way: int, said: str) -> Wish | None:
    percent = found["percent"] or found["after"]
    share = LITTLE if found["little"] else MUCH if found["much"] else PLAINLY
    if percent:
        try:
            share = read_number(percent, "next") / 100
        except InputError:
            return None
    return Wish(about, round(1 + way * share, 4), said=said) if 0 < share <= 0.6 else None
