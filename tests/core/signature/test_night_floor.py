"""The floor of a home's nights."""

import unittest
from datetime import date
from typing import Any

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import OutOfRange
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

    def test_the_floor_of_each_night_is_that_of_its_own_hours(self) -> None:
        watts = np.full(4 * 24, 500.0)
        for night, level in enumerate((100.0, 120.0, 140.0, 160.0)):
            watts[night * 24 + 1 : night * 24 + 5] = level
        found = self.floor(watts)
        self.assertEqual([n.floor_w for n in found.nights], [100.0, 120.0, 140.0, 160.0])
        self.assertEqual([n.intervals for n in found.nights], [4, 4, 4, 4])
        # Of the four, the first lies under their floor, and how many is what is told.
        assert found.floor_w is not None
        self.assertEqual(found.below_nights, sum(level < found.floor_w for level in (100.0, 120.0, 140.0, 160.0)))

    def test_quantiles_lie_between_nought_and_one(self) -> None:
        for name in ("night_quantile", "floor_quantile"):
            for value in (-0.01, 1.01):
                with self.subTest(name=name, value=value), self.assertRaises(OutOfRange):
                    self.floor(np.full(48, 150.0), **{name: value})

    def test_silence_is_no_floor_of_nought(self) -> None:
        found = self.floor(np.full(48, np.nan))
        self.assertEqual((found.floor_w, found.never_below, found.below_share), (None, None, None))


if __name__ == "__main__":
    unittest.main()
