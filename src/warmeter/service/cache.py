"""A small memory of what follows from inputs that have not changed."""

import threading
from collections.abc import Callable, Hashable
from contextlib import AbstractContextManager
from typing import Generic, TypeVar

from cachetools import LRUCache

Value = TypeVar("Value")


class Cache(Generic[Value]):
    """The newest answers by key, so many at most; of several threads that want one, one makes it and the others wait."""

    def __init__(self, maximum: int) -> None:
        self._values: LRUCache[Hashable, Value] = LRUCache(maximum)
        self._lock = threading.Lock()
        self._making: dict[Hashable, tuple[AbstractContextManager[bool], int]] = {}

    def get(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """Return what was made for a key, making it at first; who waited for a maker that failed makes it himself."""
        with self._lock:
            if key in self._values:
                return self._values[key]
            turn, waiting = self._making.get(key, (threading.RLock(), 0))
            self._making[key] = turn, waiting + 1
        try:
            with turn:
                with self._lock:
                    if key in self._values:
                        return self._values[key]
                made = make()
                with self._lock:
                    self._values[key] = made
                return made
        finally:
            with self._lock:
                turn, waiting = self._making.pop(key)
                if waiting > 1:
                    self._making[key] = turn, waiting - 1

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._values.clear()
