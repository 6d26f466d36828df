"""Brings a database or a broker that died back, while its Warmeter runs."""

import sys
import threading
from collections.abc import Callable
from typing import Protocol

LOOK_S, AGAIN_S = 0.25, 2.0


class Startable(Protocol):
    """A server of one's own that can be started again where it was."""

    @property
    def is_running(self) -> bool:
        """Whether its process lives."""
        ...

    def start(self) -> None:
        """Start it; a ``RuntimeError`` or ``OSError`` says why that did not work."""
        ...


class Supervisor:
    """Watches a server that was started; ``on_back`` is called each time after it was brought back."""

    def __init__(self, server: Startable, on_back: Callable[[], None], name: str = "database") -> None:
        self._server, self._on_back, self._name = server, on_back, name
        self._ending = threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Watch no more; call it before the server is stopped."""
        self._ending.set()
        self._thread.join()

    def _watch(self) -> None:
        wait_s = LOOK_S
        while not self._ending.wait(wait_s):
            wait_s = LOOK_S
            if self._server.is_running:
                continue
            try:
                self._server.start()
            except (RuntimeError, OSError) as error:
                print(f"The {self._name} died and did not come back: {error}", file=sys.stderr, flush=True)
                wait_s = AGAIN_S
            else:
                self._on_back()
