"""What was worked out lately, kept by what it hangs on."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

Found = TypeVar("Found")


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
        if key in self._known:
            self._known.move_to_end(key)
        else:
            self._known[key] = work()
            while len(self._known) > self._most:
                self._known.popitem(last=False)
        found: Found = self._known[key]
        return found


def recalled(memory: Memory | None, key: Hashable, work: Callable[[], Found]) -> Found:
    """Return what a memory knows under a key, else what the work gives."""
    return work() if memory is None else memory.recall(key, work)
