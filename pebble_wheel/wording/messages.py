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
TOO_SLOW = "This request was not sent whole in good time; nothing was read or kept."
OTHER_SITE = "This request came from another site; open the page here."


VANISHED = Message(
    "The notebook is not there",
    "The file that holds your yarns has gone from its place. Nothing was kept; put the file back, or restore a copy.",
)
LOCKED = Message(
    "The notebook is busy",
    "Another program holds the file that your yarns are kept in. Nothing was kept; go back and try again in a moment.",
)
FULL = Message(
    "There is no room",
    "The disk is full. Nothing was kept, and nothing was lost; go back, make room and try again.",
)
READ_ONLY = Message(
    "The notebook cannot be written to",
    "The file that holds your yarns, or its folder, is read-only. What is kept can be looked at; nothing was kept.",
)
BROKEN = Message(
    "The notebook is damaged",
    "The file that holds your yarns cannot be read here. Stop the program and run “pebble-wheel check”, which saves "
    "what can be read; the copies beside the file are whole.",
)
TAKES_TOO_LONG = Message(
    "This takes too long",
    "It was given up so that others need not wait. Go back, what you typed is still there; try again, or ask for less.",
)
UNEXPECTED = Message(
    "Something went wrong",
    "This was not foreseen. Nothing was kept; go back, what you typed is still there. What happened stands in the "
    "terminal that the program runs in.",
)


_BY_FAULT = {
    "SQLITE_BUSY": LOCKED,
    "SQLITE_LOCKED": LOCKED,
    "SQLITE_FULL": FULL,
    "SQLITE_IOERR": FULL,
    "SQLITE_READONLY": READ_ONLY,
    "SQLITE_CANTOPEN": READ_ONLY,
    "SQLITE_CORRUPT": BROKEN,
    "SQLITE_NOTADB": BROKEN,
}
"""By how SQLite's name for a fault begins."""


def said_of_fault(error: Exception) -> Message | None:
    """Return what is wrong with the store; None where that is not known."""
    if isinstance(error, FileNotFoundError):
        return VANISHED
    name = getattr(error, "sqlite_errorname", "")
    return next((said for known, said in _BY_FAULT.items() if name.startswith(known)), None)


def damaged(why: str) -> Message:
    """Return that a record cannot be read."""
    words = f"Why: {why}. The others are not touched by it; the shelf gives what can be had of this one."
    return Message("This record is damaged", words)


NOT_PAIRED = (
    "This device is not paired. Open its pairing link: it stands in the terminal that the program runs in, and under "
    "Settings, Devices on a device that is paired."
)
NO_SUCH_LINK = "This pairing link was used, withdrawn, or is too old. Make another, under Settings, Devices."
TOO_MANY_TRIES = "Too many wrong links; wait a minute."
UNENCRYPTED = (
    "What travels between this machine and other devices is not encrypted: use it in a network you trust, or put a "
    "proxy before it (README, “From another device”)."
)
NO_SUCH_COPY = "There is no such copy."


def taken_words(added: int, changed: int, known: int) -> str:
    """Return what came of taking in a notebook."""
    return f"Taken in: {added} added, {changed} changed, {known} there already."


def put_back_words(made_at: str) -> str:
    """Return that a copy was put back."""
    return f"The notebook is what it was on {made_at} UTC. What it was just now is the newest copy."


def once(changed_at: str) -> str:
    """Return that a design is shown as it once was."""
    return f"As it was on {day_and_time(changed_at)}; keep it to have it so again."


def day_and_time(moment: str) -> str:
    """Return a moment as people write it."""
    return moment[:16].replace("T", ", ")


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
