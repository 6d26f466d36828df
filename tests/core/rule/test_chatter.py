"""Openings that bounce."""

import unittest

import numpy as np

from warmeter.core.rule.chatter import bounce_s


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


if __name__ == "__main__":
    unittest.main()
