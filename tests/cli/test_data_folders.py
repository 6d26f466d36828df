"""Data folders of other versions, damaged ones, and those made of a backup."""

import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from urllib.request import urlopen

import numpy as np
from sqlalchemy import text

from tests.homes import small_home
from warmeter.cli.served import Served
from warmeter.store.backup import write_backup
from warmeter.store.codec import pack, stored_home
from warmeter.store.dump import DumpReader
from warmeter.store.engine import known_shapes, migrate, newest_shape, open_engine, shape_of
from warmeter.store.reading_rows import READING_ROW
from warmeter.store.server import PrivateServer

OLD = "0011"


def warmeter(*words: str) -> subprocess.CompletedProcess[str]:
    """Run a command to its end."""
    command = [sys.executable, "-m", "warmeter.cli.main", *words]
    return subprocess.run(command, capture_output=True, text=True, check=False, timeout=120, env=dict(os.environ))


class DataFolders(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="warmeter-folders-"))
        self.addCleanup(shutil.rmtree, self.folder)
        self.data = self.folder / "data"
        self.server = PrivateServer(self.data, is_small=True)
        self.server.start()
        self.addCleanup(self.server.stop)
        self.engine = open_engine(self.server.url)

    def run_sql(self, *statements: str, **values: object) -> None:
        with self.engine.begin() as connection:
            for statement in statements:
                connection.execute(text(statement), values)

    def of_old_shape(self) -> None:
        """Make the database as a former version left it, with a home and two readings."""
        migrate(self.engine, OLD)
        self.run_sql("INSERT INTO home (id, name, revision) VALUES ('home1', 'Reed House', 1)")
        self.run_sql(
            "INSERT INTO home_revision (home_id, number, parent, at_ms, author, summary, fold, document) "
            "VALUES ('home1', 1, 0, 0, 'Ann', 'Described', '', :document)",
            document=stored_home(small_home()),
        )
        self.run_sql(
            "INSERT INTO series (id, home_id, quantity, unit, kind, stamp, step_s, longest_hold_s, subject) "
            "VALUES (1, 'home1', 'room_temperature', '°C', 'instant', 'instant', 600, 3600, 'study')"
        )
        rows = np.array([(5, 20.0, 1), (9, 20.5, 1)], READING_ROW)
        self.run_sql(
            "INSERT INTO reading_chunk (series_id, day, count, first_ms, last_ms, data) VALUES (1, 0, 2, 5, 9, :data)",
            data=pack(rows.tobytes()),
        )

    def closed(self) -> None:
        self.engine.dispose()
        self.server.stop()

    def refusal(self) -> str:
        """Return what a start says that is refused."""
        self.closed()
        done = warmeter("demo", "--port", "0", "--data-dir", str(self.data))
        self.assertEqual(done.returncode, 2, done.stdout + done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        return done.stderr

    def test_an_older_database_is_backed_up_and_brought_up_to_date(self) -> None:
        self.of_old_shape()
        self.closed()
        with Served(self.data, "--no-demo") as served, urlopen(served.address + "/homes/home1/survey/record") as page:
            self.assertIn("Reed House", page.read().decode())
        kept = next((self.data / "backups").glob("before-upgrade-*.zip"))
        with DumpReader(kept, "warmeter-backup/1") as reader:
            reader.verify()
            self.assertEqual((reader.manifest.schema, reader.manifest.members["home.jsonl"][0]), (OLD, 1))
        self.server.start()
        engine = open_engine(self.server.url)
        with engine.connect() as connection:
            row = connection.execute(text("SELECT first_reading_ms, last_reading_ms, series_count FROM home")).one()
        engine.dispose()
        self.assertEqual(tuple(row), (5, 9, 1))

    def test_a_backup_of_an_older_version_is_restored_and_brought_up_to_date(self) -> None:
        self.of_old_shape()
        path = self.folder / "old.zip"
        write_backup(self.engine, path, 0)
        made = self.folder / "made"
        done = warmeter("restore", str(path), "--data-dir", str(made))
        self.assertEqual(done.returncode, 0, done.stderr)
        with Served(made, "--no-demo") as served, urlopen(served.address + "/homes/home1/survey/record") as page:
            self.assertIn("Reed House", page.read().decode())
        again = warmeter("restore", str(path), "--data-dir", str(made))
        self.assertEqual(again.returncode, 2)
        self.assertIn("is not empty", again.stderr)

    def test_a_newer_database_is_left_alone(self) -> None:
        migrate(self.engine)
        self.assertEqual(shape_of(self.engine), newest_shape())
        self.assertIn(newest_shape(), known_shapes())
        self.run_sql("UPDATE alembic_version SET version_num = '9999'")
        self.assertIn("newer Warmeter (shape 9999). Nothing was touched", self.refusal())

    def test_a_missing_table_or_column_is_named(self) -> None:
        migrate(self.engine)
        self.run_sql("DROP TABLE event", "ALTER TABLE fit DROP COLUMN revision")
        self.assertRegex(self.refusal(), r"lacks event, fit\.revision\. Nothing was touched\. Restore a backup")

    def test_a_lost_password_is_told_and_made_anew_when_asked(self) -> None:
        self.of_old_shape()
        (self.data / "database-password").unlink()
        self.assertIn("--new-password", self.refusal())
        with Served(self.data, "--no-demo", "--new-password") as served:
            self.assertIn("Reed House", urlopen(served.address).read().decode())

    def test_a_running_one_and_a_stopped_one_are_backed_up(self) -> None:
        self.of_old_shape()
        running = warmeter("backup", str(self.folder), "--data-dir", str(self.data))
        self.assertEqual(running.returncode, 0, running.stderr)
        self.assertTrue(self.server.is_running, "the database that runs is left running")
        self.closed()
        path = self.folder / "stopped.zip"
        self.assertEqual(warmeter("backup", str(path), "--data-dir", str(self.data)).returncode, 0)
        self.assertFalse(PrivateServer(self.data).is_running, "the one that was started for it is stopped")
        self.assertEqual(len(list(self.folder.glob("*.zip"))), 2)
        none = warmeter("backup", str(path), "--data-dir", str(self.folder / "none"))
        self.assertEqual(none.returncode, 2)
        self.assertIn("nothing to back up", none.stderr)


if __name__ == "__main__":
    unittest.main()
