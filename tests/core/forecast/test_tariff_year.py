"""A year at a tariff against the hours of its rates."""

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

from tests.homes import small_home
from warmeter.core.forecast.tariff_year import first_gap, mean_price, money_of_even_use
from warmeter.core.home.tariffs import Rate
from warmeter.core.timegrid import parse_utc

# 06:00 to 24:00 at 0.30, 00:00 to 06:00 at 0.10: a quarter of each day is night.
MEAN = Decimal("0.25")


class AYear(unittest.TestCase):
    def test_even_use_is_priced_by_how_long_each_rate_holds(self) -> None:
        home, on = small_home(), date(2026, 12, 30)
        price = mean_price(home, on)
        assert price is not None
        # Both clock changes of the year lie at 01:00 at night: the day of 23 hours and that of 25 even out.
        self.assertAlmostEqual(float(price), float(MEAN), places=5)
        money = money_of_even_use(home, on, Decimal(200))
        self.assertEqual(money, 200 * price)

    def test_one_rate_all_day_is_its_own_mean(self) -> None:
        tariff = small_home().tariffs[0]
        flat = replace(tariff, rates=(Rate(name="all", price_per_unit=Decimal("0.2")),))
        self.assertEqual(mean_price(replace(small_home(), tariffs=(flat,)), date(2026, 6, 1)), Decimal("0.2"))

    def test_without_a_tariff_or_with_a_gap_there_is_no_money(self) -> None:
        home = small_home()
        self.assertIsNone(mean_price(replace(home, tariffs=()), date(2026, 6, 1)))
        holey = replace(home.tariffs[0], rates=home.tariffs[0].rates[:1], valid_to=None)
        self.assertIsNone(mean_price(replace(home, tariffs=(holey,)), date(2026, 6, 1)))
        told = first_gap(holey, home.time_zone, parse_utc("2026-06-01T00:00:00Z"))
        self.assertIn("06:00", told)
        whole = replace(home.tariffs[0], valid_to=None)
        self.assertEqual(first_gap(whole, home.time_zone, parse_utc("2026-06-01T00:00:00Z")), "")


if __name__ == "__main__":
    unittest.main()
