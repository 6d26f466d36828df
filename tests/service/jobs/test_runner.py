"""The worker process: started from a thread that ends, killed, and left by its server."""

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest import mock

from tests.homes import small_home
from tests.served import fresh_app
from warmeter.service.app import Person
from warmeter.service.homes.editing import create_home
from warmeter.service.jobs import runner
from warmeter.service.jobs.runner import JobRunner
from warmeter.store.engine import open_engine
from warmeter.store.work import WorkStore


def alive(pid: int) -> bool:
    """Return whether a process runs (a zombie does not)."""
    try:
        return "Z" not in Path(f"/proc/{pid}/stat").read_text(encoding="utf-8").rsplit(")", 1)[1].split()[0]
    except OSError:
        return False


def until(true: object, seconds: float = 60.0) -> bool:
    """Return whether a condition comes true within a time."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():  # type: ignore[operator]
            return True
        threading.Event().wait(0.05)
    return False


def hang(url: str, uploads: str, job_id: int) -> None:
    """Run a job that neither ends nor heeds anything."""
    engine = open_engine(url)
    WorkStore(engine).begin(job_id)
    time.sleep(600)


class Workers(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        url = self.app.engine.url.render_as_string(hide_password=False)
        self.runner = JobRunner(url, self.app.uploads)
        self.addCleanup(self.runner.close)
        create_home(self.app, small_home(), Person("Ann"))

    def worker(self) -> int:
        return next(iter(self.runner._pool._processes))

    def state(self, job_id: int) -> str:
        job = self.app.work.job(job_id)
        assert job is not None
        return job.state

    def enqueue(self) -> int:
        return self.app.work.enqueue("home1", "fit", "study", 1, 0)

    def run_one(self) -> None:
        job_id = self.enqueue()
        self.assertTrue(until(lambda: self.state(job_id) == "failed"), "the job, which has no log, was not run")

    def test_what_any_process_queued_is_run_by_the_same_worker(self) -> None:
        self.run_one()
        first = self.worker()
        self.run_one()
        self.assertEqual(self.worker(), first)

    def test_one_that_was_killed_is_replaced(self) -> None:
        self.run_one()
        gone = self.worker()
        os.kill(gone, signal.SIGKILL)
        self.assertTrue(until(lambda: not alive(gone)))
        self.run_one()

    def test_what_it_was_at_when_killed_is_taken_up(self) -> None:
        with mock.patch.object(runner, "JOB", f"{__name__}:hang"):
            job_id = self.enqueue()
            self.assertTrue(until(lambda: self.state(job_id) == "running"))
        os.kill(self.worker(), signal.SIGKILL)
        self.assertTrue(until(lambda: self.state(job_id) == "failed"), "the job was not taken up")

    def test_one_that_hangs_is_stopped_when_asked(self) -> None:
        with mock.patch.object(runner, "JOB", f"{__name__}:hang"):
            job_id = self.enqueue()
            self.assertTrue(until(lambda: self.state(job_id) == "running"))
        self.app.work.ask_stop(job_id)
        self.assertTrue(until(lambda: self.state(job_id) == "stopped", 20), "the job went on")
        self.run_one()


class Settling(unittest.TestCase):
    def test_what_was_begun_too_often_or_asked_to_stop_is_not_run_again(self) -> None:
        app = fresh_app()
        create_home(app, small_home(), Person("Ann"))
        work = app.work
        often, asked, once = (work.enqueue("home1", "fit", "study", 1, 0) for _ in range(3))
        for _ in range(3):
            work.begin(often)
        work.begin(asked)
        work.ask_stop(asked)
        work.begin(once)
        work.requeue_interrupted()
        states = [job.state for job in (work.job(often), work.job(asked), work.job(once)) if job]
        self.assertEqual(states, ["failed", "stopped", "queued"])
        self.assertEqual(work.next_queued(), once)


class Left(unittest.TestCase):
    def test_it_ends_when_its_server_is_killed(self) -> None:
        script = (
            "import sys, time\n"
            "from pathlib import Path\n"
            "from warmeter.service.jobs.runner import JobRunner\n"
            "if __name__ == '__main__':\n"
            "    runner = JobRunner(sys.argv[1], Path('/nowhere'))\n"
            "    print(next(iter(runner._pool._processes)), flush=True)\n"
            "    time.sleep(60)\n"
        )
        folder = Path(tempfile.mkdtemp(prefix="warmeter-runner-"))
        self.addCleanup(shutil.rmtree, folder)
        path = folder / "server.py"
        path.write_text(script, encoding="utf-8")
        server = subprocess.Popen(
            [sys.executable, str(path), "mysql+pymysql://nobody@127.0.0.1/none"], stdout=subprocess.PIPE, text=True
        )
        assert server.stdout is not None
        worker = int(server.stdout.readline())
        self.assertTrue(until(lambda: alive(worker)))
        server.send_signal(signal.SIGKILL)
        server.communicate()
        self.assertTrue(until(lambda: not alive(worker), 20), "the worker was left behind")
