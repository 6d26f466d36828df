"""Prices at instants and what energy costs at them, against sums by hand."""

import unittest
from dataclasses import replace
from decimal import Decimal

import numpy as np

from warmeter.core.errors import TariffError
from warmeter.core.home.document import Tariff
from warmeter.core.tariff.prices import known_prices, minutes_between, prices_at, prices_between
from warmeter.core.tariff.structure import Rate
from warmeter.core.timegrid import LocalClock, parse_utc

CLOCK = LocalClock("Europe/London")
DAY = Rate(name="day", price_per_kwh=Decimal("0.30"), from_min=420, to_min=1380)
NIGHT = Rate(name="night", price_per_kwh=Decimal("-0.05"), from_min=1380, to_min=420)
TARIFF = Tariff(id="t", name="Two", currency="GBP", rates=(DAY, NIGHT))
NOON = parse_utc("2026-01-14T12:00:00Z")


class Bills(unittest.TestCase):
    def test_a_minute_has_the_price_of_its_rate(self) -> None:
        prices = prices_between(TARIFF, CLOCK, NOON - 12 * 3_600_000, NOON + 12 * 3_600_000)
        self.assertEqual(prices.by_step.size, 1440)
        for minute, price in ((0, -0.05), (419, -0.05), (420, 0.30), (1379, 0.30), (1380, -0.05)):
            self.assertEqual(prices.by_step[minute], price, minute)

    def test_on_the_day_of_25_hours_the_night_has_an_hour_more(self) -> None:
        day = CLOCK.day_of(parse_utc("2026-10-25T12:00:00Z"))
        prices = prices_between(TARIFF, CLOCK, day.start_ms, day.end_ms)
        self.assertEqual([int((prices.rate == k).sum()) / 60 for k in (0, 1)], [16.0, 9.0])

    def test_a_bill_is_each_rates_energy_at_its_price_and_the_cost_their_sum(self) -> None:
        prices = prices_at(TARIFF, CLOCK, np.array([NOON, NOON + 60_000, NOON + 11 * 3_600_000], dtype=np.int64))
        lines = prices.bill(np.array([0.5, 0.25, 2.0]))
        self.assertEqual(
            [(line.name, line.kwh, line.cost) for line in lines],
            [("day", Decimal("0.75"), Decimal("0.2250")), ("night", Decimal("2.0"), Decimal("-0.100"))],
        )
        self.assertEqual(prices.cost(np.array([0.5, 0.25, 2.0])), Decimal("0.125"))
        self.assertEqual(prices.cost(np.zeros(3)), 0)

    def test_what_has_no_price_has_no_cost(self) -> None:
        only_day = replace(TARIFF, rates=(DAY,))
        minutes = minutes_between(NOON, NOON + 12 * 3_600_000)
        self.assertEqual(minutes.size, 720)
        with self.assertRaises(TariffError):
            prices_at(only_day, CLOCK, minutes)
        self.assertIsNone(known_prices(only_day, CLOCK, minutes))
        self.assertIsNone(known_prices(None, CLOCK, minutes))
        self.assertIsNotNone(known_prices(TARIFF, CLOCK, minutes))


if __name__ == "__main__":
    unittest.main()
