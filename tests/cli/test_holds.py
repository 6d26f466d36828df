"""It holds: a minute of what no page sends, a few kills amid what people do, and a crowd of ten, each on a server of its own."""

import os
import subprocess
import sys
import unittest


def warmeter(*words: str) -> subprocess.CompletedProcess[str]:
    """Run a command to its end."""
    command = [sys.executable, "-m", "warmeter.cli.main", *words]
    return subprocess.run(command, capture_output=True, text=True, check=False, timeout=540, env=dict(os.environ))


class Holds(unittest.TestCase):
    def assert_well(self, *words: str) -> str:
        done = warmeter(*words)
        self.assertEqual(done.returncode, 0, done.stdout[-3000:] + done.stderr[-1000:])
        return done.stdout

    def test_a_minute_of_what_no_page_sends(self) -> None:
        # Looser than the command by itself: other tests take the machine meanwhile.
        options = ("--seconds", "60", "--most-mb", "1300", "--slowest-s", "20", "--at-once")
        self.assertIn("routes in 60 s", self.assert_well("fuzz", *options))

    def test_kills_amid_what_people_do(self) -> None:
        told = self.assert_well("faults", "--rounds", "12", "--seed", "5")
        self.assertIn("12 kills", told)
        self.assertIn("; 0 wrong", told)

    def test_ten_who_read_while_it_is_edited_read_in_and_fitted(self) -> None:
        self.assertIn("; 0 errors of", self.assert_well("load", "--users", "10", "--seconds", "12", "--at-once"))


if __name__ == "__main__":
    unittest.main()
