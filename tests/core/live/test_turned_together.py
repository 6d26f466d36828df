"""Setpoints that read otherwise: turned by a person, or devices that began anew."""

import unittest

from warmeter.core.live.turned_together import begun_anew

MIN = 60_000


class Anew(unittest.TestCase):
    def test_three_and_half_of_all_within_a_minute(self) -> None:
        seven = {f"v{k}": k * 5_000 for k in range(7)}
        self.assertEqual(begun_anew(seven, 7), seven.keys())
        self.assertEqual(begun_anew({"a": 0, "b": 20_000, "c": MIN}, 6), {"a", "b", "c"})
        self.assertEqual(begun_anew({"a": 0, "b": 20_000, "c": MIN}, 7), frozenset())
        self.assertEqual(begun_anew({"a": 0, "b": 20_000}, 2), frozenset())
        self.assertEqual(begun_anew({"a": 0, "b": 2 * MIN, "c": 4 * MIN, "d": 6 * MIN}, 4), frozenset())

    def test_those_that_report_later_belong_to_them_and_one_of_long_before_does_not(self) -> None:
        seen = {"turned": 0, "a": 30 * MIN, "b": 30 * MIN, "c": 30 * MIN + 1_000, "late": 40 * MIN, "later": 46 * MIN}
        self.assertEqual(begun_anew(seen, 6), {"a", "b", "c", "late"})


if __name__ == "__main__":
    unittest.main()
