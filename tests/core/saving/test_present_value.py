"""Savings of years to come in today's money, against the closed form of an annuity."""

import unittest
from decimal import Decimal

from warmeter.core.errors import OutOfRange
from warmeter.core.saving.present_value import PresentValue, present_value


def worth(cost: str, saving: str, rate: str = "0.05", growth: str = "0", years: int = 20) -> PresentValue:
    return present_value(
        cost=Decimal(cost),
        saving_year1=Decimal(saving),
        discount_rate=Decimal(rate),
        price_growth=Decimal(growth),
        years=years,
    )


class Worth(unittest.TestCase):
    def test_even_savings_are_an_annuity(self) -> None:
        self.assertAlmostEqual(float(worth("1000", "90").net), 90 * (1 - 1.05**-20) / 0.05 - 1000, places=9)

    def test_prices_that_rise_as_fast_as_money_grows_leave_each_year_alike(self) -> None:
        self.assertAlmostEqual(float(worth("0", "102", "0.02", "0.02", 7).net), 700.0, places=9)

    def test_money_without_interest_pays_back_at_cost_over_saving(self) -> None:
        self.assertEqual(worth("250", "100", "0").payback_years, Decimal("2.5"))

    def test_a_cost_of_three_discounted_years_is_back_after_three(self) -> None:
        cost = sum(100 / 1.08**k for k in (1, 2, 3))
        found = worth(f"{cost:.12f}", "100", "0.08").payback_years
        assert found is not None
        self.assertAlmostEqual(float(found), 3.0, places=9)

    def test_what_does_not_last_as_long_never_pays_back(self) -> None:
        self.assertIsNone(worth("1000", "90", years=10).payback_years)
        self.assertIsNone(worth("1", "-5").payback_years)
        self.assertEqual(worth("0", "1").payback_years, 0)

    def test_numbers_out_of_range_are_refused(self) -> None:
        for given in (("-1", "1"), ("1", "1", "1.01"), ("1", "1", "0", "-0.51"), ("1", "1", "0", "0", 0)):
            with self.subTest(given), self.assertRaises(OutOfRange):
                worth(*given)


if __name__ == "__main__":
    unittest.main()
