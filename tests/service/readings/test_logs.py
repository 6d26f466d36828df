"""Uploads that nobody took go after a day; what waits is for its owner alone."""

import os
import stat
import unittest

from tests.homes import small_home
from tests.logs import room_csv
from tests.served import fresh_app
from warmeter.core.errors import ReadingError
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs


class Uploads(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        editing.create_home(self.app, small_home(), Person("Ann"))
        self.upload = logs.keep_upload(self.app, "x.csv", [room_csv(1).encode()])

    def age(self, hours: float) -> None:
        """Make the waiting files so many hours old."""
        at = self.app.now_ms() / 1000 - hours * 3600
        for suffix in ("csv", "json"):
            os.utime(self.app.uploads / f"{self.upload.token}.{suffix}", (at, at))

    def test_one_that_was_not_taken_within_a_day_goes_with_the_next(self) -> None:
        self.age(23)
        logs.keep_upload(self.app, "y.csv", [b"time,x\n"])
        self.assertEqual(logs.find_upload(self.app, self.upload.token), self.upload)
        self.age(25)
        logs.keep_upload(self.app, "y.csv", [b"time,x\n"])
        with self.assertRaises(ReadingError):
            logs.find_upload(self.app, self.upload.token)

    def test_one_that_a_job_reads_in_stays(self) -> None:
        self.app.work.enqueue("home1", "import", self.upload.token, 1, self.app.now_ms())
        self.age(50)
        logs.keep_upload(self.app, "y.csv", [b"time,x\n"])
        self.assertEqual(logs.find_upload(self.app, self.upload.token), self.upload)

    def test_records_are_read_as_a_table_of_them(self) -> None:
        lines = [f'{{"ts": {1_767_600_000 + 600 * k}, "study": {{"temperature": {20 + k / 10}}}}}' for k in range(20)]
        for name, text in (("a.jsonl", "\n".join(lines)), ("a.json", f"[{','.join(lines)}]")):
            parts = [text.encode()[k : k + 100] for k in range(0, len(text), 100)]
            upload = logs.keep_log(self.app, name, parts)
            home = small_home()
            mapping = logs.proposal(self.app, home, upload).suggested
            self.assertEqual([(c.quantity, c.subject) for c in mapping.taken], [("room_temperature", "study")])
            (series,) = logs.preview(self.app, home, upload, mapping).series
            self.assertEqual(series.readings.value.tolist(), [20 + k / 10 for k in range(20)])
        with self.assertRaisesRegex(ReadingError, "line 2"):
            logs.keep_log(self.app, "b.jsonl", [b'{"ts": 1767600000, "study": 20}\n{"ts": '])

    def test_nobody_else_reads_what_waits(self) -> None:
        for suffix in ("csv", "json"):
            path = self.app.uploads / f"{self.upload.token}.{suffix}"
            self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600)


if __name__ == "__main__":
    unittest.main()
