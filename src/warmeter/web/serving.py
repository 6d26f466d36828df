"""Several server processes over one listening socket: started, replaced when they die, ended in time."""

import os
import signal
import time
from collections.abc import Callable
from socket import socket

import uvicorn
from uvicorn.config import STARTUP_FAILURE
from uvicorn.supervisors.multiprocess import Multiprocess, Process

from warmeter.store.server import PrivateServer

APP = "warmeter.web.process:app_of_environment"
DATA_DIR, DATABASE_PORT = "WARMETER_DATA_DIR", "WARMETER_DATABASE_PORT"
KEY, PARENT = "WARMETER_KEY", "WARMETER_PARENT"
UPLOADS = "uploads"
READY_S, LOOK_S = 60.0, 0.2
ANSWER_S = 30  # a process that tells no sign of life for this long is replaced
STOP_S = 2.0


class WebProcesses(Multiprocess):
    """The server processes of an install."""

    def __init__(
        self, server: PrivateServer, listening: socket, count: int, key: str, on_ready: Callable[[], None]
    ) -> None:
        os.environ |= {
            DATA_DIR: str(server.folder),
            DATABASE_PORT: str(server.port),
            KEY: key,
            PARENT: str(os.getpid()),
        }
        config = uvicorn.Config(
            APP,
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
        super().init_processes()
        waited, end = list(self.processes), time.monotonic() + READY_S
        while waited and not self.should_exit.is_set() and time.monotonic() < end:
            self.handle_signals()
            self.keep_subprocess_alive()
            waited = [each for each in self.processes if not each.is_ready(timeout=LOOK_S)]
        if not waited:
            self._on_ready()

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
            self.processes[place] = Process(self.config, self.sockets)
            self.processes[place].start()

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
