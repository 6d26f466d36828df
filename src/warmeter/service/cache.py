"""A small memory of what follows from inputs that have not changed."""

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from cachetools import LRUCache

Value = TypeVar("Value")


class Cache(Generic[Value]):
    """The newest answers by key, so many at most; safe for several threads, which may both make one."""

    def __init__(self, maximum: int) -> None:
        self._values: LRUCache[Hashable, Value] = LRUCache(maximum)
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """Return what was made for a key, making it at first."""
        with self._lock:
            if key in self._values:
                return self._values[key]
        made = make()
        with self._lock:
            self._values[key] = made
        return made

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._values.clear()
