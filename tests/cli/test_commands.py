"""The commands as a person starts them: faults told plainly, nothing deleted, data kept."""

import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any
from urllib.error import HTTPError
from urllib.request import urlopen

from tests.homes import small_home
from tests.logs import machine_csv, room_csv
from tests.places import DATA
from warmeter.cli.served import Served
from warmeter.store.codec import home_to_json
from warmeter.store.server import PrivateServer

VECTORS = DATA / "vectors"


def warmeter(*arguments: str) -> subprocess.CompletedProcess[str]:
    """Run a command to its end."""
    return subprocess.run(
        [sys.executable, "-m", "warmeter.cli.main", *arguments],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )


class WithFolder(unittest.TestCase):
    def setUp(self) -> None:
        kept = tempfile.TemporaryDirectory(prefix="warmeter-cli-")
        self.addCleanup(kept.cleanup)
        self.folder = Path(kept.name)


class Demo(WithFolder):
    def test_started_killed_and_started_again_all_is_kept(self) -> None:
        data = self.folder / ("a" * 90) / ("deep" * 20) / "data"
        first = Served(data, "--no-demo")
        first.start()
        with urlopen(first.address + "/") as page:
            self.assertIn("no home yet", page.read().decode())
        server = PrivateServer(data)
        first.stop(signal.SIGKILL)
        self.assertTrue(server._answers(), "the database lives on after the kill")
        with Served(data) as second, urlopen(second.address + "/") as page:
            self.assertIn("Sail Loft Bindery", page.read().decode())
        self.assertFalse(server._answers(), "SIGTERM stops both")
        with Served(data) as third, urlopen(third.address + "/homes/sail-loft/survey/record") as page:
            self.assertIn("sail-loft-rooms.csv", page.read().decode())
            said = third.stop(signal.SIGINT)
        self.assertIn("Everything is kept", said)
        self.assertNotIn("Traceback", said)

    def test_a_second_one_is_refused_and_the_first_goes_on(self) -> None:
        data = self.folder / "d"
        with Served(data, "--no-demo") as first:
            for more in ((), ("--fresh", "--yes")):
                done = warmeter("demo", "--port", "0", "--data-dir", str(data), *more)
                self.assertEqual(done.returncode, 2)
                self.assertIn(f"process {first.pid}", done.stderr)
            with urlopen(first.address + "/") as page:
                self.assertIn("no home yet", page.read().decode())

    def test_pages_come_back_after_the_database_was_killed(self) -> None:
        data = self.folder / "d"
        with Served(data, "--no-demo") as served:
            database = PrivateServer(data)
            os.kill(int(database._pid_file.read_text()), signal.SIGKILL)
            statuses = set()
            for _ in range(2000):
                try:
                    with urlopen(served.address + "/") as page:
                        statuses.add(page.status)
                        break
                except HTTPError as error:
                    statuses.add(error.code)
                    self.assertEqual(error.headers["Retry-After"], "2")
                    self.assertIn("is being restarted", error.read().decode())
            self.assertLessEqual(statuses, {200, 503})
            self.assertIn(200, statuses)

    def faults(self, *options: str) -> str:
        done = warmeter("demo", *options)
        self.assertNotEqual(done.returncode, 0)
        self.assertNotIn("Traceback", done.stderr)
        return done.stderr

    def test_a_taken_port_is_told(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            said = self.faults("--port", str(taken.getsockname()[1]), "--data-dir", str(self.folder / "d"))
        self.assertIn("--port", said)
        self.assertIn("99999", self.faults("--port", "99999", "--data-dir", str(self.folder / "d")))

    def test_a_half_made_or_foreign_folder_is_left_alone(self) -> None:
        foreign = self.folder / "d" / "database" / "precious.txt"
        foreign.parent.mkdir(parents=True)
        foreign.write_text("mine", encoding="utf-8")
        self.assertIn("--fresh", self.faults("--port", "0", "--data-dir", str(self.folder / "d")))
        self.assertEqual(foreign.read_text(encoding="utf-8"), "mine")

    def test_a_folder_that_cannot_be_is_told(self) -> None:
        (self.folder / "file").write_text("x", encoding="utf-8")
        self.assertIn("--data-dir", self.faults("--port", "0", "--data-dir", str(self.folder / "file" / "d")))

    def test_fresh_asks_first(self) -> None:
        data = self.folder / "d"
        (data / "database").mkdir(parents=True)
        done = warmeter("demo", "--fresh", "--port", "0", "--data-dir", str(data))
        self.assertEqual(done.returncode, 1)
        self.assertIn("--yes", done.stderr)
        self.assertTrue((data / "database").exists())

    def test_a_database_that_does_not_come_up_is_told_with_its_last_words(self) -> None:
        data = self.folder / "d"
        with Served(data, "--no-demo"):
            pass
        (data / "database" / "ibdata1").write_bytes(b"broken")
        said = self.faults("--port", "0", "--data-dir", str(data))
        self.assertIn("did not come up", said)
        self.assertIn("Nothing was deleted", said)


class Kill(WithFolder):
    def test_killed_in_mid_import_leaves_none_or_all(self) -> None:
        data = self.folder / "d"
        served = Served(data, "--no-demo")
        served.start()
        script = self.folder / "slow_import.py"
        script.write_text(
            "import sys, os\n"
            "from pathlib import Path\n"
            "from tests.homes import small_home\n"
            "from tests.logs import room_csv\n"
            "from warmeter.service.app import App, Person, QueuedOnly\n"
            "from warmeter.service.homes import editing\n"
            "from warmeter.service.readings import logs\n"
            "from warmeter.store import readings\n"
            "from warmeter.store.engine import open_engine\n"
            "app = App(engine=open_engine(sys.argv[1]), uploads=Path(sys.argv[2]), jobs=QueuedOnly(), now_ms=lambda: 1_769_000_000_000)\n"
            "editing.create_home(app, small_home(), Person('Ann'))\n"
            "upload = logs.keep_upload(app, 'log.csv', [room_csv(4).encode()])\n"
            "merge, calls = readings.merge, []\n"
            "def dying(*rest):\n"
            "    calls.append(1)\n"
            "    counts = merge(*rest)\n"
            "    if len(calls) == 2: os.kill(os.getpid(), 9)\n"
            "    return counts\n"
            "readings.merge = dying\n"
            "logs.take(app, 'home1', upload, logs.proposal(app, small_home(), upload).suggested, Person('Ann'))\n",
            encoding="utf-8",
        )
        server = PrivateServer(data)
        server.port = server._port_of_running()
        environment = dict(
            os.environ, PYTHONPATH=os.pathsep.join([str(Path(__file__).parents[2]), os.environ.get("PYTHONPATH", "")])
        )
        done = subprocess.run(
            [sys.executable, str(script), server.url, str(self.folder / "up")], env=environment, check=False, timeout=60
        )
        self.assertEqual(done.returncode, -9, "it died after half of the series were written")
        served.stop(signal.SIGKILL)
        with Served(data, "--no-demo") as again, urlopen(again.address + "/homes/home1/survey/record") as page:
            text = page.read().decode()
        self.assertIn("No log yet", text)
        self.assertNotIn("log.csv", text)


class Vectors(WithFolder):
    def test_passes_fails_and_nothing_to_run(self) -> None:
        good = warmeter("vectors", str(VECTORS))
        self.assertEqual(good.returncode, 0)
        self.assertRegex(good.stdout.strip().splitlines()[-1], r"^\d+ passed, 0 failed, 0 not supported$")
        content = json.loads((VECTORS / "f_comfort.json").read_text(encoding="utf-8"))
        content["cases"][0]["expected"]["K_h"] = 99
        content["cases"][1]["method"] = "Z9.unknown"
        (self.folder / "f.json").write_text(json.dumps(content), encoding="utf-8")
        bad = warmeter("vectors", str(self.folder))
        self.assertEqual(bad.returncode, 1)
        self.assertIn("F5.degree_hours.01: K_h: got 3.4", bad.stdout)
        self.assertTrue(bad.stdout.strip().endswith(f"{len(content['cases']) - 2} passed, 1 failed, 1 not supported"))
        self.assertEqual(warmeter("vectors", str(self.folder / "none")).returncode, 2)


class Files(WithFolder):
    def setUp(self) -> None:
        super().setUp()
        self.home, self.room, self.machine = (self.folder / n for n in ("h.json", "r.csv", "m.csv"))
        self.home.write_bytes(home_to_json(small_home()))
        self.room.write_text(room_csv(7), encoding="utf-8")
        self.machine.write_text(machine_csv(4), encoding="utf-8")

    def answer(self, *arguments: str) -> dict[str, Any]:
        done = warmeter(*arguments, "--home", str(self.home), "--json")
        self.assertEqual(done.returncode, 0, done.stderr)
        found: dict[str, Any] = json.loads(done.stdout)
        return found

    def test_each_computation_answers_as_json_with_units(self) -> None:
        fit = self.answer("fit", "--log", str(self.room))
        self.assertAlmostEqual(fit["loss_w_k"]["value"], 46.0, delta=8.0)
        lead = self.answer("lead", "--log", str(self.room), "--target-c", "20", "--setback-c", "16", "--outdoor-c", "0")
        self.assertGreater(lead["lead_min"], 20)
        cycles = self.answer("cycles", "--log", str(self.machine))
        self.assertEqual((cycles["missed"], cycles["false"]), (0, 0))
        cheapest = self.answer("cheapest", "--log", str(self.machine), "--day", "2026-01-12")
        self.assertLess(cheapest["start_min"], 360)

    def test_exit_codes(self) -> None:
        short = self.folder / "short.csv"
        short.write_text("\n".join(self.room.read_text(encoding="utf-8").splitlines()[:19]), encoding="utf-8")
        done = warmeter("fit", "--home", str(self.home), "--log", str(short))
        self.assertEqual((done.returncode, "Record" in done.stderr), (1, True))
        for home, log in ((self.room, self.room), (self.home, self.folder / "none.csv"), (self.home, self.home)):
            done = warmeter("fit", "--home", str(home), "--log", str(log))
            self.assertEqual(done.returncode, 2, done.stderr)
            self.assertNotIn("Traceback", done.stderr)

    def test_a_machine_that_there_is_not_is_told_with_those_there_are(self) -> None:
        done = warmeter("stand-in-log", "--kind", "loom", "--out", str(self.folder / "loom.csv"))
        self.assertEqual(done.returncode, 2)
        self.assertIn("no stand-in of kind 'loom'; choose of", done.stderr)
        self.assertFalse((self.folder / "loom.csv").exists())

    def test_a_mapping_file_says_what_columns_are(self) -> None:
        mapping = self.folder / "map.json"
        columns = {
            "Study temperature °C": {"quantity": "room_temperature", "unit": "°C", "subject": "study"},
            "Study heat W": {
                "quantity": "heat_relative",
                "unit": "1",
                "kind": "mean",
                "stamp": "start",
                "subject": "study",
            },
            "Outdoor °C": {"quantity": "outdoor_temperature", "unit": "°C"},
        }
        mapping.write_text(json.dumps({"columns": columns}), encoding="utf-8")
        fit = self.answer("fit", "--log", str(self.room), "--map", str(mapping))
        self.assertFalse(fit["watts_known"])
        self.assertNotIn("loss_w_k", fit)
        mapping.write_text("[]", encoding="utf-8")
        self.assertEqual(
            warmeter("fit", "--home", str(self.home), "--log", str(self.room), "--map", str(mapping)).returncode, 2
        )

    def test_a_home_without_a_heater_cannot_be_timed(self) -> None:
        self.home.write_bytes(home_to_json(replace(small_home(), heaters=())))
        done = warmeter(
            "lead",
            "--home",
            str(self.home),
            "--log",
            str(self.room),
            "--target-c",
            "20",
            "--setback-c",
            "16",
            "--outdoor-c",
            "0",
        )
        self.assertEqual(done.returncode, 1)
