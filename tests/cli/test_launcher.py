"""The executable at the root: what it installs, what it says, and that it never breaks off with a traceback."""

import os
import runpy
import shutil
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any
from unittest import mock

from tests.places import ROOT


def launcher() -> dict[str, Any]:
    """Return the launcher's names, its last act taken out."""
    text = (ROOT / "warmeter").read_text(encoding="utf-8")
    head = text[: text.index("\ntry:\n    main()")]
    with tempfile.NamedTemporaryFile(
        "w", suffix=".py", prefix=".launcher-", dir=ROOT, delete=False, encoding="utf-8"
    ) as file:
        file.write(head)
    try:
        return runpy.run_path(file.name)
    finally:
        Path(file.name).unlink()


class Launcher(unittest.TestCase):
    def setUp(self) -> None:
        self.names = launcher()

    def fails_with(self, work: Callable[..., object], *arguments: object) -> str:
        with mock.patch("sys.stderr") as err, self.assertRaises(SystemExit) as caught:
            work(*arguments)
        self.assertEqual(caught.exception.code, 2)
        return "".join(str(c.args[0]) for c in err.write.call_args_list)

    def test_without_root_the_message_is_the_apt_line(self) -> None:
        missing = ("/nowhere/mariadbd", ("mariadb-server-core",))
        work = self.names["ensure_packages"]
        with (
            mock.patch.dict(work.__globals__, {"DATABASE": missing}),
            mock.patch.object(os, "geteuid", return_value=1000),
        ):
            said = self.fails_with(work, "demo")
        self.assertIn("sudo apt-get install --no-install-recommends mariadb-server-core", said)

    def test_what_a_command_does_not_need_is_not_asked_for(self) -> None:
        missing = ("/nowhere/mariadbd", ("mariadb-server-core",))
        work = self.names["ensure_packages"]
        with mock.patch.dict(work.__globals__, {"DATABASE": missing, "BROWSER": missing}):
            self.assertIsNone(work("vectors"))

    def test_a_command_that_fails_is_shown_with_its_last_words(self) -> None:
        said = self.fails_with(self.names["run"], [sys.executable, "-c", "import sys; sys.exit('no network')"])
        self.assertIn("no network", said)

    def test_the_environment_compiles_once_and_uses_one_thread(self) -> None:
        with mock.patch.dict(os.environ, {"PYTHONDONTWRITEBYTECODE": "1"}):
            found = self.names["environment"]()
        self.assertNotIn("PYTHONDONTWRITEBYTECODE", found)
        self.assertTrue(found["NUMBA_CACHE_DIR"].startswith(str(ROOT)))
        self.assertEqual(found["OPENBLAS_NUM_THREADS"], "1")

    def test_digests_change_with_the_files(self) -> None:
        digest = self.names["digest"]
        self.assertNotEqual(digest("README.md"), digest("pyproject.toml"))

    def with_state(self, run: object) -> tuple[Path, Callable[..., Any]]:
        """Return an empty state folder and the work of making an environment in it, its commands replaced."""
        folder = Path(tempfile.mkdtemp(prefix="warmeter-state-"))
        self.addCleanup(shutil.rmtree, folder)
        work = self.names["ensure_environment"]
        patch = mock.patch.dict(work.__globals__, {"STATE": folder, "run": run})
        patch.start()
        self.addCleanup(patch.stop)
        return folder, work

    def test_an_environment_stands_in_its_place_only_when_it_is_whole(self) -> None:
        steps: list[list[str]] = []

        def half(command: list[object]) -> None:
            steps.append(list(map(str, command)))
            if "venv" in steps[-1]:
                Path(steps[-1][-1]).mkdir(exist_ok=True)
            if "pip" in steps[-1] and len(steps) == 2:
                raise SystemExit(2)

        folder, work = self.with_state(half)
        with self.assertRaises(SystemExit):
            work("demo")
        self.assertEqual(list(folder.glob("venv-*")), [], "interrupted, it is not taken for whole")
        # A set-up that was killed leaves what it made; the next clears it away and goes on.
        (folder / "making-999999999").mkdir()
        python = work("demo")
        self.assertEqual([path.name for path in folder.iterdir()], [python.parents[1].name])
        count = len(steps)
        self.assertEqual((work("demo"), len(steps)), (python, count), "the second start makes nothing")

    def test_the_tests_environment_leaves_the_one_that_runs(self) -> None:
        folder, work = self.with_state(lambda command: Path(command[-1]).mkdir() if "venv" in command else None)
        app = work("demo")
        tests = work("test")
        self.assertNotEqual(app, tests)
        self.assertTrue(app.parents[1].exists())
        self.assertEqual((folder / "venv").resolve(), tests.parents[1].resolve())
        self.assertEqual(work("demo"), tests, "whoever has the tests' has the application's")

    def test_an_old_python_is_told(self) -> None:
        with mock.patch.object(sys, "version_info", (3, 9, 0)):
            self.assertIn("3.11", self.fails_with(self.names["main"]))

    def test_locks_pin_every_package_by_hash_and_name_no_address(self) -> None:
        for name in ("app", "test"):
            text = (ROOT / "requirements" / f"{name}.lock").read_text(encoding="utf-8")
            pins = [line for line in text.splitlines() if "==" in line]
            self.assertGreater(len(pins), 10)
            self.assertGreaterEqual(text.count("--hash=sha256:"), len(pins))
            self.assertNotIn("://", text)

    def test_unknown_commands_are_told_with_the_known_ones(self) -> None:
        done = subprocess.run(
            [sys.executable, "-m", "warmeter.cli.main", "dance"], capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 2)
        self.assertIn("demo", done.stderr)
        part = subprocess.run(
            [sys.executable, "-m", "warmeter.cli.main", "test", "kitchen"], capture_output=True, text=True, check=False
        )
        self.assertEqual((part.returncode, "core, service, simulators" in part.stderr), (2, True))
