"""The coldest day of a log, on days written by hand."""

import unittest
from datetime import date

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.weather.design_day import coldest_day


class Coldest(unittest.TestCase):
    def test_the_lowest_mean_with_its_date_and_how_much_winter_was_heard(self) -> None:
        days = np.full(120, 4.0)
        days[70], days[71], days[3] = -8.5, np.nan, -2.0
        found = coldest_day(days, date(2025, 11, 1), is_north=True)
        self.assertEqual((found.mean_c, found.on, found.days), (-8.5, date(2026, 1, 10), 119))
        # December, January and February up to the 28th, less the day that was not heard.
        self.assertAlmostEqual(found.winters, (31 + 31 + 28 - 1) / 90)

    def test_south_of_the_equator_june_to_august_are_cold(self) -> None:
        self.assertEqual(coldest_day(np.full(31, 5.0), date(2025, 12, 1), is_north=False).winters, 0)
        self.assertAlmostEqual(coldest_day(np.full(30, 5.0), date(2025, 6, 1), is_north=False).winters, 30 / 90)

    def test_nothing_heard_is_nothing_known(self) -> None:
        with self.assertRaises(NotKnowable):
            coldest_day(np.full(9, np.nan), date(2026, 1, 1), is_north=True)


if __name__ == "__main__":
    unittest.main()
