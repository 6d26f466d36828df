"""The job port of a small install: one worker process of its own."""

import ctypes
import signal
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

from warmeter.service.fitting import run_fit
from warmeter.service.workbench import Workbench, wall_now_ms
from warmeter.store.engine import open_engine

_PR_SET_PDEATHSIG = 1


class ProcessPool:
    """Runs queued jobs one after another in a separate process."""

    def __init__(self, url: str, uploads: Path) -> None:
        self._url, self._uploads = url, uploads
        self._pool = ProcessPoolExecutor(max_workers=1, mp_context=get_context("spawn"), initializer=_die_with_parent)

    def submit(self, job_id: int) -> None:
        """Queue a job for the worker."""
        self._pool.submit(run_in_worker, self._url, str(self._uploads), job_id)

    def close(self) -> None:
        """Stop the worker; a job that runs is begun again at the next start."""
        self._pool.shutdown(wait=False, cancel_futures=True)
        for process in list((self._pool._processes or {}).values()):
            process.terminate()


class NoJobs:
    """A port that only queues, for the worker itself."""

    def submit(self, job_id: int) -> None:
        """Leave the job queued."""


def _die_with_parent() -> None:
    """Let the worker end when the server is killed, and leave Ctrl-C to the server."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)


def run_in_worker(url: str, uploads: str, job_id: int) -> None:
    """Open the database and run one job."""
    engine = open_engine(url)
    try:
        run_fit(Workbench(engine=engine, uploads=Path(uploads), jobs=NoJobs(), now_ms=wall_now_ms), job_id)
    finally:
        engine.dispose()
