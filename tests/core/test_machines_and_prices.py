"""Signatures and tariffs against brute force and logs with known truth."""

import csv
import unittest
from datetime import date
from decimal import Decimal
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import NotKnowable, OutOfRange, TariffError
from warmeter.core.signature.cycles import OnOffSetting, activity, cycle_features, on_off_events
from warmeter.core.signature.metrics import match_events
from warmeter.core.signature.standby import standby_of
from warmeter.core.signature.thresholds import FinishSetting, judge, propose, tune_threshold
from warmeter.core.tariff.structure import Rate, flat_bill, rate_of_minutes, time_of_use
from warmeter.core.tariff.window import cheapest_start, starts_by_cost
from warmeter.core.timegrid import LocalClock
from warmeter.standins.machine import machine_log

DATA = Path(__file__).parents[1] / "data"


def plain_events(
    power: list[float], on_w: float, off_w: float, need_on: int, need_off: int
) -> list[tuple[int, int | None]]:
    """Find runs as the definition says, by looking back over whole windows."""
    found: list[tuple[int, int | None]] = []
    start, since = None, 0
    for k in range(len(power)):
        if start is None:
            window = power[max(since, k - need_on + 1) : k + 1]
            if len(window) == need_on and all(p >= on_w for p in window):
                start, since = k - need_on + 1, k + 1
        else:
            window = power[max(since, k - need_off + 1) : k + 1]
            if len(window) == need_off and all(p <= off_w for p in window):
                found.append((start, k - need_off + 1))
                start, since = None, k + 1
    return [*found, (start, None)] if start is not None else found


class Events(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=80)
    @given(st.lists(st.sampled_from([0.0, 3.0, 8.0, 15.0, 60.0]), max_size=60), st.integers(1, 4), st.integers(1, 4))
    def test_walk_equals_the_definition(self, power: list[float], need_on: int, need_off: int) -> None:
        setting = OnOffSetting(on_w=10.0, off_w=4.0, dwell_on_s=60.0 * need_on, dwell_off_s=60.0 * need_off)
        found = [(e.start, e.end) for e in on_off_events(np.array(power), 60.0, setting)]
        self.assertEqual(found, plain_events(power, 10.0, 4.0, need_on, need_off))

    def test_a_gap_breaks_a_waiting_time(self) -> None:
        setting = OnOffSetting(on_w=10.0, off_w=4.0, dwell_on_s=60, dwell_off_s=180)
        power = np.array([50.0, 50, 1, 1, np.nan, 1, 1, 1])
        self.assertEqual([e.end for e in on_off_events(power, 60.0, setting)], [5])

    def test_thresholds_the_wrong_way_round_are_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            OnOffSetting(on_w=3.0, off_w=5.0, dwell_on_s=60, dwell_off_s=60)

    @settings(deadline=None, derandomize=True, max_examples=50)
    @given(
        st.lists(st.integers(0, 200), max_size=5, unique=True), st.lists(st.integers(0, 200), max_size=5, unique=True)
    )
    def test_matching_is_one_to_one_and_within_tolerance(self, truth: list[int], told: list[int]) -> None:
        found = match_events(sorted(truth), sorted(told), 20)
        self.assertEqual(found.true_positives + found.false_negatives, len(truth))
        self.assertEqual(found.true_positives + found.false_positives, len(told))
        if found.mean_abs_error_s is not None:
            self.assertLessEqual(found.mean_abs_error_s, 20)


