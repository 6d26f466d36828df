"""The made-up season: its mean, its extremes, and the other half of the earth."""

import unittest

import numpy as np

from warmeter.core.weather.synthetic import SWING_K, made_up_outdoor_c

DAYS = np.arange(1, 366, dtype=np.float64)


def year(mean: float, coldest: float, minute: float = 930 - 360, *, is_south: bool = False) -> np.ndarray:
    return made_up_outdoor_c(DAYS, np.full(DAYS.size, minute), annual_mean_c=mean, coldest_c=coldest, is_south=is_south)


class Season(unittest.TestCase):
    def test_over_a_year_the_mean_is_the_places(self) -> None:
        self.assertAlmostEqual(float(year(10, -5).mean()), 10, delta=0.3)

    def test_winter_is_half_the_way_to_the_design_day_below_the_mean(self) -> None:
        january, july = year(10, -6)[:40].mean(), year(10, -6)[182:222].mean()
        self.assertAlmostEqual(float(july - january), 16, delta=3)

    def test_the_seasons_are_turned_round_south_of_the_equator(self) -> None:
        self.assertLess(float(year(10, -6)[:40].mean()), 5)
        self.assertGreater(float(year(10, -6, is_south=True)[:40].mean()), 15)

    def test_a_day_swings_by_three_kelvin_each_way_and_is_warmest_at_half_past_three(self) -> None:
        minutes = np.arange(0, 1440, 10, dtype=np.float64)
        day = made_up_outdoor_c(np.full(minutes.size, 100.0), minutes, annual_mean_c=10, coldest_c=-5)
        self.assertEqual(minutes[int(np.argmax(day))], 930)
        self.assertAlmostEqual(float(day.max() - day.min()), 2 * SWING_K, places=2)

    def test_a_place_without_a_winter_still_has_some_and_one_without_sense_no_more_than_forty(self) -> None:
        # The design day no more than 4 K under the mean is taken as 4 K, more than 40 K as 40 K.
        for near in (10.0, 7.0, 12.0):
            np.testing.assert_allclose(year(10, near), year(10, 6))
        np.testing.assert_allclose(year(10, -60), year(10, -30))
        self.assertFalse(np.allclose(year(10, 5), year(10, 6)))


if __name__ == "__main__":
    unittest.main()
