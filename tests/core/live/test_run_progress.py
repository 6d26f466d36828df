"""Minutes left: of two programmes the one that this run is like; nothing where nothing can be known."""

import unittest

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.live.device_health import HeardDevice, battery_end, quiet_after_ms
from warmeter.core.live.run_progress import run_progress
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN


def run_w(rng: np.random.Generator, hot_min: int, wash_min: int) -> np.ndarray:
    """Return a run: hot, then turning, then a spin of 8 min, each a little longer or shorter."""
    parts = [(2000, hot_min), (120, wash_min), (400, 8)]
    return np.concatenate([np.full(max(1, round(m * rng.uniform(0.95, 1.05))), float(w)) for w, m in parts])


class Progress(unittest.TestCase):
    def test_of_two_programmes_the_one_that_it_is_like(self) -> None:
        rng = np.random.default_rng(5)
        long = [run_w(rng, 40, 70) for _ in range(8)]
        short = [run_w(rng, 8, 20) for _ in range(8)]
        rng = np.random.default_rng(77)
        for hot, wash, at in ((40, 70, 30), (40, 70, 60), (8, 20, 15)):
            mine = run_w(rng, hot, wash)
            found = run_progress(mine[:at], [*long, *short])
            left = mine.size - at
            with self.subTest(hot=hot, at=at):
                self.assertAlmostEqual(found.left_min, left, delta=0.08 * mine.size)
                self.assertTrue(found.low_min - 6 <= left <= found.high_min + 6)

    def test_before_it_is_told_apart_the_range_spans_both(self) -> None:
        rng = np.random.default_rng(5)
        past = [run_w(rng, 40, 70) for _ in range(8)] + [run_w(rng, 8, 20) for _ in range(8)]
        found = run_progress(np.full(4, 2000.0), past)
        self.assertLess(found.low_min, 40)
        self.assertGreater(found.high_min, 100)

    def test_what_cannot_be_known_is_said(self) -> None:
        rng = np.random.default_rng(5)
        past = [run_w(rng, 8, 20) for _ in range(8)]
        for so_far in (np.full(300, 100.0), np.full(20, 9000.0)):
            with self.subTest(size=so_far.size), self.assertRaises(NotKnowable):
                run_progress(so_far, past)


class Health(unittest.TestCase):
    def test_quiet_is_five_times_its_own_rhythm(self) -> None:
        self.assertEqual(quiet_after_ms(600.0), 50 * MS_PER_MIN)
        self.assertEqual(quiet_after_ms(10.0), 10 * MS_PER_MIN)
        heard = HeardDevice(device_id="d", last_ms=0, rhythm_s=600.0, now_ms=50 * MS_PER_MIN)
        self.assertTrue(heard.is_quiet)
        # What tells changes only may be silent for hours.
        self.assertFalse(HeardDevice(device_id="d", last_ms=0, rhythm_s=None, now_ms=5 * 60 * MS_PER_MIN).is_quiet)

    def test_a_battery_ends_on_a_straight_line_with_a_range(self) -> None:
        rng = np.random.default_rng(3)
        days = np.arange(0, 60)
        percent = np.round(80 - 0.5 * days + rng.normal(0, 0.4, days.size))
        end = battery_end((days * MS_PER_DAY).tolist(), percent.tolist())
        # 80 − 0.5 d is empty after 160 days.
        self.assertAlmostEqual(end.at_ms / MS_PER_DAY, 160, delta=8)
        assert end.late_ms is not None
        self.assertTrue(end.early_ms <= end.at_ms <= end.late_ms)
        for few in (days[:5], np.zeros(60, dtype=int)):
            with self.assertRaises(NotKnowable):
                battery_end((few * MS_PER_DAY).tolist(), [90.0] * few.size)
        with self.assertRaises(NotKnowable):
            battery_end((days * MS_PER_DAY).tolist(), [90.0] * days.size)
