"""Brings a database that died back, while its Warmeter runs."""

import sys
import threading
from collections.abc import Callable

from warmeter.store.server import DatabaseError, PrivateServer

LOOK_S, AGAIN_S = 0.25, 2.0


class Supervisor:
    """Watches a server that was started; ``on_back`` is called each time after it was brought back."""

    def __init__(self, server: PrivateServer, on_back: Callable[[], None]) -> None:
        self._server, self._on_back = server, on_back
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
            except (DatabaseError, OSError) as error:
                print(f"The database died and did not come back: {error}", file=sys.stderr, flush=True)
                wait_s = AGAIN_S
            else:
                self._on_back()
