"""Rates of a tariff over days and hours."""

import unittest
from datetime import date
from decimal import Decimal

import numpy as np

from tests.tariffs import rate, tariff
from warmeter.core.arrays import Ints
from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import WEEKEND, Rate, Tax
from warmeter.core.tariff.prices import prices_at
from warmeter.core.tariff.rates_in_force import NO_RATE, local_calendar, rates_in_force
from warmeter.core.timegrid import LocalClock

LONDON = LocalClock("Europe/London")


def hours_of(on: date) -> Ints:
    """Return the beginnings of a local day's hours [ms UTC]."""
    day = LONDON.day(on)
    return np.arange(day.start_ms, day.end_ms, 3_600_000, dtype=np.int64)


def names(rates: list[Rate], on: date, holidays: tuple[date, ...] = (), *, fixed: bool = False) -> list[str]:
    """Return the name of the rate in force in each hour of a local day, "" where none is."""
    found = rates_in_force(rates, local_calendar(hours_of(on), LONDON, holidays, is_standard_time=fixed))
    return ["" if place == NO_RATE else rates[place].name for place in found.tolist()]


class Rates(unittest.TestCase):
    def test_a_hole_is_named_by_its_first_instant(self) -> None:
        only_night = tariff(rate("night", "0.1", from_min=0, to_min=360))
        with self.assertRaisesRegex(TariffError, "Mon 05 Jan 2026, 06:00"):
            prices_at(only_night, LONDON, hours_of(date(2026, 1, 5)))

    def test_rates_without_meaning_are_refused(self) -> None:
        for rest in (
            {"from_min": 60, "to_min": 60},
            {"days": ()},
            {"to_min": 2000},
            {"seasons": (("13-01", "02-01"),)},
        ):
            with self.assertRaises(TariffError):
                rate("x", "0.1", **rest)
        for price in ("NaN", "Infinity"):
            with self.assertRaises(TariffError):
                rate("x", price)

    def test_a_holiday_is_no_weekday_and_the_first_match_wins(self) -> None:
        rates = [rate("feast", "0.05", days=("holiday",)), rate("weekend", "0.1", days=WEEKEND), rate("rest", "0.3")]
        sunday = date(2026, 1, 4)
        for on, expected in ((date(2026, 1, 3), "weekend"), (sunday, "feast"), (date(2026, 1, 5), "rest")):
            self.assertEqual(set(names(rates, on, (sunday,))), {expected})

    def test_saturday_and_sunday_can_differ(self) -> None:
        rates = [rate("sat", "0.1", days=("sat",)), rate("rest", "0.3")]
        self.assertEqual([names(rates, date(2026, 1, d))[0] for d in (2, 3, 4)], ["rest", "sat", "rest"])

    def test_a_season_ends_on_its_last_day_and_goes_over_the_new_year(self) -> None:
        rates = [rate("winter", "0.4", seasons=(("10-16", "03-15"),)), rate("summer", "0.2")]
        for on, expected in (
            (date(2025, 10, 15), "summer"),
            (date(2025, 10, 16), "winter"),
            (date(2026, 1, 1), "winter"),
            (date(2026, 3, 15), "winter"),
            (date(2026, 3, 16), "summer"),
        ):
            self.assertEqual(names(rates, on)[0], expected, on)

    def test_a_rate_with_dates_gives_way_to_the_next(self) -> None:
        rates = [rate("old", "0.3", valid_to=date(2026, 1, 14)), rate("new", "0.4", valid_from=date(2026, 1, 15))]
        self.assertEqual([names(rates, date(2026, 1, d))[23] for d in (14, 15)], ["old", "new"])

    def test_a_night_over_midnight_is_of_the_day_that_the_instant_is_in(self) -> None:
        rates = [rate("night", "0.1", days=("sat",), from_min=1380, to_min=420), rate("day", "0.3")]
        friday, saturday, sunday = (names(rates, date(2026, 1, d)) for d in (2, 3, 4))
        self.assertEqual(friday[23], "day")
        self.assertEqual([saturday.count("night"), saturday[6], saturday[23]], [8, "night", "night"])
        self.assertEqual(sunday.count("night"), 0)

    def test_standard_time_meters_ignore_summer(self) -> None:
        rates = [rate("night", "0.1", from_min=0, to_min=360), rate("day", "0.3")]
        on = date(2026, 7, 1)
        self.assertEqual(names(rates, on)[:2], ["night", "night"])
        fixed = names(rates, on, fixed=True)
        self.assertEqual(fixed[:2], ["day", "night"], "00:00 summer time is still 23:00 by the meter's switch")
        self.assertEqual(fixed.count("night"), 6)

    def test_where_the_clock_goes_back_the_night_has_an_hour_more(self) -> None:
        rates = [rate("night", "0.1", from_min=0, to_min=360), rate("day", "0.3")]
        self.assertEqual(names(rates, date(2026, 10, 25)).count("night"), 7)
        self.assertEqual(names(rates, date(2026, 3, 29)).count("night"), 5)

    def test_parts_of_the_price_add_up_with_the_tax(self) -> None:
        own = tariff(
            rate("night", "0.10", from_min=0, to_min=360),
            rate("day", "0.20"),
            rate("dear net", "0.07", part="network", from_min=960, to_min=1200),
            rate("net", "0.02", part="network"),
            rate("levy", "0.01", part="levy"),
            taxes=(Tax(rate=Decimal("0.1")),),
        )
        prices = prices_at(own, LONDON, hours_of(date(2026, 1, 5)))
        for hour, expected in ((3, 0.143), (12, 0.253), (17, 0.308)):
            self.assertAlmostEqual(prices.by_step[hour], expected, places=12)


if __name__ == "__main__":
    unittest.main()
