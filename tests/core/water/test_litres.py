"""Litres and seconds of bursts against hand calculation and integration; the next sensor against enumeration."""

import random
import unittest
from dataclasses import replace
from datetime import date
from itertools import combinations
from typing import Any

import numpy as np

from tests.drawn import drawn_home
from warmeter.core.building.checks import water_checks
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.explain.home_water import home_water
from warmeter.core.explain.water_figures import water_figure
from warmeter.core.home.devices import Device, SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.home.part import Spot
from warmeter.core.home.water import SelfTest, SensorReach, WaterPoint, WaterPractice
from warmeter.core.sensing.drift import drift_of
from warmeter.core.water.alarm_path import shut_trend
from warmeter.core.water.detection_ways import flow_false_alarms
from warmeter.core.water.next_sensor import LeakPoint, SensorPlace, next_sensors
from warmeter.core.water.point_failures import FAILURES


def watered(**more: Any) -> Home:
    """Return a home with a machine that bursts at 18 L/min, two leak sensors, a branch and a main valve."""
    devices = (
        *drawn_home().devices,
        Device(id="near", name="Kitchen sensor", kind="leak_sensor", room_id="den", power="battery"),
        Device(id="far", name="Tub sensor", kind="leak_sensor", room_id="study"),
        Device(id="branch", name="Branch", kind="water_valve", room_id="den"),
        Device(id="main", name="Main", kind="water_valve", room_id="den"),
    )
    tests = (
        SelfTest(on=date(2026, 1, 1), told_s=2.0, shut_s=9.0),
        SelfTest(on=date(2025, 12, 1), told_s=60.0, shut_s=60.0),
    )
    values: dict[str, Any] = {
        "devices": devices,
        "safety_chains": (
            SafetyChain(
                id="path", name="Water path", kind="leak", device_ids=("near", "far", "branch", "main"), tests=tests
            ),
        ),
        "water_points": (
            WaterPoint(
                id="hose",
                name="Hose",
                kind="washing_machine",
                room_id="den",
                flow_l_min=18.0,
                valve_ids=("branch", "main"),
                reaches=(SensorReach(device_id="far", wet_s=640.0), SensorReach(device_id="near", wet_s=20.0)),
            ),
        ),
        "water_practice": WaterPractice(home_min=5.0, away_min=45.0, seen_h=12.0, still_flowing_s=45.0),
    }
    return drawn_home(**(values | more))


