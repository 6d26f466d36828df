"""One live process a data folder: it outlives a server that is killed, and the next one's takes over from it."""

import fcntl
import os
import signal
import threading
import time
from contextlib import suppress
from multiprocessing import forkserver, parent_process, resource_tracker
from pathlib import Path

FILE = "live.lock"
END_S, LOOK_S, WATCH_S = 5.0, 0.02, 0.5


def take_over(folder: Path) -> None:
    """Make this process the one that looks after the homes of a data folder; whichever did so before is ended.

    Raises
    ------
    OSError
        If the folder cannot be written.
    """
    holds = _opened(folder)
    _wait_for(holds)
    os.ftruncate(holds, 0)
    os.pwrite(holds, str(os.getpid()).encode(), 0)
    # Held until this process ends: the descriptor stays open.


def end_left_over(folder: Path) -> None:
    """End a process that looks after the homes of a data folder though its server has gone; without one nothing is done."""
    if not (folder / FILE).exists():
        return
    holds = _opened(folder)
    try:
        _wait_for(holds)
    finally:
        os.close(holds)


def outlive_server(folder: Path) -> None:
    """Let this process go on when its server is killed, for as long as its data folder is there; Ctrl-C is the server's."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    server, inode = parent_process(), (folder / FILE).stat().st_ino

    def watch() -> None:
        while server is None or server.is_alive():
            time.sleep(WATCH_S)
        # Whoever reads what the server prints would wait for this process, and so would what it was forked from.
        nowhere = os.open(os.devnull, os.O_RDWR)
        for each in (0, 1, 2, *_held_open()):
            os.dup2(nowhere, each)
        while _inode(folder) == inode:
            time.sleep(WATCH_S)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def _held_open() -> list[int]:
    """Return the descriptors by which what this process was forked from, and what tidies up after it, see that it lives."""
    held = forkserver._forkserver._forkserver_alive_fd, resource_tracker._resource_tracker._fd  # type: ignore[attr-defined]
    return [each for each in held if each is not None]


def _opened(folder: Path) -> int:
    return os.open(folder / FILE, os.O_RDWR | os.O_CREAT, 0o600)


def _wait_for(holds: int) -> None:
    """Wait until nobody else holds a lock; whoever does is asked to end, and killed if it does not."""
    end = time.monotonic() + END_S
    how = signal.SIGTERM
    while not _is_taken(holds):
        told = os.pread(holds, 20, 0).decode()
        # One that has just taken it has not told its number yet.
        if told.isdecimal() and int(told) != os.getpid():
            with suppress(ProcessLookupError):
                os.kill(int(told), how)
            how = signal.SIGKILL
            while not _is_taken(holds) and time.monotonic() < end:
                time.sleep(LOOK_S)
            end += END_S
        time.sleep(LOOK_S)


def _is_taken(holds: int) -> bool:
    try:
        fcntl.flock(holds, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


def _inode(folder: Path) -> int:
    try:
        return (folder / FILE).stat().st_ino
    except OSError:
        return 0
