"""Lines on machines and the night, each reckoned by hand."""

import unittest
from dataclasses import replace
from math import sqrt

import numpy as np

from tests.core.matters.rooms import evidence_of
from tests.homes import small_home
from warmeter.core.matters.all_lines import home_matters
from warmeter.core.matters.evidence import NightBase, RestingMachine, StartedMachine
from warmeter.core.matters.line import MatterLine

RESTING = RestingMachine(
    appliance_id="washer",
    name="Washer",
    rest_w=4.0,
    daily_sd_w=0.2,
    days=14,
    kwh_year=33.0,
    money_year=9.9,
    saved_money=8.6,
    plug_own_w=0.5,
    rose_w=2.3,
)
STARTED = StartedMachine(
    appliance_id="washer", name="Washer", cost=(0.30, 0.30, 0.10, 0.30), cheapest=(0.10, 0.10, 0.10, 0.29), days=14.6
)
NIGHT = NightBase(floor_w=112.0, night_sd_w=8.0, nights=14, plugs_w=64.0, price=0.27)


class Machines(unittest.TestCase):
    def line(self, key: str, **parts: object) -> MatterLine:
        found = home_matters(evidence_of(small_home(), **parts))
        return next(each for each in found.lines if each.key == key)

    def test_rest_is_worth_what_cutting_saves_and_its_days_say_how_sure(self) -> None:
        line = self.line("standby:washer", resting=(RESTING,))
        assert line.money is not None
        self.assertEqual(line.money.value, 8.6)
        rest = next(d for d in line.money.doubts if d.cause == "rest:washer")
        self.assertAlmostEqual(rest.up, 9.9 * 1.96 * 0.2 / sqrt(14) / 4.0)
        self.assertIn("rose by 2.3 W", line.why)

    def test_runs_at_dear_hours_by_hand(self) -> None:
        line = self.line("hour:washer", started=(STARTED,))
        assert line.money is not None
        # Two runs at 0.20 over the cheapest, one at 0.01 of 0.30, which stood well: 0.40 in 14.6 d, 25 times a year.
        self.assertAlmostEqual(line.money.value, 10.0)
        self.assertAlmostEqual(line.money.high - 10.0, 1.96 * 25 * sqrt(2 * 0.2**2))
        self.assertIn("2 of 4 runs", line.sentence)

    def test_few_runs_say_nothing(self) -> None:
        few = replace(STARTED, cost=(0.3, 0.3), cheapest=(0.1, 0.1))
        found = home_matters(evidence_of(small_home(), started=(few,)))
        self.assertNotIn("hour:washer", [each.key for each in found.lines])

    def test_what_runs_all_night_without_an_owner(self) -> None:
        line = self.line("night", night=NIGHT)
        assert line.money is not None
        # 48 W · 8760 h = 420.5 kWh, at 0.27 113.5 a year, of which a quarter may go: nothing to three fifths.
        self.assertAlmostEqual(line.money.value, 0.25 * 113.53, delta=0.01)
        self.assertAlmostEqual(
            line.money.low, line.money.value - sqrt(28.38**2 + (0.25 * 113.53 * 5.252 / 48) ** 2), delta=0.05
        )
        self.assertEqual(line.kind, "unknown")

    def test_a_longer_log_narrows_and_a_dearer_tariff_moves_the_rank(self) -> None:
        cheap = replace(RESTING, appliance_id="tv", name="Screen", saved_money=9.0, money_year=10.0)
        first = home_matters(evidence_of(small_home(), resting=(RESTING, cheap)))
        dear = home_matters(evidence_of(small_home(), resting=(replace(RESTING, saved_money=17.2), cheap)))
        order = [[each.key for each in found.lines if each.kind == "money"] for found in (first, dear)]
        self.assertEqual(order, [["standby:tv", "standby:washer"], ["standby:washer", "standby:tv"]])
        longer = home_matters(evidence_of(small_home(), resting=(replace(RESTING, days=140.0), cheap)))
        self.assertLess(longer.total.width, first.total.width)

    def test_another_week_keeps_its_promise_for_runs_that_come_by_chance(self) -> None:
        rng, kept = np.random.default_rng(77), 0
        for _ in range(10):
            per_day = rng.uniform(0.4, 1.5)
            runs = [int(n) for n in (rng.poisson(14 * per_day), rng.poisson(7 * per_day))]
            over = rng.choice([0.0, 0.15, 0.25], size=sum(runs))
            logs = [(over[: runs[0]], 14.0), (over, 21.0)]
            widths = []
            for extra, days in logs:
                started = replace(STARTED, cost=tuple(0.1 + extra), cheapest=tuple(np.full(extra.size, 0.1)), days=days)
                found = home_matters(evidence_of(small_home(), started=(started,)))
                widths.append((found.total.width, found.measures))
            promised = next(m.after.width for m in widths[0][1] if m.offer.key == "log:runs:washer")
            kept += abs(widths[1][0] - promised) <= promised / 3
        self.assertGreaterEqual(kept, 8)
