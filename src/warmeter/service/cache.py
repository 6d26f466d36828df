"""A small memory of what follows from inputs that have not changed."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Value = TypeVar("Value")


class Cache(Generic[Value]):
    """The newest answers by key, so many at most; safe for several threads."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._found: OrderedDict[Hashable, Value] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """Return what was made for a key, making it at first."""
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key]
        made = make()
        with self._lock:
            self._found[key] = made
            while len(self._found) > self._most:
                self._found.popitem(last=False)
        return made

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._found.clear()
