"""It watches itself: each request has a number that an error page shows, the log has no names, /health tells."""

import json
import shutil
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

from tests.web.test_pages import Case
from warmeter.service import logfile
from warmeter.service.jobs.runner import SIGN
from warmeter.store.engine import DatabaseAway
from warmeter.store.homes import HomeStore
from warmeter.store.work import WorkStore


class LogAndHealth(Case):
    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(tempfile.mkdtemp(prefix="warmeter-log-"))
        self.addCleanup(shutil.rmtree, self.folder)
        logfile.log_into(self.folder)
        self.addCleanup(self.log_no_more)

    def log_no_more(self) -> None:
        logfile.LOGGER.handlers.pop().close()

    def lines(self) -> list[dict[str, object]]:
        return [json.loads(line) for line in (self.folder / "warmeter.log").read_text(encoding="utf-8").splitlines()]

    def test_what_nobody_foresaw_is_answered_with_its_number_and_logged_without_its_words(self) -> None:
        with mock.patch.object(HomeStore, "revisions", side_effect=RuntimeError("Ann was at 21.5 °C")):
            answer = self.client.get("/homes/home1/survey?w=900&at=Annas-room")
        self.assertEqual(answer.status_code, 500)
        self.assertIn("default-src 'none'", answer.headers["content-security-policy"])
        number = answer.headers["x-request-id"]
        self.assertIn(f'id="request-id">{number}<', answer.text)
        broke, request = self.lines()
        self.assertEqual((broke["id"], broke["error"], request["id"]), (number, "RuntimeError", number))
        self.assertTrue(any("page.py" in str(frame) for frame in broke["frames"]))  # type: ignore[attr-defined]
        self.assertEqual((request["route"], request["status"]), ("survey", 500))
        text = (self.folder / "warmeter.log").read_text(encoding="utf-8")
        for word in ("Ann", "21.5", "Reed"):
            self.assertNotIn(word, text)

    def test_each_request_has_a_number_of_its_own(self) -> None:
        numbers = {self.client.get("/").headers["x-request-id"] for _ in range(5)}
        self.assertEqual(numbers, {line["id"] for line in self.lines()})

    def test_a_log_that_has_grown_is_put_aside_and_goes_on(self) -> None:
        with mock.patch.object(logfile, "MOST_BYTES", 100):
            for _ in range(8):
                self.client.get("/")
                logfile.rotate(self.folder)
        self.client.get("/")
        self.assertEqual(len(self.lines()), 1)
        self.assertEqual(len(list(self.folder.glob("warmeter.*.log"))), logfile.KEPT)

    def test_health_tells_of_database_worker_disk_and_backup(self) -> None:
        well = self.client.get("/health")
        self.assertEqual((well.status_code, well.json()["database"], well.json()["last_backup"]), (200, "well", None))
        job_id = self.app.work.enqueue("home1", "fit", "study", 1, self.app.now_ms() - 90_000)
        stuck = self.client.get("/health")
        self.assertEqual((stuck.status_code, stuck.json()["jobs_waiting"]), (503, 1))
        sign = self.app.uploads.parent / SIGN
        sign.touch()
        self.addCleanup(sign.unlink)
        self.assertEqual(self.client.get("/health").status_code, 200, "the runner lives: it is between two jobs")
        self.app.work.begin(job_id)
        self.assertEqual(self.client.get("/health").json()["worker"], "busy")
        with mock.patch.object(WorkStore, "unfinished", side_effect=DatabaseAway("gone")):
            away = self.client.get("/health")
        self.assertEqual((away.status_code, away.json()["database"]), (503, "being restarted"))
        full = replace(self.app, uploads=self.folder / "uploads")
        with (
            mock.patch("shutil.disk_usage", return_value=mock.Mock(free=5 * 1024**2)),
            mock.patch.object(self.client.app.state, "app", full),  # type: ignore[attr-defined]
        ):
            self.assertEqual(self.client.get("/health").json()["disk_free_mb"], 5)


if __name__ == "__main__":
    unittest.main()