class SixFailures(unittest.TestCase):
    """0.3 L/s; wet after 20 s, told 2 s later, shut within 9 s by the last test; the mean flow of closing is a half."""

    def test_litres_and_seconds_by_hand(self) -> None:
        by_hand = {
            "valve_near": (22.0, 31.0, 0.3 * (22 + 4.5)),
            "valve_main": (22.0, 22.0 + 9 + 45 + 9, 0.3 * (76 + 4.5)),
            "alarm_home": (22.0, 22.0 + 300 + 10, 0.3 * (322 + 5)),
            "alarm_away": (22.0, 22.0 + 2700 + 10, 0.3 * (2722 + 5)),
            "battery_dead": (642.0, 651.0, 0.3 * (642 + 4.5)),
            "no_internet": (22.0, 31.0, 0.3 * (22 + 4.5)),
        }
        found = home_water(watered()).points["hose"].failures
        self.assertEqual(tuple(each.case for each in found), FAILURES)
        for each in found:
            told, shut, litres = by_hand[each.case]
            self.assertEqual((each.told_s, each.shut_at_s), (told, shut), each.case)
            self.assertAlmostEqual(each.litres, litres, msg=each.case)
            self.assertAlmostEqual(each.low_l, litres * 2 / 3)
            self.assertAlmostEqual(each.high_l, litres * 4 / 3)

    def test_integration_gives_the_same(self) -> None:
        for each in home_water(watered()).points["hose"].failures:
            t = np.linspace(0.0, each.shut_at_s, 200_001)
            open_share = np.clip((each.shut_at_s - t) / each.close_s, 0.0, 1.0)
            self.assertAlmostEqual(float(np.trapezoid(0.3 * open_share, t)), each.litres, places=3)

    def test_what_is_not_there_is_left_to_people(self) -> None:
        home = watered()
        bare = replace(home, water_points=(replace(home.water_points[0], reaches=()),))
        for each in home_water(bare).points["hose"].failures:
            self.assertEqual((each.told_s, each.begin_s, each.shut_by), (None, 12 * 3600.0, ""))
        alone = replace(home, water_points=(replace(home.water_points[0], reaches=(SensorReach(device_id="near"),)),))
        found = dict(zip(FAILURES, home_water(alone).points["hose"].failures, strict=True))
        self.assertIsNone(found["battery_dead"].told_s, "no other sensor gets wet")
        self.assertIn("until it is wet", found["valve_near"].assumed)
        sump = replace(home.water_points[0], kind="sump")
        found = dict(
            zip(FAILURES, home_water(replace(home, water_points=(sump,))).points["hose"].failures, strict=True)
        )
        self.assertEqual(found["valve_near"].begin_s, 22.0 + 300, "no valve stops ground water")

    def test_without_internet_only_what_works_without_it(self) -> None:
        home = watered()
        for away, begin in (("main", 22.0 + 300.0), ("near", 642.0 + 300.0)):
            devices = tuple(replace(d, works_without_internet=d.id != away) for d in home.devices)
            found = home_water(replace(home, devices=devices)).points["hose"].failures
            self.assertEqual(found[FAILURES.index("no_internet")].begin_s, begin, away)

    def test_a_path_that_leaves_the_valve_out_is_a_finding(self) -> None:
        home = watered()
        cut = replace(home, safety_chains=(replace(home.safety_chains[0], device_ids=("near", "far")),))
        self.assertIn("sensor tells no valve", {f.kind for f in findings_of(cut)})
        self.assertEqual([f.kind for f in findings_of(home) if f.kind in water_checks.RULES], [])

    def test_ways_of_noticing_by_hand(self) -> None:
        burst_point, burst_flow, burst_night, drip_point, drip_flow, drip_night = (
            home_water(watered()).points["hose"].ways
        )
        self.assertEqual(burst_point.noticed_s, 22.0)
        self.assertEqual(burst_flow.noticed_s, 20 * 60 + 15)
        self.assertEqual(burst_night.noticed_s, 12 * 3600 + 15)
        self.assertAlmostEqual(burst_flow.litres or 0.0, 0.3 * (1215 + 7.5))
        self.assertAlmostEqual(drip_point.noticed_s or 0.0, 20 * 18 / 0.1 + 2)
        self.assertIsNone(drip_flow.noticed_s, "a drip is below what the flow sensor sees")
        self.assertEqual(drip_night.noticed_s, 12 * 3600 + 15)

    def test_workings_say_the_same(self) -> None:
        figure = water_figure(watered(), "case.valve_near.hose")
        self.assertAlmostEqual(figure.value or 0.0, 7.95)
        self.assertIn("18 / 60 · (22 + 9 / 2)", figure.substituted)
        for key in ("case.valve_near.none", "place.hose", "else"):
            with self.assertRaises(HomeError):
                water_figure(watered(), key)


class FalseAlarmsOfUse(unittest.TestCase):
    def test_counted_on_a_log_of_two_days(self) -> None:
        flow = np.zeros(2 * 1440)
        flow[400:412], flow[1000:1025], flow[2000:2040] = 8.0, 8.0, 5.0
        flow[2020] = np.nan
        found = flow_false_alarms(flow, 60.0, least_l_min=1.0, after_min=20.0)
        assert found is not None
        self.assertEqual(found.count, 2, "25 min and 20 min; the gap ends a run")
        self.assertEqual(found.longest_min, 25.0)
        self.assertAlmostEqual(found.per_year, 2 * 365 / found.days)
        self.assertIsNone(flow_false_alarms(np.full(5, np.nan), 60.0, least_l_min=1.0, after_min=20.0))


