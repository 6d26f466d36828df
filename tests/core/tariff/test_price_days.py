"""A tariff's different days against each hour asked by itself."""

import random
import unittest
from datetime import date, timedelta

import numpy as np

from tests.tariffs import rate
from warmeter.core.home.tariffs import RATE_DAYS, WEEKEND, WORKDAYS, Rate
from warmeter.core.tariff.price_days import PLACE_OF_DAY, idle_rates, price_days
from warmeter.core.tariff.rates_in_force import NO_RATE, local_calendar, rates_in_force
from warmeter.core.timegrid import LocalClock

NIGHT = rate("night", "0.1", from_min=1380, to_min=420)
PEAK = rate("peak", "0.5", seasons=(("11-01", "01-31"),), days=WORKDAYS, from_min=960, to_min=1200)
DAY = rate("day", "0.3")
CLOCK = LocalClock("UTC")


def some_rates(draw: random.Random) -> list[Rate]:
    """Return up to four rates with random seasons, days, parts and hours; holes and shadows among them."""
    days = [date(2024, 1, 1) + timedelta(k) for k in range(366)]
    rates = []
    for k in range(draw.randint(1, 4)):
        start = draw.randint(0, 24)
        seasons = [tuple(f"{draw.choice(days):%m-%d}" for _ in range(2)) for _ in range(draw.randint(0, 2))]
        rates.append(
            rate(
                f"r{k}",
                str(k),
                seasons=seasons,  # type: ignore[arg-type]
                days=tuple(draw.sample(RATE_DAYS, draw.randint(1, 8))),
                part=draw.choice(("energy", "energy", "network")),
                from_min=60 * start,
                to_min=60 * ((start + draw.randint(1, 24)) % 25),
            )
        )
    return rates


class PriceDays(unittest.TestCase):
    def test_a_three_rate_tariff_has_a_winter_workday_and_every_other_day(self) -> None:
        found = price_days([NIGHT, PEAK, DAY])
        winter = next(day for day in found if day.days == WORKDAYS)
        self.assertEqual(winter.spans, ((1101, 131),))
        self.assertEqual(
            [(s.from_min, s.to_min, s.energy) for s in winter.steps],
            [(0, 420, 0), (420, 960, 2), (960, 1200, 1), (1200, 1380, 2), (1380, 1440, 0)],
        )
        off = next(day for day in found if day.days == (*WEEKEND, "holiday"))
        summer = next(day for day in found if day.days == RATE_DAYS)
        self.assertEqual((off.spans, summer.spans), (((1101, 131),), ((201, 1031),)))
        self.assertEqual(off.steps, summer.steps)

    def test_a_rate_behind_one_without_limits_never_holds(self) -> None:
        self.assertEqual(idle_rates([DAY, NIGHT, PEAK]), (1, 2))
        self.assertEqual(idle_rates([NIGHT, PEAK, DAY]), ())
        self.assertEqual(idle_rates([DAY, rate("net", "0.1", part="network")]), (), "each part has its own order")

    def test_every_hour_of_every_day_has_the_rate_that_the_year_has(self) -> None:
        draw = random.Random(7)
        for _ in range(40):
            self.assert_as_the_year(some_rates(draw), draw)

    def assert_as_the_year(self, rates: list[Rate], draw: random.Random) -> None:
        """Ask for each hour by itself, of random days."""
        found = price_days(rates)
        own = [[r for r in rates if r.part == part] for part in ("energy", "network", "levy")]
        for _ in range(12):
            on = date(2024, 1, 1) + timedelta(draw.randrange(366))
            free = (on,) if draw.random() < 0.2 else ()
            kind = "holiday" if free else RATE_DAYS[on.weekday()]
            at = CLOCK.day(on).start_ms + 1_800_000 + 3_600_000 * np.arange(24)
            calendar = local_calendar(at, CLOCK, free)
            matching = [
                day
                for day in found
                if kind in day.days and any(holds(a, b, 100 * on.month + on.day) for a, b in day.spans)
            ]
            self.assertEqual(len(matching), 1, on)
            for part, of_part in enumerate(own):
                truth = rates_in_force(of_part, calendar)
                for hour in range(24):
                    step = next(s for s in matching[0].steps if s.from_min <= 60 * hour + 30 < s.to_min)
                    place = step.rates[part]
                    expected = None if truth[hour] == NO_RATE else rates.index(of_part[truth[hour]])
                    self.assertEqual(place, expected)


def holds(first: int, last: int, day: int) -> bool:
    """Return whether a day lies in a stretch of the year."""
    a, b, place = PLACE_OF_DAY[first], PLACE_OF_DAY[last], PLACE_OF_DAY[day]
    return a <= place <= b if a <= b else place >= a or place <= b


if __name__ == "__main__":
    unittest.main()
