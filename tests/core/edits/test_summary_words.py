"""Temperatures and instants in a revision's sentence."""

import unittest
from dataclasses import replace

from tests.homes import small_home
from warmeter.core.edits.summary_words import moment_text, temperature_text
from warmeter.core.timegrid import parse_utc


class Summaries(unittest.TestCase):
    def test_in_the_home_s_own_unit_and_on_its_clock(self) -> None:
        british = small_home()
        american = replace(british, temperature_unit="F", country="US", time_zone="America/New_York")
        at = parse_utc("2026-07-04T03:05:00Z")
        self.assertEqual([temperature_text(h, 20.0) for h in (british, american)], ["20.0 °C", "68.0 °F"])
        self.assertEqual([moment_text(h, at) for h in (british, american)], ["04/07 04:05", "07/03 23:05"])


if __name__ == "__main__":
    unittest.main()