class Washing(unittest.TestCase):
    def test_runs_of_the_stand_in_are_found_and_the_setting_makes_no_error(self) -> None:
        for seed in range(4):
            with self.subTest(seed):
                power, truth = machine_log(np.random.default_rng(seed), 10, 20.0)
                found = activity(power, 20.0)
                ends = match_events([e * 20 for _, e in truth], [r.end * 20 for r in found.runs], 120)
                self.assertEqual((ends.false_positives, ends.false_negatives), (0, 0))
                proposal = propose(power, 20.0, found)
                self.assertEqual((proposal.verdict.missed, proposal.verdict.false), (0, 0))
                self.assertGreater(proposal.setting.threshold_w, found.standby.mode_w + 2)

    def test_the_proposal_holds_on_weeks_it_has_not_seen(self) -> None:
        power, _ = machine_log(np.random.default_rng(50), 14, 20.0)
        setting = propose(power, 20.0, activity(power, 20.0)).setting
        other, truth = machine_log(np.random.default_rng(51), 14, 20.0)
        verdict = judge(other, 20.0, activity(other, 20.0), setting)
        self.assertEqual((verdict.runs, verdict.missed, verdict.false), (len(truth), 0, 0))

    def test_a_rash_setting_is_told_what_it_would_get_wrong(self) -> None:
        power, truth = machine_log(np.random.default_rng(5), 10, 20.0)
        found = activity(power, 20.0)
        self.assertGreaterEqual(judge(power, 20.0, found, FinishSetting(threshold_w=10.0, wait_s=60)).false, len(truth))
        never = judge(power, 20.0, found, FinishSetting(threshold_w=1.0, wait_s=60))
        self.assertEqual((never.missed, never.late_s), (len(truth), None))

    def test_logs_that_cannot_teach_say_what_to_record(self) -> None:
        day = round(86_400 / 20)
        for power, why in (
            (np.full(60, 3.0), "h of power"),
            (np.full(day, 3.4), "never rises"),
            (np.zeros(day), "never rises"),
            (np.full(day, np.nan), "h of power"),
        ):
            with self.assertRaisesRegex(NotKnowable, why):
                activity(power, 20.0)
        one = np.full(2 * day, 3.0)
        one[1000:1200] = 500.0
        with self.assertRaisesRegex(NotKnowable, "two or more"):
            propose(one, 20.0, activity(one, 20.0))

    def test_rendered_machines_pasted_on_a_base_load_are_found(self) -> None:
        for name, places in (("dryer-1-mode2", (9000, 60_000)), ("kettle-1-mode0", (5000, 30_000, 70_000))):
            with self.subTest(name):
                with (DATA / f"{name}.csv").open(encoding="utf-8") as file:
                    watts = np.array([float(row["P_W"]) for row in csv.DictReader(file)])
                watts = watts[: watts.size // 10 * 10].reshape(-1, 10).mean(axis=1)
                power = np.full(100_000, 2.0)
                for at in places:
                    power[at : at + watts.size] += watts
                found = activity(power, 10.0)
                self.assertEqual(len(found.runs), len(places))
                self.assertTrue(all(abs(r.start - at) <= 6 for r, at in zip(found.runs, places, strict=True)))
                if name.startswith("dryer"):
                    energy = cycle_features(power[found.runs[0].start : found.runs[0].end], 10.0).energy_kwh
                    self.assertAlmostEqual(energy, float((watts + 2).sum()) * 10 / 3.6e6, delta=0.02)


class Standby(unittest.TestCase):
    def test_limits(self) -> None:
        self.assertEqual(standby_of(np.full(10, 1.4)).mode_w, 1.4)
        with self.assertRaises(NotKnowable):
            standby_of(np.array([]))
        with self.assertRaises(OutOfRange):
            standby_of(np.ones(3), quantile=1.5)

    def test_no_grid_no_threshold(self) -> None:
        with self.assertRaises(NotKnowable):
            tune_threshold(np.ones(3), np.ones(3, dtype=bool), [])


LONDON = LocalClock("Europe/London")


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
            usage = time_of_use(
                rates, day.start_ms, 60, [Decimal(1)] * 24, clock=LONDON, holidays=frozenset({date(2026, 1, 4)})
            )
            self.assertEqual(list(usage.kwh_by_rate), [expected])

    def test_standard_time_meters_ignore_summer(self) -> None:
        rates = [rate("night", "0.1", from_min=0, to_min=360), rate("day", "0.3")]
        day = LONDON.day(date(2026, 7, 1))
        hours = [Decimal(1)] * 24
        local = time_of_use(rates, day.start_ms, 60, hours, clock=LONDON).kwh_by_rate["night"]
        fixed = time_of_use(rates, day.start_ms, 60, hours, clock=LONDON, standard_time=True).kwh_by_rate["night"]
        self.assertEqual((local, fixed), (Decimal(6), Decimal(6)))
        first = rate_of_minutes(rates, np.array([day.start_ms]), clock=LONDON, holidays=frozenset(), standard_time=True)
        self.assertEqual(first.tolist(), [1], "00:00 summer time is still 23:00 by the meter's switch")

    @settings(deadline=None, derandomize=True, max_examples=25)
    @given(st.integers(0, 8759), st.lists(st.decimals(0, 5, places=3), min_size=1, max_size=30))
    def test_cost_is_additive_over_time(self, hour: int, energy: list[Decimal]) -> None:
        rates = [rate("a", "0.2", months=(1, 2, 3), from_min=1200, to_min=300), rate("b", "0.3")]
        start = LONDON.day(date(2026, 1, 1)).start_ms + hour * 3_600_000
        cut = len(energy) // 2
        whole = time_of_use(rates, start, 60, energy, clock=LONDON).energy_cost
        parts = sum(
            time_of_use(rates, start + k * 3_600_000, 60, part, clock=LONDON).energy_cost
            for k, part in ((0, energy[:cut]), (cut, energy[cut:]))
            if part
        )
        self.assertEqual(whole, parts)

    def test_money_is_exact_where_binary_fails(self) -> None:
        bill = flat_bill(
            energy_kwh=Decimal("250"),
            price_per_kwh=Decimal("0.1105"),
            standing_per_day=Decimal(0),
            days=1,
            vat=Decimal(0),
            rounding="half_up",
        )
        self.assertEqual(bill.energy, Decimal("27.63"))


class Windows(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=40)
    @given(
        st.lists(st.integers(-20, 60), min_size=6, max_size=12),
        st.lists(st.integers(0, 900), min_size=1, max_size=5),
        st.integers(0, 90),
    )
    def test_cheapest_start_is_that_of_trying_all(self, prices: list[int], profile: list[int], earliest: int) -> None:
        by_minute = np.repeat(np.array(prices) / 100, 30)
        kwh = np.array(profile) / 1000
        latest = by_minute.size
        starts = starts_by_cost(by_minute, kwh, 15, earliest_min=earliest, latest_end_min=latest)
        slow = {}
        for start in range(earliest, latest - 15 * len(profile) + 1, 15):
            slow[start] = sum(by_minute[start + m] * kwh[m // 15] / 15 for m in range(15 * len(profile)))
        best = min(slow, key=lambda s: (round(slow[s], 9), s))
        self.assertEqual(cheapest_start(starts).start_min, best)

    def test_a_window_too_short_is_refused(self) -> None:
        for earliest, latest in ((0, 20), (50, 60), (0, 999)):
            with self.assertRaises(OutOfRange):
                starts_by_cost(np.ones(100), np.ones(2), 15, earliest_min=earliest, latest_end_min=latest)

    def test_whole_hour_delays_only(self) -> None:
        starts = starts_by_cost(np.ones(600), np.ones(2), 15, earliest_min=30, latest_end_min=600, start_step_min=60)
        self.assertEqual({(s.start_min - 30) % 60 for s in starts}, {0})
