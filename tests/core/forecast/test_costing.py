"""What heat draws and costs, against sums worked out on paper."""

import unittest
from dataclasses import replace
from decimal import Decimal

import numpy as np

from tests.drawn import drawn_home
from tests.homes import small_home
from warmeter.core.forecast.costing import costed, drawn_of
from warmeter.core.tariff.prices import prices_between
from warmeter.core.timegrid import LocalClock, parse_utc

START_MS = parse_utc("2026-01-14T05:00:00Z")
TWO_HOURS = 120


class Costing(unittest.TestCase):
    def test_an_hour_at_each_rate(self) -> None:
        home = small_home()
        prices = prices_between(home.tariffs[0], LocalClock(home.time_zone), START_MS, START_MS + TWO_HOURS * 60_000)
        drawn = drawn_of(home.heaters[0], home.sources[0], prices, TWO_HOURS)
        # 1.5 kW for two hours by the best draw, half of it by the other, at a COP of 3: 1 kWh and 0.5 kWh.
        heat = np.stack([np.full(TWO_HOURS, 1500.0), np.full(TWO_HOURS, 750.0)])
        found = costed(heat, np.full(TWO_HOURS, 3.0), drawn)
        self.assertAlmostEqual(found.heat_kwh.value, 3.0)
        self.assertAlmostEqual(found.drawn_kwh.value, 1.0)
        assert found.cost is not None
        self.assertAlmostEqual(found.cost.value, 0.5 * 0.10 + 0.5 * 0.30)
        self.assertEqual([(line.name, float(line.kwh)) for line in found.by_rate], [("night", 0.5), ("day", 0.5)])
        self.assertTrue(0.5 <= found.drawn_kwh.low < found.drawn_kwh.value)
        self.assertEqual((found.cold_kwh.value, found.fuel), (0.0, ""))

    def test_heat_taken_away_is_cold_and_is_paid_for(self) -> None:
        home = small_home()
        prices = prices_between(home.tariffs[0], LocalClock(home.time_zone), START_MS, START_MS + TWO_HOURS * 60_000)
        drawn = drawn_of(home.heaters[0], home.sources[0], prices, TWO_HOURS)
        heat = np.where(np.arange(TWO_HOURS) < 60, 900.0, -600.0)[None, :]
        found = costed(heat, np.full(TWO_HOURS, 3.0), drawn)
        self.assertAlmostEqual(found.heat_kwh.value, 0.9)
        self.assertAlmostEqual(found.cold_kwh.value, 0.6)
        assert found.cost is not None
        self.assertAlmostEqual(found.cost.value, 0.3 * 0.10 + 0.2 * 0.30)

    def test_a_boiler_pays_its_fuel_s_own_price_whatever_the_tariff(self) -> None:
        home = drawn_home()
        boiler = replace(home.sources[0], fuel_kwh=10.0, fuel_price=Decimal("1.20"))
        drawn = drawn_of(home.heaters[0], boiler, None, TWO_HOURS)
        found = costed(np.full((1, TWO_HOURS), 900.0), np.full(TWO_HOURS, 0.9), drawn)
        self.assertEqual((found.fuel, [line.name for line in found.by_rate]), ("gas", ["gas"]))
        assert found.cost is not None
        self.assertAlmostEqual(found.drawn_kwh.value, 2.0)
        self.assertAlmostEqual(found.cost.value, 2.0 * 1.20 / 10.0)
        unpriced = costed(
            np.full((1, TWO_HOURS), 900.0),
            np.ones(TWO_HOURS),
            drawn_of(home.heaters[0], home.sources[0], None, TWO_HOURS),
        )
        self.assertIsNone(unpriced.cost)
        self.assertEqual(unpriced.by_rate, ())


if __name__ == "__main__":
    unittest.main()
