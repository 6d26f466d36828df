"""Prices at instants and what energy costs at them, against sums by hand."""

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

import numpy as np

from tests.homes import small_home
from tests.tariffs import rate, tariff
from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import MarketPrice, Tax
from warmeter.core.tariff.home_prices import home_prices
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.tariff.prices import minutes_between, prices_at, prices_between
from warmeter.core.timegrid import LocalClock, parse_utc

CLOCK = LocalClock("Europe/London")
DAY = rate("day", "0.30", from_min=420, to_min=1380)
NIGHT = rate("night", "-0.05", from_min=1380, to_min=420)
TARIFF = tariff(DAY, NIGHT, currency="GBP")
NOON = parse_utc("2026-01-14T12:00:00Z")


class PricesByStep(unittest.TestCase):
    def test_a_minute_has_the_price_of_its_rate(self) -> None:
        prices = prices_between(TARIFF, CLOCK, NOON - 12 * 3_600_000, NOON + 12 * 3_600_000)
        self.assertEqual(prices.by_step.size, 1440)
        for minute, price in ((0, -0.05), (419, -0.05), (420, 0.30), (1379, 0.30), (1380, -0.05)):
            self.assertEqual(prices.by_step[minute], price, minute)

    def test_a_bill_is_each_rates_energy_at_its_price_and_the_cost_their_sum(self) -> None:
        prices = prices_at(TARIFF, CLOCK, np.array([NOON, NOON + 60_000, NOON + 11 * 3_600_000], dtype=np.int64))
        lines = prices.by_rate(np.array([0.5, 0.25, 2.0]))
        self.assertEqual(
            {(line.name, line.kwh, line.cost) for line in lines},
            {("day", Decimal("0.75"), Decimal("0.2250")), ("night", Decimal("2.0"), Decimal("-0.100"))},
        )
        self.assertEqual(prices.cost(np.array([0.5, 0.25, 2.0])), Decimal("0.125"))
        self.assertEqual(prices.cost(np.zeros(3)), 0)

    def test_what_has_no_price_is_refused(self) -> None:
        minutes = minutes_between(NOON, NOON + 12 * 3_600_000)
        self.assertEqual(minutes.size, 720)
        with self.assertRaises(TariffError):
            prices_at(replace(TARIFF, rates=(DAY,)), CLOCK, minutes)

    def test_the_markets_price_is_taken_times_its_factor_with_the_rates_and_tax_on_it(self) -> None:
        own = replace(TARIFF, market=MarketPrice(factor=Decimal("1.02")), taxes=(Tax(rate=Decimal("0.05")),))
        at = np.array([NOON, NOON + 3_600_000], dtype=np.int64)
        found = prices_at(own, CLOCK, at, np.array([0.10, -0.40]))
        self.assertAlmostEqual(found.by_step[0], (0.102 + 0.30) * 1.05, places=12)
        self.assertAlmostEqual(found.by_step[1], (-0.408 + 0.30) * 1.05, places=12)
        (line,) = found.by_rate(np.array([1.0, 2.0]))
        self.assertAlmostEqual(float(line.cost), 0.402 * 1.05 + 2 * -0.108 * 1.05, places=9)
        for unknown in (None, np.array([0.1, np.nan])):
            with self.assertRaisesRegex(TariffError, "no market price"):
                prices_at(own, CLOCK, at, unknown)

    def test_over_a_change_of_tariff_each_day_has_its_own(self) -> None:
        old = tariff(rate("old", "0.2"), id="a", currency="GBP", valid_to=date(2026, 1, 14))
        new = tariff(rate("new", "0.4"), id="b", currency="GBP", valid_from=date(2026, 1, 15))
        home = replace(small_home(), tariffs=(old, new))
        prices = home_prices(home, LocalClock(home.time_zone), minutes_between(NOON, NOON + 24 * 3_600_000))
        self.assertEqual((prices.by_step[0], prices.by_step[719], prices.by_step[720]), (0.2, 0.2, 0.4))
        self.assertEqual([line.name for line in prices.by_rate(np.ones(1440))], ["old", "new"])

    def test_a_market_is_known_only_as_far_as_its_intervals_reach(self) -> None:
        market = MarketPrices(start_ms=np.array([0, 3_600_000]), step_ms=3_600_000, price=np.array([0.1, 0.2]))
        got = market.at(np.array([-1, 0, 3_599_999, 3_600_000, 7_199_999, 7_200_000]))
        self.assertEqual(np.isnan(got).tolist(), [True, False, False, False, False, True])
        self.assertEqual(got[1:5].tolist(), [0.1, 0.1, 0.2, 0.2])


if __name__ == "__main__":
    unittest.main()
