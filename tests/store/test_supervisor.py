"""A database that dies comes back where it was, with all that was committed; a folder is held by one."""

import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path

from sqlalchemy import text

from warmeter.store.datafolder import held_folder
from warmeter.store.engine import DatabaseAway, open_engine
from warmeter.store.server import DatabaseError, PrivateServer
from warmeter.store.supervisor import Supervisor


class Supervised(unittest.TestCase):
    def setUp(self) -> None:
        folder = Path(tempfile.mkdtemp(prefix="warmeter-supervised-"))
        self.addCleanup(shutil.rmtree, folder, True)
        self.server = PrivateServer(folder / "d", is_small=True)
        self.server.start()
        self.addCleanup(self.server.stop)
        self.engine = open_engine(self.server.url)
        self.addCleanup(self.engine.dispose)
        with self.engine.begin() as connection:
            connection.execute(text("CREATE TABLE kept (n INT)"))
            connection.execute(text("INSERT INTO kept VALUES (7)"))

    def kill(self, how: signal.Signals = signal.SIGKILL) -> None:
        assert self.server._process is not None
        self.server._process.send_signal(how)
        self.server._process.wait()

    def value(self) -> int | None:
        with self.engine.connect() as connection:
            return connection.execute(text("SELECT n FROM kept")).scalar()

    def test_without_one_it_is_told_as_away_however_it_is_met(self) -> None:
        held = self.engine.connect()
        self.addCleanup(held.invalidate)
        self.kill()
        with self.assertRaises(DatabaseAway):
            self.value()
        with self.assertRaises(DatabaseAway):
            held.execute(text("SELECT n FROM kept"))

    def test_it_comes_back_each_time_at_the_same_place(self) -> None:
        back = threading.Event()
        supervisor = Supervisor(self.server, back.set)
        self.addCleanup(supervisor.close)
        port = self.server.port
        for how in (signal.SIGKILL, signal.SIGTERM, signal.SIGKILL):
            back.clear()
            self.kill(how)
            self.assertTrue(back.wait(30), "it was not brought back")
            self.assertEqual((self.server.port, self.value()), (port, 7))

    def test_one_that_is_stopped_stays_stopped(self) -> None:
        back = threading.Event()
        supervisor = Supervisor(self.server, back.set)
        supervisor.close()
        self.server.stop()
        self.assertFalse(self.server.is_running or back.is_set())

    def test_one_that_does_not_heed_is_killed_at_its_stop(self) -> None:
        assert self.server._process is not None
        self.server._process.send_signal(signal.SIGSTOP)
        self.server.stop()
        self.assertFalse(self.server.is_running)
        self.server.start()
        self.engine.dispose()
        self.engine = open_engine(self.server.url)
        self.assertEqual(self.value(), 7)


class HeldFolder(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="warmeter-held-")) / "d"
        self.addCleanup(shutil.rmtree, self.folder.parent, True)

    def test_who_comes_second_is_told_who_holds_it(self) -> None:
        with held_folder(self.folder, "http://127.0.0.1:8470/"):
            with (
                self.assertRaisesRegex(DatabaseError, f"process {os.getpid()}, since .* at http://127.0.0.1:8470/"),
                held_folder(self.folder),
            ):
                self.fail("two hold one folder")
            self.assertEqual((self.folder / "lock").stat().st_mode & 0o077, 0)
        with held_folder(self.folder):
            self.assertEqual(json.loads((self.folder / "lock").read_text())["address"], "")

    def test_one_that_was_killed_holds_nothing(self) -> None:
        script = (
            "import sys, time\nfrom pathlib import Path\nfrom warmeter.store.datafolder import held_folder\n"
            "with held_folder(Path(sys.argv[1])):\n    print('held', flush=True)\n    time.sleep(60)\n"
        )
        holder = subprocess.Popen(
            [sys.executable, "-c", script, str(self.folder)], stdout=subprocess.PIPE, env=dict(os.environ)
        )
        assert holder.stdout is not None
        holder.stdout.readline()
        with self.assertRaisesRegex(DatabaseError, f"process {holder.pid}"), held_folder(self.folder):
            self.fail("two hold one folder")
        holder.kill()
        holder.communicate()
        with held_folder(self.folder):
            pass

    def test_a_lock_file_of_nonsense_is_taken(self) -> None:
        self.folder.mkdir()
        (self.folder / "lock").write_text("[1]")
        with held_folder(self.folder):
            pass
