"""A tariff's different days against each minute asked by itself."""

import random
import unittest
from datetime import date, timedelta
from decimal import Decimal

import numpy as np

from warmeter.core.tariff.price_days import idle_rates, price_days
from warmeter.core.tariff.structure import ALL_MONTHS, DAY_KINDS, Rate, rate_of_minutes
from warmeter.core.timegrid import LocalClock

NIGHT = Rate(name="night", price_per_kwh=Decimal("0.1"), from_min=1380, to_min=420)
PEAK = Rate(name="peak", price_per_kwh=Decimal("0.5"), months=(11, 12, 1), days=("weekday",), from_min=960, to_min=1200)
DAY = Rate(name="day", price_per_kwh=Decimal("0.3"))


def some_rates(draw: random.Random) -> list[Rate]:
    """Return up to four rates with random months, kinds and hours; holes and shadows among them."""
    rates = []
    for k in range(draw.randint(1, 4)):
        start = draw.randint(0, 24)
        rates.append(
            Rate(
                name=f"r{k}",
                price_per_kwh=Decimal(k),
                months=tuple(sorted(draw.sample(ALL_MONTHS, draw.randint(1, 12)))),
                days=tuple(draw.sample(DAY_KINDS, draw.randint(1, 3))),
                from_min=60 * start,
                to_min=60 * ((start + draw.randint(1, 24)) % 25),
            )
        )
    return rates


class PriceDays(unittest.TestCase):
    def test_a_three_rate_tariff_has_a_winter_workday_and_every_other_day(self) -> None:
        winter, rest, summer = price_days([NIGHT, PEAK, DAY])
        self.assertEqual((winter.months, winter.kinds), ((1, 11, 12), ("weekday",)))
        self.assertEqual(
            [(s.from_min, s.to_min, s.rate) for s in winter.steps],
            [(0, 420, 0), (420, 960, 2), (960, 1200, 1), (1200, 1380, 2), (1380, 1440, 0)],
        )
        self.assertEqual((rest.months, rest.kinds), ((1, 11, 12), ("weekend", "holiday")))
        self.assertEqual((summer.months, summer.kinds), (tuple(range(2, 11)), DAY_KINDS))
        self.assertEqual(rest.steps, summer.steps)

    def test_a_rate_behind_one_without_limits_never_holds(self) -> None:
        self.assertEqual(idle_rates([DAY, NIGHT, PEAK]), (1, 2))
        self.assertEqual(idle_rates([NIGHT, PEAK, DAY]), ())

    def test_every_hour_of_every_kind_of_day_has_the_rate_that_the_year_has(self) -> None:
        draw = random.Random(7)
        for _ in range(60):
            self.assert_as_the_year(some_rates(draw))

    def assert_as_the_year(self, rates: list[Rate]) -> None:
        """Ask for each hour by itself, of days of three months."""
        everything = Rate(name="hole", price_per_kwh=Decimal(99))
        clock = LocalClock("UTC")
        found = price_days(rates)
        self.assertEqual(sum(len(day.months) * len(day.kinds) for day in found), 36)
        for month in (1, 6, 12):
            monday = next(d for d in (date(2026, month, 1) + timedelta(k) for k in range(7)) if d.weekday() == 0)
            for kind, on in (("weekday", monday), ("weekend", monday + timedelta(5)), ("holiday", monday)):
                at = clock.day(on).start_ms + 1_800_000 + 3_600_000 * np.arange(24)
                free = frozenset({monday}) if kind == "holiday" else frozenset()
                truth = rate_of_minutes([*rates, everything], at, clock=clock, holidays=free)
                day = next(d for d in found if month in d.months and kind in d.kinds)
                for hour, place in enumerate(truth.tolist()):
                    step = next(s for s in day.steps if s.from_min <= 60 * hour + 30 < s.to_min)
                    self.assertEqual(step.rate, None if place == len(rates) else place)


if __name__ == "__main__":
    unittest.main()
