"""Intervals of a meter and its nights, against walks second by second."""

import unittest
from datetime import date
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.arrays import Floats
from warmeter.core.errors import OutOfRange
from warmeter.core.readings.intervals import completeness
from warmeter.core.signature.night_floor import NightFloor, night_floor
from warmeter.core.signature.standby_states import standby_states
from warmeter.core.timegrid import LocalClock

UTC = LocalClock("UTC")
DAY = date(2025, 5, 5)
START_MS = UTC.day(DAY).start_ms
STEP_S = 3 * 3600


class Completeness(unittest.TestCase):
    @settings(deadline=None, max_examples=60, derandomize=True)
    @given(st.lists(st.tuples(st.integers(-40, 300), st.integers(0, 90), st.floats(0, 5)), max_size=8))
    def test_it_counts_what_a_walk_minute_by_minute_counts(self, readings: list[tuple[int, int, float]]) -> None:
        """Readings of ten-minute units over a day of 144; the walk gives each minute to the earliest start."""
        start = np.array([START_MS + a * 600_000 for a, _, _ in readings], dtype=np.int64)
        length = np.array([n * 600_000 for _, n, _ in readings], dtype=np.int64)
        value = np.array([v for _, _, v in readings], dtype=np.float64)
        found = completeness(start, length, value, clock=UTC, first=DAY, last=DAY, step_s=STEP_S)
        order = sorted(range(len(readings)), key=lambda k: max(0, min(readings[k][0], 144)))
        total, depth = 0.0, np.zeros(144, dtype=int)
        for unit in range(144):
            over = [k for k in order if readings[k][0] <= unit < readings[k][0] + readings[k][1]]
            depth[unit] = len(over)
            if over:
                total += readings[over[0]][2] / readings[over[0]][1]
        slots = depth.reshape(8, 18) > 0
        self.assertEqual(found.expected, 8)
        self.assertEqual(found.full, int(slots.all(axis=1).sum()))
        self.assertEqual(found.missing_n, int((~slots.any(axis=1)).sum()))
        self.assertEqual(len(found.partial_ms), 8 - found.full - found.missing_n)
        self.assertAlmostEqual(found.coverage, float((depth > 0).mean()))
        self.assertAlmostEqual(found.total, total, places=9)
        self.assertEqual(found.dropped, sum(n == 0 for _, n, _ in readings))
        twice = sum(b - a for a, b in found.overlaps_ms) // 600_000
        self.assertEqual(twice, int((depth > 1).sum()))

    def test_a_slot_of_no_length_is_refused(self) -> None:
        none = np.zeros(0, dtype=np.int64)
        with self.assertRaises(OutOfRange):
            completeness(none, none, np.zeros(0), clock=UTC, first=DAY, last=DAY, step_s=0)


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


class Standing(unittest.TestCase):
    def test_hours_add_up_and_saving_is_rest_not_drawn(self) -> None:
        watts = np.repeat([0.0, 5.0, 100.0, np.nan], 6)
        found = standby_states(
            3600.0 * np.arange(24, dtype=np.float64),
            watts,
            np.full(24, np.nan),
            floor_w=0.5,
            work_w=50.0,
            longest_hold_s=3600.0,
            end_s=24 * 3600.0,
        )
        self.assertEqual((found.off.hours, found.rest.hours, found.work.hours, found.unknown_h), (6.0, 6.0, 6.0, 6.0))
        self.assertAlmostEqual(found.saved_kwh or 0, 5.0 * 6 / 1000)
        self.assertAlmostEqual(found.rest_kwh_year or 0, 5.0 * 6 / 1000 * 8760 / 18)
        self.assertAlmostEqual(found.never_cut_kwh_year or 0, 5.0 * 12 / 1000 * 8760 / 18)
