"""What was worked out lately, kept by what it hangs on."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar, cast

Found = TypeVar("Found")
Kind = TypeVar("Kind", bound=type)

_NOTHING: Any = object()


def with_kept_hash(kind: Kind) -> Kind:
    """Make a frozen data class keep its hash: what is deep is looked up again and again by all that it holds."""
    plain = cast(Callable[[Any], int], kind.__hash__)

    def kept(self: Any) -> int:
        found: int | None = self.__dict__.get("_hash")
        if found is None:
            found = self.__dict__["_hash"] = plain(self)
        return found

    kind.__hash__ = kept  # type: ignore[method-assign, assignment]
    return kind


class Memory:
    """The last answers of pure functions; the one not asked for longest is forgotten first."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._known: OrderedDict[Hashable, Any] = OrderedDict()

    def __contains__(self, key: Hashable) -> bool:
        """Whether the answer under a key is known."""
        return key in self._known

    def recall(self, key: Hashable, work: Callable[[], Found]) -> Found:
        """Return what is known under a key, else work it out; what fails is not kept."""
        found: Found = self._known.get(key, _NOTHING)
        if found is not _NOTHING:
            self._known.move_to_end(key)
            return found
        self._known[key] = found = work()
        while len(self._known) > self._most:
            self._known.popitem(last=False)
        return found


def recalled(memory: Memory | None, key: Hashable, work: Callable[[], Found]) -> Found:
    """Return what a memory knows under a key, else what the work gives."""
    return work() if memory is None else memory.recall(key, work)
