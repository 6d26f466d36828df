"""Energy over degree days: known bases and slopes, ranges that hold, and weeks compared like for like."""

import unittest

import numpy as np

from warmeter.core.errors import NotKnowable, OutOfRange
from warmeter.core.saving.degree_days import autocorrelation, degree_day_fit
from warmeter.core.saving.like_for_like import like_for_like


class Fit(unittest.TestCase):
    def test_energy_without_noise_gives_its_base_and_slope(self) -> None:
        days, cold = np.array([31.0, 28.0, 31.0, 30.0]), np.array([400.0, 350.0, 210.0, 30.0])
        fit = degree_day_fit(days, cold, 4.5 * days + 1.7 * cold)
        self.assertAlmostEqual(fit.base_per_day, 4.5)
        self.assertAlmostEqual(fit.slope_per_degree_day, 1.7)
        self.assertAlmostEqual(fit.r2, 1.0)
        self.assertTrue(fit.follows_weather)

    def test_ranges_hold_where_days_hang_together(self) -> None:
        rng, held = np.random.default_rng(512), 0
        for _ in range(200):
            cold, noise = np.maximum(0, rng.normal(8, 4, 42)), np.zeros(42)
            for k in range(1, 42):
                noise[k] = 0.5 * noise[k - 1] + rng.normal(0, 2)
            fit = degree_day_fit(np.ones(42), cold, 9 + 1.2 * cold + noise)
            held += abs(fit.slope_per_degree_day - 1.2) <= fit.slope_half
        self.assertGreaterEqual(held, 180)

    def test_what_does_not_follow_the_weather_says_so(self) -> None:
        rng = np.random.default_rng(3)
        found = sum(
            degree_day_fit(np.ones(40), rng.uniform(0, 15, 40), rng.normal(10, 3, 40)).follows_weather
            for _ in range(100)
        )
        self.assertLessEqual(found, 8)

    def test_days_that_are_alike_or_few_tell_nothing(self) -> None:
        for count, cold in ((2, [3.0, 9.0]), (5, [4.0] * 5)):
            with self.subTest(count), self.assertRaises(NotKnowable):
                degree_day_fit(np.ones(count), np.array(cold), np.ones(count))
        with self.assertRaises(OutOfRange):
            degree_day_fit(np.ones(3), np.array([1.0, -2.0, 3.0]), np.ones(3))

    def test_values_that_alternate_are_not_more_than_they_are(self) -> None:
        found = autocorrelation(np.array([1.0, -1.0] * 6))
        self.assertLess(found.rho1, -0.9)
        self.assertEqual(found.effective, 12)


class Weeks(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(8)
        self.cold = np.concatenate([rng.uniform(2, 12, 14), rng.uniform(2, 6, 7), rng.uniform(9, 14, 7)])
        self.kwh = 8 + 2 * self.cold + rng.normal(0, 1.0, 28)
        self.colder_by = float(self.cold[-7:].sum() - self.cold[-14:-7].sum())

    def test_what_the_weather_made_is_taken_out(self) -> None:
        more = 0.30 * float(self.kwh[-7:].sum() - self.kwh[-14:-7].sum())
        found = like_for_like(more, self.kwh[:-7], self.cold[:-7], self.colder_by, 0.30)
        self.assertGreater(more, 15)
        self.assertLessEqual(found.low, 0)
        self.assertGreaterEqual(found.high, 0)
        self.assertAlmostEqual(found.more, 0, delta=3)

    def test_what_it_did_not_make_is_left(self) -> None:
        # The last week has 3 kWh a day more of something else: 21 kWh at 0.30.
        self.kwh[-7:] += 3
        more = 0.30 * float(self.kwh[-7:].sum() - self.kwh[-14:-7].sum())
        found = like_for_like(more, self.kwh[:-7], self.cold[:-7], self.colder_by, 0.30)
        self.assertGreater(found.low, 0)
        self.assertLess(found.low, 6.30)
        self.assertGreater(found.high, 6.30)

    def test_one_week_before_tells_nothing(self) -> None:
        with self.assertRaises(NotKnowable):
            like_for_like(3.0, self.kwh[-14:-7], self.cold[-14:-7], self.colder_by, 0.30)
