"""Tariffs and cheapest starts against brute force."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import OutOfRange
from warmeter.core.tariff.cheapest_start import cheapest_start, starts_by_cost


class Windows(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(
        st.lists(st.integers(-20, 60), min_size=6, max_size=12),
        st.lists(st.integers(0, 900), min_size=1, max_size=5),
        st.integers(0, 90),
    )
    def test_cheapest_start_is_that_of_trying_all(self, prices: list[int], profile: list[int], earliest: int) -> None:
        by_minute = np.repeat(np.array(prices) / 100, 30)
        kwh = np.array(profile) / 1000
        latest = by_minute.size
        starts = starts_by_cost(by_minute, kwh, 15, earliest_min=earliest, latest_end_min=latest)
        slow = {}
        for start in range(earliest, latest - 15 * len(profile) + 1, 15):
            slow[start] = sum(by_minute[start + m] * kwh[m // 15] / 15 for m in range(15 * len(profile)))
        best = min(slow, key=lambda s: (round(slow[s], 9), s))
        self.assertEqual(cheapest_start(starts).start_min, best)

    def test_a_window_too_short_is_refused(self) -> None:
        for earliest, latest in ((0, 20), (50, 60), (0, 999)):
            with self.assertRaises(OutOfRange):
                starts_by_cost(np.ones(100), np.ones(2), 15, earliest_min=earliest, latest_end_min=latest)

    def test_whole_hour_delays_only(self) -> None:
        starts = starts_by_cost(np.ones(600), np.ones(2), 15, earliest_min=30, latest_end_min=600, start_step_min=60)
        self.assertEqual({(s.start_min - 30) % 60 for s in starts}, {0})
