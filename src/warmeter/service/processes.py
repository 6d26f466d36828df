"""What every process that the server starts has in common."""

import importlib
import os
import signal
import threading
import time

WATCH_S = 0.5


def end_with(server_pid: int) -> None:
    """Let this process end soon after the server does, and leave Ctrl-C to the server.

    The kernel's own parent-death signal will not do: it fires when the *thread* that started the
    process ends, and threads come and go.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)

    def watch() -> None:
        while os.getppid() == server_pid:
            time.sleep(WATCH_S)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def called(place: str, *arguments: object) -> object:
    """Return what a function of "module:name" returns: handed to another process, this one does not load it."""
    module, name = place.split(":")
    return getattr(importlib.import_module(module), name)(*arguments)