class Trends(unittest.TestCase):
    def path(self, *shut: float) -> SafetyChain:
        tests = tuple(SelfTest(on=date(2026, 1 + k, 1), told_s=2.0, shut_s=s) for k, s in enumerate(shut))
        return SafetyChain(id="p", name="Path", kind="leak", device_ids=("x",), tests=tests)

    def test_a_valve_that_grows_slow_by_half_a_second_a_month(self) -> None:
        trend = shut_trend(self.path(6.0, 6.5, 7.0, 7.5, 8.0, 8.5), 12.0)
        assert trend is not None and trend.reaches is not None
        self.assertAlmostEqual(trend.growth_30_days_s, 0.5, delta=0.02)
        self.assertTrue(date(2026, 12, 15) < trend.reaches < date(2027, 2, 1), trend.reaches)

    def test_scatter_and_two_tests_promise_nothing(self) -> None:
        trend = shut_trend(self.path(8.0, 7.6, 8.3, 7.8, 8.1, 7.9), 12.0)
        assert trend is not None
        self.assertFalse(trend.is_clear)
        self.assertIsNone(shut_trend(self.path(8.0, 9.0), 12.0))
        with self.assertRaises(NotKnowable):
            drift_of([1.0, 1.0, 1.0], [1.0, 2.0, 3.0])

    def test_findings_of_tests(self) -> None:
        def kinds(*tests: SelfTest) -> list[str]:
            home = watered()
            chain = replace(home.safety_chains[0], tests=tests)
            found = findings_of(replace(home, safety_chains=(chain,)))
            return sorted(f.kind for f in found if f.kind in water_checks.RULES)

        months = [SelfTest(on=date(2026, 1 + k, 1), told_s=2.0, shut_s=20.0 + k) for k in range(6)]
        self.assertEqual(kinds(*months), ["valve grows slow"])
        self.assertEqual(kinds(SelfTest(on=date(2026, 1, 1), told_s=2.0)), ["last self-test failed"])
        self.assertEqual(kinds(SelfTest(on=date(2026, 1, 1), told_s=2.0, shut_s=31.0)), ["valve grows slow"])
        self.assertEqual(kinds(), [])

    def test_what_must_run_is_not_cut(self) -> None:
        home = watered()
        for kind in ("sprinkler", "boiler_filling"):
            point = replace(home.water_points[0], kind=kind)
            found = [f for f in findings_of(replace(home, water_points=(point,))) if f.kind in water_checks.RULES]
            self.assertEqual([(f.kind, f.severity) for f in found], [("shut-off cuts what must run", "danger")])


class NextSensor(unittest.TestCase):
    def test_against_enumeration_on_random_homes(self) -> None:
        rng = random.Random(1851)
        for _ in range(60):
            points = [
                LeakPoint(
                    id=f"p{k}", leaks_year=rng.uniform(0, 0.05), litres_without=rng.uniform(0, 900), litres_with=30
                )
                for k in range(6)
            ]
            worth = {p.id: p.leaks_year * max(0.0, p.litres_without - p.litres_with) for p in points}
            places = [
                SensorPlace(id=f"s{k}", covers=tuple(rng.sample(sorted(worth), rng.randint(1, 3)))) for k in range(5)
            ]
            covers = {p.id: set(p.covers) for p in places}
            have = ["s0"] if rng.random() < 0.5 else []
            known = set().union(*(covers[key] for key in have))

            def saved(ids: tuple[str, ...], known: set[str] = known, worth: dict[str, float] = worth) -> float:
                reached = set().union(*(covers[key] for key in ids)) - known  # noqa: B023
                return sum(worth[key] for key in reached)

            found = next_sensors(points, places, have, 4)
            offered = [p.id for p in places if p.id not in have]
            best = max(saved(pair) for pair in combinations(offered, 2))
            assert found.best_pair is not None and found.greedy_pair_short_l is not None
            self.assertAlmostEqual(found.best_pair.saved_l, best)
            self.assertGreaterEqual(found.greedy_pair_short_l, -1e-9)
            total = saved(tuple(each.id for each in found.greedy[:2]))
            self.assertGreaterEqual(total, (1 - 1 / np.e) * best - 1e-9)
            for each in offered:
                self.assertAlmostEqual(found.alone_l[each], saved((each,)))

    def test_beside_each_point_that_nothing_covers(self) -> None:
        home = watered()
        hose = replace(home.water_points[0], at=Spot(x_m=0.5, y_m=0.5))
        bare = [
            WaterPoint(id=key, name=key, kind="toilet", room_id="den", at=Spot(x_m=x, y_m=2.5), leaks_year=0.02)
            for key, x in (("a", 0.5), ("b", 1.5), ("c", 3.8))
        ]
        offer = home_water(replace(home, water_points=(hose, *bare))).offer
        self.assertEqual({each.point.id for each in offer.places}, {"a", "c"}, "one beside a covers b too, 1 m away")
        first = offer.places[0]
        self.assertEqual(set(first.covers), {"a", "b"})
        # 8 L/min: 12 h until it is seen, against 20 s + 15 s + 5 min by a person, both closed by hand in 10 s.
        without, with_it = 8 / 60 * (43_200 + 5), 8 / 60 * (335 + 5)
        self.assertAlmostEqual(first.saved_next_l, 2 * 0.02 * (without - with_it))
