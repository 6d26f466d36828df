"""Runs queued jobs, whichever process queued them, one after another in a worker process of its own."""

import logging
import os
import threading
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from pathlib import Path

from warmeter.service.app import system_now_ms
from warmeter.service.logfile import note
from warmeter.service.processes import NOT_FORKED, called, end_with_parent, give_memory_back, preloaded
from warmeter.store.engine import DatabaseAway, DatabaseBusy, open_engine
from warmeter.store.work import WorkStore

JOB = "warmeter.service.jobs.worker:run_in_worker"
NICE, TASKS = 10, 20
SIGN = "jobs-looked-after"  # in the data folder; when it was touched tells that the runner lives
LOOK_S = 0.25
STOP_S = 4.0  # a job that was asked to stop and still runs after this long is ended with its worker


class JobRunner:
    """The one runner of an install: a job cut off by a kill or a lost database is taken up as ``WorkStore`` settles."""

    def __init__(self, url: str, uploads: Path) -> None:
        self._url, self._uploads = url, uploads
        self._engine = open_engine(url)
        self._work = WorkStore(self._engine)
        self._ending = threading.Event()
        self._pool = _new_pool()
        self._thread = threading.Thread(target=self._run_queued, daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Stop the worker; a job that runs is begun again at the next start."""
        self._ending.set()
        self._end_worker()
        self._thread.join()
        self._pool.shutdown(wait=False, cancel_futures=True)
        self._engine.dispose()

    def _run_queued(self) -> None:
        is_settled = False
        while not self._ending.is_set():
            self._beat()
            try:
                if not is_settled:
                    self._work.requeue_interrupted()
                    is_settled = True
                job_id = self._work.next_queued()
            except (DatabaseAway, DatabaseBusy):
                job_id = None
            if job_id is None:
                self._ending.wait(LOOK_S)
            else:
                # Whatever is still marked as running after this was cut off.
                is_settled = self._run(job_id)
                if not is_settled:
                    self._ending.wait(LOOK_S)

    def _run(self, job_id: int) -> bool:
        """Run a job to its end, or to that of its worker; return whether it is settled."""
        try:
            ended, asked_s = self._handed(job_id), 0.0
        except (BrokenProcessPool, *NOT_FORKED):
            return False
        while not self._ending.is_set():
            self._beat()
            try:
                ended.result(timeout=LOOK_S)
                return True
            except TimeoutError:
                asked_s = asked_s + LOOK_S if self._is_stop_asked(job_id) else 0.0
                if asked_s > STOP_S:
                    self._end_worker()
            except (BrokenProcessPool, DatabaseAway):
                return False
            except Exception as error:
                note("job broke", level=logging.ERROR, error=error, job=job_id)
                return False
        return False

    def _beat(self) -> None:
        """Leave a sign that jobs are being looked after."""
        with suppress(OSError):
            (self._uploads.parent / SIGN).touch()

    def _handed(self, job_id: int) -> Future[object]:
        """Hand a job to the worker; one that died is replaced. ``NOT_FORKED`` if none can be started just now."""
        try:
            return self._pool.submit(called, JOB, self._url, str(self._uploads), job_id)
        except (BrokenProcessPool, *NOT_FORKED):
            self._pool = _new_pool()
            return self._pool.submit(called, JOB, self._url, str(self._uploads), job_id)

    def _is_stop_asked(self, job_id: int) -> bool:
        try:
            job = self._work.job(job_id)
        except DatabaseAway:
            return False
        return job is not None and bool(job.is_stop_asked)

    def _end_worker(self) -> None:
        for process in list((self._pool._processes or {}).values()):
            process.kill()


def _live() -> None:
    """Let the worker end with its server, and give way to whoever waits for a page."""
    end_with_parent()
    give_memory_back()
    os.nice(NICE)


def _new_pool() -> ProcessPoolExecutor:
    pool = ProcessPoolExecutor(
        # What jobs leave in memory goes with their worker.
        max_tasks_per_child=TASKS,
        max_workers=1,
        mp_context=preloaded(),
        initializer=_live,
    )
    # The worker starts now, so that the first job does not wait for its imports.
    with suppress(*NOT_FORKED):
        pool.submit(system_now_ms)
    return pool
