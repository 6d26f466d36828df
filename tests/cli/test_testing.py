"""The test command: both processes' modules are run once, failures are told, and a process that dies is a failure."""

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from tests.places import ROOT
from warmeter.cli.testing import modules_of

GOOD = "import unittest\n\n\nclass Good(unittest.TestCase):\n    def test_it(self) -> None:\n        print('aside')\n"
BAD = GOOD + "\n    def test_other(self) -> None:\n        self.assertEqual(1, 2, 'as planted')\n"
ENDS = "import os\n\nos._exit(3)\n"


class Runs(unittest.TestCase):
    def run_in(self, files: dict[str, str]) -> tuple[int, str]:
        with tempfile.TemporaryDirectory() as name:
            for path, text in files.items():
                whole = Path(name) / "tests" / path
                whole.parent.mkdir(parents=True, exist_ok=True)
                whole.write_text(text, encoding="utf-8")
            env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
            command = [sys.executable, "-m", "warmeter.cli.main", "test"]
            done = subprocess.run(command, cwd=name, env=env, capture_output=True, text=True, check=False)
            return done.returncode, done.stdout + done.stderr

    def test_all_are_run_once_and_all_well_is_told(self) -> None:
        code, told = self.run_in({f"core/test_{k}.py": GOOD for k in "abc"} | {"browser/test_d.py": GOOD})
        self.assertEqual(code, 0, told)
        self.assertIn("Ran 4 tests", told)
        self.assertIn("\nOK\n", told)

    def test_a_failure_is_told_with_its_words_and_the_others_are_run(self) -> None:
        code, told = self.run_in({"core/test_a.py": GOOD, "web/test_b.py": BAD, "store/test_c.py": "import nowhere\n"})
        self.assertEqual(code, 1)
        for words in ("as planted", "nowhere", "FAILED (failures=2)", "Ran 4 tests"):
            self.assertIn(words, told)

    def test_a_process_that_ends_amid_its_tests_is_a_failure(self) -> None:
        code, told = self.run_in({f"core/test_{k}.py": ENDS for k in "abc"})
        self.assertEqual(code, 1)
        self.assertIn("ended before its tests", told)
        self.assertIn("was not run", told)

    def test_the_browser_comes_first_and_every_module_is_there(self) -> None:
        modules = modules_of(Path("tests"))
        self.assertTrue(modules[0].startswith("tests.browser."))
        self.assertEqual(len(modules), len(list(Path("tests").rglob("test_*.py"))))


if __name__ == "__main__":
    unittest.main()
