"""A quantity that rises or falls within a time."""

import unittest
from dataclasses import replace

from tests.rules_at_work import ROOM, AtWork, scope, track
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.truth.truth import FALSE, TRUE


class Rising(AtWork):
    def test_rising_within_a_window_of_irregular_reports(self) -> None:
        log = scope(1, tracks={ROOM: track((0, 20.0), (200, 20.1), (500, 20.4), (600, 20.5), (900, 20.5))})
        c = Moving(of=ROOM, how="rising", by=0.5, within_s=600)
        self.assertEqual(self.told(c, log), [(0, FALSE), (600, TRUE), (900, FALSE)])
        self.assertEqual(self.told(replace(c, how="falling"), log), [(0, FALSE)])

    def test_what_is_taken_away_is_said_and_nothing_else(self) -> None:
        alone = Moving(of=ROOM, how="rising", by=0.5, within_s=600)
        less = replace(alone, minus=replace(ROOM, subject_id="hall"))
        self.assertNotIn("less", alone.phrase())
        self.assertIn("less", less.phrase())
        self.assertEqual((alone.signals, less.signals), ((ROOM,), (ROOM, replace(ROOM, subject_id="hall"))))


if __name__ == "__main__":
    unittest.main()
