"""The coming outdoor temperature."""

import unittest

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.weather.forecast import day_to_day_spread_k, like_yesterday, typed_day


class Forecast(unittest.TestCase):
    def test_yesterday_again(self) -> None:
        yesterday = np.arange(1440.0)
        np.testing.assert_array_equal(like_yesterday(yesterday, 2000)[:1440], yesterday)
        with self.assertRaisesRegex(NotKnowable, "Type tomorrow"):
            like_yesterday(np.full(1440, np.nan), 10)

    def test_typed_low_and_high_are_reached_at_their_hours(self) -> None:
        day = typed_day(-2.0, 6.0, np.arange(1440))
        self.assertAlmostEqual(float(day[360]), -2.0)
        self.assertAlmostEqual(float(day[900]), 6.0)
        self.assertTrue((day >= -2 - 1e-9).all() and (day <= 6 + 1e-9).all())
        self.assertLess(float(np.abs(np.diff(day)).max()), 0.03)

    def test_spread_of_days(self) -> None:
        days = np.repeat([1.0, 4.0, 1.0, 4.0, 1.0], 24)
        self.assertAlmostEqual(day_to_day_spread_k(days), float(np.std([3, -3, 3, -3], ddof=1)))
        self.assertEqual(day_to_day_spread_k(np.zeros(24)), 2.5)


if __name__ == "__main__":
    unittest.main()
