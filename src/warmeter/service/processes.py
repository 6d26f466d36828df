"""What every process that the server starts has in common."""

import ctypes
import importlib
import os
import signal
import threading
import time
from functools import cache
from multiprocessing import forkserver, get_context, parent_process
from multiprocessing.connection import wait
from multiprocessing.context import ForkServerContext
from multiprocessing.process import BaseProcess

WATCH_S, TRIM_S = 0.5, 5.0
STOP_S = 3.0
MAPPED_FROM = 1 << 20  # bytes: what is larger is mapped by itself, and goes back to the system as it is freed
_M_MMAP_THRESHOLD = -3  # of mallopt(3)
PRELOADED = "warmeter.web.preloaded"


# The process that others are forked from has just died, and has not been missed yet.
NOT_FORKED = (OSError, EOFError)


@cache
def preloaded() -> ForkServerContext:
    """Return what starts processes as forks of one that has loaded everything: they start at once and share its memory.

    That one begins to load at the first call.
    """
    context = get_context("forkserver")
    context.set_forkserver_preload([PRELOADED])
    forkserver.ensure_running()
    return context


def end_with_parent() -> None:
    """Let this process end soon after the server, or the process that it was forked from, and leave Ctrl-C to the server.

    The kernel's own parent-death signal will not do: it fires when the *thread* that started the
    process ends, and threads come and go.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    server, forked_from = parent_process(), os.getppid()

    def watch() -> None:
        while os.getppid() == forked_from and (server is None or server.is_alive()):
            time.sleep(WATCH_S)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def give_memory_back() -> None:
    """Give what was freed back to the system: large arrays at once, the rest every so often.

    The allocator of C keeps it otherwise: after a few thousand pages a quarter of a process's memory. Where the C
    library cannot, nothing is done.
    """
    library = ctypes.CDLL(None)
    trim, tune = getattr(library, "malloc_trim", None), getattr(library, "mallopt", None)
    if trim is None or tune is None:
        return
    tune(_M_MMAP_THRESHOLD, MAPPED_FROM)

    def go_on() -> None:
        while True:
            time.sleep(TRIM_S)
            trim(0)

    threading.Thread(target=go_on, daemon=True).start()


class KeptProcess:
    """A process of the server's that is started anew whenever it dies.

    Parameters
    ----------
    place : str
        What it runs, as "module:name".
    arguments : objects
        What that is called with.
    """

    def __init__(self, place: str, *arguments: object) -> None:
        self._place, self._arguments = place, arguments
        self._ending = threading.Event()
        self._process = self._started()
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()

    @property
    def pid(self) -> int:
        """Its number now."""
        return self._process.pid or 0

    def _started(self) -> BaseProcess:
        made = preloaded().Process(target=called, args=(self._place, *self._arguments), daemon=True)
        made.start()
        return made

    def _watch(self) -> None:
        while not self._ending.is_set():
            if not wait([self._process.sentinel], WATCH_S) or self._process.is_alive():
                continue
            try:
                self._process = self._started()
            except NOT_FORKED:
                self._ending.wait(WATCH_S)

    def close(self) -> None:
        """End it; what it was doing is taken up at the next start."""
        self._ending.set()
        self._thread.join()
        self._process.terminate()
        self._process.join(STOP_S)
        self._process.kill()
        self._process.join()


def called(place: str, *arguments: object) -> object:
    """Return what a function of "module:name" returns: handed to another process, this one does not load it."""
    module, name = place.split(":")
    return getattr(importlib.import_module(module), name)(*arguments)
