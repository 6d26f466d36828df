"""Openings that bounce."""

import unittest

import numpy as np

from warmeter.core.errors import OutOfRange
from warmeter.core.rule.chatter import Chatter, bounce_s, chatter


def at(hour: float) -> int:
    return round(hour * 60)


class Bounce(unittest.TestCase):
    def lasts(self, *changes: float) -> float:
        """Return how long a contact bounces that is told every minute and changes at some seconds."""
        at = np.array(sorted({*changes, *range(0, 3600, 60)}), dtype=float)
        flips = np.searchsorted(np.array(changes), at, side="right")
        return bounce_s(at, (flips % 2).astype(float))

    def test_opened_and_shut_is_no_bounce(self) -> None:
        self.assertEqual(self.lasts(), 0.0)
        self.assertEqual(self.lasts(100), 0.0)
        self.assertEqual(self.lasts(100, 108), 0.0)
        self.assertEqual(self.lasts(100, 108, 900, 905), 0.0)

    def test_it_lasts_from_the_first_change_to_the_last(self) -> None:
        self.assertEqual(self.lasts(100, 101, 103), 3.0)
        self.assertEqual(self.lasts(100, 101, 103, 1000, 1010, 1020), 20.0)
        self.assertEqual(self.lasts(100, 111, 122), 0.0)  # more than ten seconds apart

    def test_what_is_not_known_does_not_change(self) -> None:
        at = np.arange(5.0)
        self.assertEqual(bounce_s(at, np.array([0, np.nan, 1, np.nan, 0.0])), 0.0)
        self.assertEqual(bounce_s(np.zeros(0), np.zeros(0)), 0.0)


class Nervousness(unittest.TestCase):
    def told(self, *stretches: tuple[float, float]) -> Chatter:
        return chatter(stretches, min_on_s=30, window_s=60, span_s=7200)

    def test_a_machine_that_never_switched_is_calm(self) -> None:
        found = self.told()
        self.assertEqual((found.switches, found.most_in_window, found.starts, found.index), (0, 0, 0, 0.0))

    def test_one_long_run_is_two_switches_far_apart(self) -> None:
        found = self.told((0, 1000))
        self.assertEqual((found.switches, found.switches_per_h, found.most_in_window), (2, 1.0, 1))
        self.assertEqual((found.short_on, found.starts, found.index), (0, 1, 0.0))

    def test_three_quick_starts_are_counted_as_by_hand(self) -> None:
        # On at 0, 20 and 60 s; off at 10, 50 and 65 s. A minute from the first holds 0, 10, 20, 50; one from 10 s on
        # 10, 20, 50, 60, 65. On-times of 10, 30 and 5 s; starts 20 and 40 s apart.
        found = self.told((0, 10), (20, 50), (60, 65))
        self.assertEqual((found.switches, found.most_in_window, found.short_on, found.starts), (6, 5, 2, 3))
        self.assertAlmostEqual(found.index, (1 / 20 + 1 / 40) / 2)

    def test_a_span_of_nothing_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            chatter([], min_on_s=1, window_s=1, span_s=0)


if __name__ == "__main__":
    unittest.main()
