"""Logged runs moved to their cheapest start, against trying every start and bills worked by hand."""

import unittest
from datetime import date
from decimal import Decimal

import numpy as np

from tests.tariffs import metered, rate, steady, tariff
from warmeter.core.day_plan.moved_runs import MovableRun, moved_runs
from warmeter.core.home.day_plans import QuietHours
from warmeter.core.tariff.bill import Metered
from warmeter.core.tariff.metered_energy import MILLION
from warmeter.core.tariff.tariff_comparison import tariff_year
from warmeter.core.timegrid import LocalClock

UTC = LocalClock("UTC")
FIRST, LAST = date(2026, 1, 1), date(2026, 1, 31)
NIGHT, DAY = rate("night", "0.10", from_min=0, to_min=360), rate("day", "0.30")
OWN = tariff(NIGHT, DAY)


def run_at(minute: int, kwh: list[float], on: date = FIRST) -> MovableRun:
    begin = UTC.instant(on, 0) + minute * 60_000
    return MovableRun(start_ms=begin, end_ms=begin + 900_000 * len(kwh), metered=metered(begin, 15, kwh))


def with_runs(kw: str, *runs: MovableRun) -> Metered:
    """Return the meter of a home that draws a power and its runs."""
    whole = steady(UTC, FIRST, LAST, kw, step_min=15)
    amounts = whole.millionths.copy()
    for run in runs:
        place = np.searchsorted(whole.start_ms, run.metered.start_ms)
        amounts[place] += run.metered.millionths
    return Metered(metered(int(whole.start_ms[0]), 15, (amounts / MILLION).tolist()))


class Moved(unittest.TestCase):
    def test_a_run_of_the_dear_hours_goes_to_the_night_and_the_bill_falls_by_as_much(self) -> None:
        run = run_at(18 * 60, [0.5, 0.5])
        told = with_runs("0.2", run)
        found = moved_runs(told, [run], OWN, UTC, (), FIRST, LAST)
        self.assertEqual((found.moved, found.movable), (1, 1))
        before, after = (tariff_year(OWN, UTC, FIRST, 1, each).total for each in (told, found.metered))
        assert before is not None
        assert after is not None
        self.assertEqual(before - after, Decimal("0.20"))
        self.assertEqual(int(found.metered.bought.millionths.sum()), int(told.bought.millionths.sum()))

    def test_quiet_hours_keep_it_out_of_the_night(self) -> None:
        run = run_at(18 * 60, [0.5, 0.5])
        told = with_runs("0.2", run)
        quiet = (QuietHours(from_min=1320, to_min=330),)
        found = moved_runs(told, [run], OWN, UTC, quiet, FIRST, LAST)
        # 05:30 to 06:00 is left of the cheap hours.
        begin = int((UTC.instant(FIRST, 330) - UTC.instant(FIRST, 0)) / 900_000)
        np.testing.assert_array_equal(found.metered.bought.millionths[begin : begin + 2], [550_000, 550_000])

    def test_of_equal_costs_it_stays(self) -> None:
        run = run_at(18 * 60, [0.5, 0.5])
        found = moved_runs(with_runs("0.2", run), [run], tariff(DAY), UTC, (), FIRST, LAST)
        self.assertEqual((found.moved, found.movable), (0, 1))

    def test_sun_that_would_be_sold_is_taken_first(self) -> None:
        run = run_at(18 * 60, [0.5, 0.5])
        told = with_runs("0.2", run)
        sold = [0.0] * (96 * 31)
        sold[48:50] = [0.4, 0.4]  # at noon
        both = Metered(told.bought, metered(int(told.bought.start_ms[0]), 15, sold))
        found = moved_runs(both, [run], tariff(rate("day", "0.30")), UTC, (), FIRST, LAST)
        assert found.metered.sold is not None
        self.assertEqual(int(found.metered.sold.millionths.sum()), 0)
        np.testing.assert_array_equal(found.metered.bought.millionths[48:50], [150_000, 150_000])

    def test_what_cannot_be_moved_stays(self) -> None:
        over_midnight = run_at(23 * 60 + 45, [0.5, 0.5])
        before_the_log = run_at(0, [0.5], date(2025, 12, 31))
        found = moved_runs(with_runs("0.2", over_midnight), [over_midnight, before_the_log], OWN, UTC, (), FIRST, LAST)
        self.assertEqual((found.moved, found.movable), (0, 0))

    def test_no_start_of_the_day_would_have_been_cheaper(self) -> None:
        rng = np.random.default_rng(4)
        names = [
            rate(f"h{h}", f"{p:.3f}", from_min=60 * h, to_min=60 * h + 60) for h, p in enumerate(rng.uniform(0, 1, 24))
        ]
        own = tariff(*names)
        by_hour = np.array([float(each.price_per_unit) for each in names])
        for _ in range(20):
            kwh = np.round(rng.uniform(0.05, 0.6, int(rng.integers(1, 9))), 3)
            start = int(rng.integers(0, 96 - kwh.size))
            run = run_at(15 * start, kwh.tolist())
            told = with_runs("0.2", run)
            found = moved_runs(told, [run], own, UTC, (), FIRST, FIRST)
            price = np.repeat(by_hour, 4)
            costs = [float(kwh @ price[k : k + kwh.size]) for k in range(97 - kwh.size)]
            cost = float(found.metered.bought.millionths @ price) / MILLION - float(0.05 * price.sum())
            self.assertAlmostEqual(cost, min(costs), places=6)


if __name__ == "__main__":
    unittest.main()
