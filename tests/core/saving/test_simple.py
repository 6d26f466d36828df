"""Watts times hours times days times price, to the last place."""

import unittest
from decimal import Decimal

from warmeter.core.errors import OutOfRange
from warmeter.core.saving.simple import saving_of, simple_saving


class Saving(unittest.TestCase):
    def test_ten_watts_all_year(self) -> None:
        saving = simple_saving(
            power_w=10.0, hours_per_day=24.0, days_per_year=365.0, price_per_kwh=Decimal("0.30"), cost=Decimal("13.14")
        )
        self.assertEqual((saving.kwh_per_year, saving.money_per_year), (Decimal("87.6"), Decimal("26.28")))
        self.assertEqual(saving.payback_years, Decimal("0.5"))

    def test_what_saves_no_money_never_comes_back(self) -> None:
        for price in ("0", "-0.05"):
            with self.subTest(price):
                self.assertIsNone(saving_of(Decimal(100), Decimal(price), Decimal(5)).payback_years)

    def test_numbers_out_of_range_are_refused(self) -> None:
        usual = {"power_w": 10.0, "hours_per_day": 24.0, "days_per_year": 365.0}
        for name, value in (("power_w", -0.1), ("hours_per_day", 24.1), ("days_per_year", 366.5)):
            with self.subTest(name), self.assertRaises(OutOfRange):
                simple_saving(**{**usual, name: value}, price_per_kwh=Decimal(1), cost=Decimal(0))
        with self.assertRaises(OutOfRange):
            simple_saving(**usual, price_per_kwh=Decimal(1), cost=Decimal("-0.01"))


if __name__ == "__main__":
    unittest.main()
