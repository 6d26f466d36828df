"""The worker process: started from a thread that ends, killed, and left by its server."""

import os
import signal
import subprocess
import sys
import threading
import time
import unittest
from dataclasses import replace
from pathlib import Path

from tests.homes import small_home
from tests.served import fresh_bench
from warmeter.service.editing import create_home
from warmeter.service.jobpool import ProcessPool
from warmeter.service.workbench import Person


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


class Workers(unittest.TestCase):
    def setUp(self) -> None:
        bench = fresh_bench()
        url = bench.engine.url.render_as_string(hide_password=False)
        self.pool = ProcessPool(url, bench.uploads)
        self.addCleanup(self.pool.close)
        self.bench = replace(bench, jobs=self.pool)
        create_home(self.bench, small_home(), Person("Ann"))

    def worker(self) -> int:
        return next(iter(self.pool._pool._processes))

    def is_over(self, job_id: int) -> bool:
        job = self.bench.work.job(job_id)
        return job is not None and job.is_over

    def run_one(self) -> None:
        job_id = self.bench.work.enqueue("home1", "fit", "study", 1, 0)
        thread = threading.Thread(target=self.pool.submit, args=(job_id,))
        thread.start()
        thread.join()
        self.assertTrue(until(lambda: self.is_over(job_id)), "the job was not run")

    def test_it_outlives_the_threads_that_hand_it_work(self) -> None:
        self.run_one()
        first = self.worker()
        self.run_one()
        self.assertEqual(self.worker(), first)

    def test_one_that_was_killed_is_replaced(self) -> None:
        self.run_one()
        os.kill(self.worker(), signal.SIGKILL)
        gone = self.worker()
        self.assertTrue(until(lambda: not alive(gone)))
        self.assertTrue(until(lambda: self.pool._pool._broken))
        self.run_one()

    def test_what_it_was_at_when_killed_is_taken_up(self) -> None:
        job_id = self.bench.work.enqueue("home1", "fit", "study", 1, 0)
        self.bench.work.begin(job_id)
        with self.pool._lock:
            ended = self.pool._pool.submit(time.sleep, 60)
        ended.add_done_callback(lambda future: self.pool._look_at(job_id, future))
        self.assertTrue(until(ended.running))
        os.kill(self.worker(), signal.SIGKILL)
        self.assertTrue(until(lambda: self.is_over(job_id)), "the job was not taken up")

    def test_what_was_begun_too_often_or_asked_to_stop_is_not(self) -> None:
        work = self.bench.work
        often, asked = (work.enqueue("home1", "fit", "study", 1, 0) for _ in range(2))
        for _ in range(3):
            work.begin(often)
        work.begin(asked)
        work.ask_stop(asked)
        self.assertEqual((work.requeue(often), work.requeue(asked)), (False, False))
        self.assertEqual([work.job(j).state for j in (often, asked)], ["failed", "stopped"])  # type: ignore[union-attr]
        self.assertFalse(work.requeue(often))

    def test_it_ends_when_its_server_is_killed(self) -> None:
        script = (
            "import sys, time\n"
            "from pathlib import Path\n"
            "from warmeter.service.jobpool import ProcessPool\n"
            "if __name__ == '__main__':\n"
            "    pool = ProcessPool(sys.argv[1], Path('/nowhere'))\n"
            "    print(next(iter(pool._pool._processes)), flush=True)\n"
            "    time.sleep(60)\n"
        )
        path = self.bench.uploads / "server.py"
        path.parent.mkdir(parents=True, exist_ok=True)
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
