"""How a single's twist is given, in words."""

from pebble_wheel.notation.spinning import TwistBy, follows

TWIST_WORDS: dict[TwistBy, str] = {
    "soft": "soft, for this fibre",
    "usual": "usual, for this fibre",
    "firm": "firm, for this fibre",
    "factor": "by a twist factor",
    "turns": "in turns",
    "treadles": "by treadles",
    "fold": "of a fresh ply-back",
}
"""In the order in which they are offered."""

TWIST_TYPED: dict[str, str] = {
    "factor": "Twist factor",
    "turns": "Turns",
    "treadles": "Treadles",
    "fold": "Ply-back turns",
}
"""What is typed for those for which anything is."""


def twist_hint(by: str, text: str) -> str:
    """Return what becomes of a twist when the size of its single moves."""
    if follows(by, text):
        return "Follows the size: a thicker single gets fewer turns."
    if by == "treadles":
        return "Fixed. So many treadles at a ratio in a length, like 14 at 7:1 in 60 cm."
    if by == "fold":
        return "Fixed by its fold: a length folded on itself before it rests, turns counted along the fold."
    return "Fixed: stays when the size moves."


def spun_words(way: str) -> str:
    """Return which way a single that is matched would be spun."""
    return f"matched, spun {way}"


AS_IT_IS, LAID_BESIDE = "as it is now", "laid beside"
"""Two yarns to choose from."""
