"""Where a strand stands in a yarn: ``yarn.strands[1].core``, as the design file names it."""

import re

_STRAND = re.compile(r"strands\[(\d+)\]")
_INNER = ("strand", "core", "binder", "wrapper")


class Address(str):
    """The address of a strand: names from the whole to it, parted by dots."""

    __slots__ = ()

    def inner(self, name: str) -> "Address":
        """Return the address of what is laid into it under a name."""
        return Address(f"{self}.{name}")

    def strand(self, place: int) -> "Address":
        """Return the address of one of the strands of a ply."""
        return self.inner(f"strands[{place}]")

    @property
    def above(self) -> "Address":
        """The address of what it is laid into; of the whole an empty one."""
        return Address(self.rpartition(".")[0])

    @property
    def name(self) -> str:
        """Its name in what it is laid into."""
        return self.rpartition(".")[2]

    @property
    def place(self) -> int | None:
        """Its place among the strands of a ply; None of what lies in none."""
        found = _STRAND.fullmatch(self.name)
        return int(found[1]) if found else None

    @property
    def depth(self) -> int:
        """How many steps lie between the whole and it."""
        return self.count(".")

    @property
    def in_core(self) -> bool:
        """Whether it is a core, or part of one."""
        return "core" in self.split(".")

    def lies_in(self, other: str) -> bool:
        """Whether it is another strand, or part of that."""
        return f"{self}.".startswith(f"{other}.")


WHOLE = Address("yarn")


def parted(place: str) -> tuple[Address, str]:
    """Return the strand that a place in a file lies in, and what follows; an empty address outside the yarn."""
    first, *names = place.split(".")
    if first != WHOLE:
        return Address(""), place
    at = WHOLE
    while names and (_STRAND.fullmatch(names[0]) or names[0] in _INNER):
        at = at.inner(names.pop(0))
    return at, ".".join(names)
