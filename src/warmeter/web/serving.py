"""Several server processes over one listening socket: started, replaced when they die, ended in time."""

import os
import signal
import time
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from socket import socket

import uvicorn
from uvicorn._subprocess import subprocess_started
from uvicorn.config import STARTUP_FAILURE
from uvicorn.supervisors.multiprocess import Multiprocess, Process

from warmeter.service.processes import NOT_FORKED, called, preloaded
from warmeter.store.server import PrivateServer

APP = "warmeter.web.process:app_over"
READY_S, LOOK_S = 60.0, 0.2
ANSWER_S = 30  # a process that tells no sign of life for this long is replaced
STOP_S = 2.0


class WebProcesses(Multiprocess):
    """The server processes of an install."""

    def __init__(
        self, server: PrivateServer, listening: socket, count: int, key: str, on_ready: Callable[[], None]
    ) -> None:
        config = uvicorn.Config(
            partial(called, APP, server.folder, server.port, key),
            factory=True,
            workers=count,
            log_level="warning",
            lifespan="on",
            timeout_graceful_shutdown=1,
            timeout_worker_healthcheck=ANSWER_S,
        )
        super().__init__(config, [listening])
        self._on_ready = on_ready
        self._heard_s: dict[int | None, float] = {}

    def init_processes(self) -> None:
        """Start all and tell when they answer."""
        self.processes += [self._started() for _ in range(self.processes_num)]
        waited, end = list(self.processes), time.monotonic() + READY_S
        while waited and not self.should_exit.is_set() and time.monotonic() < end:
            self.handle_signals()
            self.keep_subprocess_alive()
            waited = [each for each in self.processes if not each.is_ready(timeout=LOOK_S)]
        if not waited:
            self._on_ready()

    def _started(self) -> Process:
        """Start a server process that is forked from one that has loaded everything."""
        made = Process(self.config, self.sockets)
        parts = {"config": self.config, "target": made.target, "sockets": self.sockets, "stdin_fileno": None}
        # Of another kind than its own; both are handled alike.
        made.process = preloaded().Process(target=subprocess_started, kwargs=parts)  # type: ignore[assignment]
        made.start()
        return made

    def keep_subprocess_alive(self) -> None:
        """Replace each process that died, or has told no sign of life for long; one look never waits for another."""
        for place, each in enumerate(self.processes):
            now = time.monotonic()
            if each.process.is_alive() and each.ping(LOOK_S):
                self._heard_s[each.pid] = now
            if each.process.is_alive() and now - self._heard_s.setdefault(each.pid, now) < ANSWER_S:
                continue
            _kill(each)
            if each.exitcode == STARTUP_FAILURE:
                self.should_exit.set()
                return
            with suppress(*NOT_FORKED):  # else at the next look
                self.processes[place] = self._started()

    def join_all(self) -> None:
        """Wait for all to end; those that do not in time are killed."""
        end = time.monotonic() + STOP_S
        for each in self.processes:
            each.process.join(max(0.0, end - time.monotonic()))
            _kill(each)


def _kill(each: Process) -> None:
    if each.process.is_alive() and each.pid is not None:
        os.kill(each.pid, signal.SIGKILL)
        each.process.join()
