"""What every process that the server starts has in common."""

import ctypes
import importlib
import os
import signal
import threading
import time

WATCH_S, TRIM_S = 0.5, 10.0


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


def give_memory_back() -> None:
    """Give what was freed back to the system every so often; the allocator of C keeps it otherwise.

    After a few thousand pages it kept a sixth of a process's memory. Where the C library cannot, nothing is done.
    """
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is None:
        return

    def go_on() -> None:
        while True:
            time.sleep(TRIM_S)
            trim(0)

    threading.Thread(target=go_on, daemon=True).start()


def called(place: str, *arguments: object) -> object:
    """Return what a function of "module:name" returns: handed to another process, this one does not load it."""
    module, name = place.split(":")
    return getattr(importlib.import_module(module), name)(*arguments)
