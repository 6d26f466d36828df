"""The job port of a small install: one worker process of its own."""

import os
import queue
import signal
import threading
import time
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path

from warmeter.service.jobs import run_job
from warmeter.service.workbench import Workbench, wall_now_ms
from warmeter.store.engine import DatabaseAway, open_engine
from warmeter.store.work import WorkStore

WATCH_S = 0.5


class ProcessPool:
    """Runs queued jobs one after another in a separate process."""

    def __init__(self, url: str, uploads: Path) -> None:
        self._url, self._uploads = url, uploads
        self._lock = threading.Lock()
        self._is_closed = threading.Event()
        self._lost: queue.SimpleQueue[int] = queue.SimpleQueue()
        self._pool = _new_pool()
        # The worker starts now, so that the first job does not wait for its imports.
        self._pool.submit(wall_now_ms)
        threading.Thread(target=self._take_up_lost, daemon=True).start()

    def submit(self, job_id: int) -> None:
        """Queue a job for the worker; a worker that died is replaced."""
        with self._lock:
            try:
                ended = self._pool.submit(run_in_worker, self._url, str(self._uploads), job_id)
            except BrokenProcessPool:
                self._pool = _new_pool()
                ended = self._pool.submit(run_in_worker, self._url, str(self._uploads), job_id)
        ended.add_done_callback(lambda future: self._look_at(job_id, future))

    def close(self) -> None:
        """Stop the worker; a job that runs is begun again at the next start."""
        self._is_closed.set()
        workers = list((self._pool._processes or {}).values())
        self._pool.shutdown(wait=False, cancel_futures=True)
        for process in workers:
            process.terminate()

    def _look_at(self, job_id: int, ended: Future[None]) -> None:
        """Note a job whose worker died, or lost the database, before it ended."""
        if not ended.cancelled() and ended.exception() is not None:
            self._lost.put(job_id)

    def _take_up_lost(self) -> None:
        """Begin lost jobs again, each as soon as the database answers."""
        engine = open_engine(self._url)
        work = WorkStore(engine)
        while not self._is_closed.is_set():
            try:
                job_id = self._lost.get(timeout=WATCH_S)
            except queue.Empty:
                continue
            while not self._is_closed.is_set():
                try:
                    if work.requeue(job_id):
                        self.submit(job_id)
                    break
                except DatabaseAway:
                    self._is_closed.wait(WATCH_S)
        engine.dispose()


class NoJobs:
    """A port that only queues, for the worker itself."""

    def submit(self, job_id: int) -> None:
        """Leave the job queued."""


def _new_pool() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(
        max_workers=1, mp_context=get_context("spawn"), initializer=_live_with, initargs=(os.getpid(),)
    )


def _live_with(server_pid: int) -> None:
    """Let the worker end soon after the server, and leave Ctrl-C to the server.

    The kernel's own parent-death signal will not do: it fires when the *thread* that started the
    worker ends, and web threads come and go.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)

    def watch() -> None:
        while os.getppid() == server_pid:
            time.sleep(WATCH_S)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def run_in_worker(url: str, uploads: str, job_id: int) -> None:
    """Open the database and run one job."""
    engine = open_engine(url)
    try:
        run_job(Workbench(engine=engine, uploads=Path(uploads), jobs=NoJobs(), now_ms=wall_now_ms), job_id)
    finally:
        engine.dispose()
