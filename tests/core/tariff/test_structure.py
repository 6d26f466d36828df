"""Rates of a tariff over days and hours."""

import unittest
from datetime import date
from decimal import Decimal

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import TariffError
from warmeter.core.tariff.structure import Rate, by_rate, rate_of_minutes
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN

LONDON = LocalClock("Europe/London")


def used(
    rates: list[Rate],
    start_ms: int,
    hours: list[Decimal],
    *,
    holidays: frozenset[date] = frozenset(),
    fixed: bool = False,
) -> dict[str, tuple[Decimal, Decimal]]:
    """Return energy and cost by rate of hourly energies."""
    minutes = start_ms + np.arange(60 * len(hours), dtype=np.int64) * MS_PER_MIN
    rate = rate_of_minutes(rates, minutes, clock=LONDON, holidays=holidays, standard_time=fixed)
    energy = np.repeat([float(h) / 60 for h in hours], 60)
    found = by_rate([(r.name, r.price_per_kwh) for r in rates], rate, energy)
    return {name: (kwh, cost) for name, kwh, cost, _ in found}


def rate(name: str, price: str, **rest: object) -> Rate:
    """Return a rate."""
    return Rate(name=name, price_per_kwh=Decimal(price), **rest)  # type: ignore[arg-type]


class Rates(unittest.TestCase):
    def test_a_hole_is_named_by_its_first_instant(self) -> None:
        start = LONDON.day(date(2026, 1, 5)).start_ms
        minutes = start + np.arange(1440, dtype=np.int64) * 60_000
        with self.assertRaisesRegex(TariffError, "Mon 05 Jan 2026, 06:00"):
            rate_of_minutes([rate("night", "0.1", from_min=0, to_min=360)], minutes, clock=LONDON, holidays=frozenset())

    def test_rates_without_meaning_are_refused(self) -> None:
        for rest in ({"from_min": 60, "to_min": 60}, {"months": (13,)}, {"months": ()}, {"days": ()}, {"to_min": 2000}):
            with self.assertRaises(TariffError):
                rate("x", "0.1", **rest)
        with self.assertRaises(TariffError):
            rate("x", "NaN")

    def test_holiday_comes_before_weekend_and_first_match_wins(self) -> None:
        rates = [
            rate("feast", "0.05", days=("holiday",)),
            rate("weekend", "0.1", days=("weekend",)),
            rate("rest", "0.3"),
        ]
        for on, expected in ((date(2026, 1, 3), "weekend"), (date(2026, 1, 4), "feast"), (date(2026, 1, 5), "rest")):
            day = LONDON.day(on)
            usage = used(rates, day.start_ms, [Decimal(1)] * 24, holidays=frozenset({date(2026, 1, 4)}))
            self.assertEqual(list(usage), [expected])

    def test_standard_time_meters_ignore_summer(self) -> None:
        rates = [rate("night", "0.1", from_min=0, to_min=360), rate("day", "0.3")]
        day = LONDON.day(date(2026, 7, 1))
        hours = [Decimal(1)] * 24
        local = used(rates, day.start_ms, hours)["night"][0]
        fixed = used(rates, day.start_ms, hours, fixed=True)["night"][0]
        self.assertEqual((local, fixed), (Decimal(6), Decimal(6)))
        first = rate_of_minutes(rates, np.array([day.start_ms]), clock=LONDON, holidays=frozenset(), standard_time=True)
        self.assertEqual(first.tolist(), [1], "00:00 summer time is still 23:00 by the meter's switch")

    @settings(deadline=None, derandomize=True, max_examples=25)
    @given(st.integers(0, 8759), st.lists(st.decimals(0, 5, places=3), min_size=1, max_size=30))
    def test_cost_is_additive_over_time(self, hour: int, energy: list[Decimal]) -> None:
        rates = [rate("a", "0.2", months=(1, 2, 3), from_min=1200, to_min=300), rate("b", "0.3")]
        start = LONDON.day(date(2026, 1, 1)).start_ms + hour * 3_600_000
        cut = len(energy) // 2

        def cost(start_ms: int, part: list[Decimal]) -> Decimal:
            return sum((each for _, each in used(rates, start_ms, part).values()), Decimal(0))

        whole = cost(start, energy)
        parts = sum(
            (cost(start + k * 3_600_000, part) for k, part in ((0, energy[:cut]), (cut, energy[cut:])) if part),
            Decimal(0),
        )
        # Each rate's energy is taken to a millionth of a kWh.
        self.assertAlmostEqual(whole, parts, delta=Decimal("1e-6"))


if __name__ == "__main__":
    unittest.main()
