"""Jobs and fits: progress, stop, restart after a kill, and what is stored."""

import unittest
from dataclasses import replace

import numpy as np
from sqlalchemy import text

from tests.homes import small_home
from tests.logs import machine_csv, room_csv
from tests.served import Held, fresh_app
from warmeter.core.wording import number
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.jobs.kinds import run_job
from warmeter.service.readings import logs
from warmeter.store.work import MOST_ATTEMPTS

ANN = Person("Ann")


class Jobs(unittest.TestCase):
    def setUp(self) -> None:
        self.app = replace(fresh_app(), jobs=Held())
        editing.create_home(self.app, small_home(), ANN)

    def queue(self) -> int:
        return self.app.work.enqueue("home1", "fit", "study", 1, 0)

    def state(self, job_id: int) -> str:
        job = self.app.work.job(job_id)
        assert job is not None
        return job.state

    def test_a_log_that_cannot_teach_is_answered_by_what_to_record(self) -> None:
        job_id = self.queue()
        run_job(self.app, job_id)
        job = self.app.work.job(job_id)
        self.assertEqual(job.state if job else "", "failed")
        self.assertIn("Import a log", job.sentence if job else "")

    def test_a_queued_job_is_stopped_at_once_and_never_runs(self) -> None:
        job_id = self.queue()
        self.app.work.ask_stop(job_id)
        run_job(self.app, job_id)
        self.assertEqual(self.state(job_id), "stopped")

    def test_a_running_job_is_told_to_stop_at_its_next_word(self) -> None:
        job_id = self.queue()
        self.app.work.begin(job_id)
        self.assertTrue(self.app.work.tell(job_id, 0.3, "going"))
        self.app.work.ask_stop(job_id)
        self.assertFalse(self.app.work.tell(job_id, 0.4, "going"))

    def test_jobs_cut_off_by_a_kill_run_again_at_most_twice(self) -> None:
        job_id = self.queue()
        for _ in range(MOST_ATTEMPTS):
            self.app.work.begin(job_id)
            self.app.work.requeue_interrupted()
        self.assertEqual((self.app.work.next_queued(), self.state(job_id)), (None, "failed"))

    def queue_file(self, content: str) -> int:
        """Queue the reading of a file and return the job."""
        home, revision = self.app.homes.load("home1")
        upload = logs.keep_upload(self.app, "big.csv", [content.encode()])
        return logs.ask_to_take(
            self.app, "home1", revision, upload, logs.proposal(self.app, home, upload).suggested, ANN
        )

    def test_a_big_file_is_read_in_as_a_job_that_says_what_came_of_it(self) -> None:
        job_id = self.queue_file(machine_csv(2))
        run_job(self.app, job_id)
        job = self.app.work.job(job_id)
        assert job is not None
        readings = len(machine_csv(2).splitlines()) - 1
        self.assertEqual((job.state, job.sentence), ("done", f"{number(readings)} readings imported from big.csv."))
        self.assertIn(f"Imported {readings} readings", self.app.homes.revisions("home1")[0].summary)

    def test_stopping_a_big_file_keeps_nothing_of_it_and_it_can_be_taken_later(self) -> None:
        job_id = self.queue_file(machine_csv(2))
        self.app.work.begin(job_id)
        with self.app.engine.begin() as connection:
            connection.execute(text("UPDATE job SET is_stop_asked = 1, state = 'queued'"))
        run_job(self.app, job_id)
        self.assertEqual(self.state(job_id), "stopped")
        self.assertEqual(self.app.readings.series("home1"), [])
        job = self.app.work.job(job_id)
        assert job is not None
        self.assertEqual(logs.find_upload(self.app, job.subject).file_name, "big.csv")

    def test_a_fit_comes_back_as_it_was_stored(self) -> None:
        upload = logs.keep_upload(self.app, "log.csv", [room_csv(7).encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, small_home(), upload).suggested, ANN)
        job_id = self.app.work.enqueue("home1", "fit", "study", 2, 0)
        run_job(self.app, job_id)
        self.assertEqual(self.state(job_id), "done")
        stored = self.app.work.fits("home1")["study"]
        self.assertEqual((stored.revision, stored.step_s), (2, 600.0))
        self.assertEqual(stored.fit.fitted_c.size, 7 * 144)
        self.assertTrue(np.isfinite(stored.fit.fitted_c).all())
        self.assertAlmostEqual(stored.fit.loss_w_k.value, 46.0, delta=8.0)
        logs.take_back(self.app, "home1", self.app.readings.imports("home1")[0].id, ANN)
        self.assertEqual(self.app.work.fits("home1"), {}, "a fit does not outlive its readings")
