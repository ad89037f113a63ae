"""A few things kept under their keys, the least lately asked for going first; safe for threads."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

Value = TypeVar("Value")


class Recent(Generic[Value]):
    """At most so many of them. Two threads that make the same thing at once both make it: it is the same."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._kept: OrderedDict[Hashable, Value] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """What is kept under the key, else what `make` makes of it; what `make` raises is not kept."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        # Outside of the lock: what takes a second must not make others wait for what is there.
        made = make()
        self.keep(key, made)
        return made

    def keep(self, key: Hashable, value: Value) -> None:
        """Keeps a value that is known already."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
