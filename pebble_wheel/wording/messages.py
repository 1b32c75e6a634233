"""What is said of a request as a whole."""

from dataclasses import dataclass

KEPT = "Kept."


@dataclass(frozen=True)
class Message:
    """A page that says one thing."""

    heading: str
    words: str


NOT_ON_THE_SHELF = Message(
    "Not on the shelf",
    "That design is not on the shelf. It may have been put away; look under “Put away”.",
)
NOT_UNDERSTOOD = Message(
    "Not understood",
    "This address or form has a part that cannot be read. Nothing was changed.",
)
NOTHING_HERE = Message("Nothing here", "There is no such page.")
OTHER_SITE = "This request came from another site; open the page here."


def refused(detail: str) -> Message:
    """Return that a request cannot be served, and why."""
    return Message("Nothing here", detail)


def too_large(most: int) -> str:
    """Return that more was sent than any request needs."""
    return f"This is more than {most:,} bytes; nothing was read or kept."


def pins_full(most: int) -> str:
    """Return that no further yarn can be pinned."""
    return f"{most} are pinned: let one go first."


def setting_refused(name: str, reason: str) -> str:
    """Return that a setting cannot be so."""
    return f"{name}: {reason}. Nothing was changed."
