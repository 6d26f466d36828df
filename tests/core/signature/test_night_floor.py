"""The floor of a home's nights."""

import unittest
from datetime import date
from typing import Any

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.signature.night_floor import NightFloor, night_floor
from warmeter.core.timegrid import LocalClock

UTC = LocalClock("UTC")


DAY = date(2025, 5, 5)


START_MS = UTC.day(DAY).start_ms


class Nights(unittest.TestCase):
    def floor(self, watts: Floats, **options: Any) -> NightFloor:
        at = START_MS + np.arange(watts.size, dtype=np.int64) * 3_600_000
        last = date(2025, 5, 5 + watts.size // 24 - 1)
        return night_floor(at, watts, step_s=3600, clock=UTC, first=DAY, last=last, **options)

    def test_the_word_never_stands_only_where_no_night_was_lower(self) -> None:
        watts = np.full(20 * 24, 150.0)
        self.assertTrue(self.floor(watts).never_below)
        watts[24 + 3] = 90.0
        found = self.floor(watts)
        self.assertFalse(found.never_below)
        self.assertEqual((found.below_nights, found.floor_w), (1, 150.0))
        self.assertAlmostEqual(found.below_share or 0, 1 / 20)

    def test_a_night_of_which_too_little_is_known_does_not_count(self) -> None:
        watts = np.full(3 * 24, 150.0)
        watts[1:3] = np.nan
        found = self.floor(watts)
        self.assertEqual(found.counted_nights, 2)
        self.assertIsNone(found.nights[0].floor_w)
        self.assertAlmostEqual(found.nights[0].known_share, 0.5)

    def test_silence_is_no_floor_of_nought(self) -> None:
        found = self.floor(np.full(48, np.nan))
        self.assertEqual((found.floor_w, found.never_below, found.below_share), (None, None, None))


if __name__ == "__main__":
    unittest.main()
