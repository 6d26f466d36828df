"""Intervals of a meter and its nights, against walks second by second."""

import unittest
from datetime import date

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import OutOfRange
from warmeter.core.readings.intervals import completeness
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
