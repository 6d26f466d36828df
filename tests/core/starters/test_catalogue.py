"""Rules to start from: each with a log that fires it and one that must not."""

import unittest
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from tests.rules_at_work import MIN, NOON, H, track
from warmeter.core.edits.rule_edits import with_new_rule
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.machines import ToldSetting
from warmeter.core.home.rules import Rule, ShutOff, Switch, Tell
from warmeter.core.rule.actions import action_runs_of
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.reference.interpreter import interpret
from warmeter.core.rule.run import RuleRun, rule_run_of
from warmeter.core.starters.catalogue import STARTERS, started
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.scope import Marks, Scope
from warmeter.core.truth.track import Track
from warmeter.service.homes.demo import DEMO_HOMES, demo_home

WEIR, TERRACE, SAIL = demo_home("weir-cottage"), demo_home("terrace-nine"), demo_home("sail-loft")
# A leak sensor under an indoor unit, not at a tap.
UNIT_LEAK = replace(
    TERRACE, devices=tuple(replace(d, room_id="tn-living") if d.id == "tn-leak" else d for d in TERRACE.devices)
)
Tracks = Mapping[Signal, Track]


def of(quantity: str, subject: str | None = None) -> Signal:
    return Signal(quantity=quantity, subject_id=subject)


def steady(value: float, hours: float = 24) -> Track:
    """Return a quantity told every ten minutes, always the same."""
    return track(*((k * 600, value) for k in range(int(6 * hours) + 1)))


def then(*pieces: tuple[float, float], hours: float = 24) -> Track:
    """Return a quantity told every minute, from each second after noon on at a value."""
    at = np.arange(0, hours * H, 60)
    values = np.array([value for _, value in pieces])
    place = np.searchsorted([since for since, _ in pieces], at, side="right") - 1
    return Track(NOON + (at * 1000).astype(np.int64), values[np.maximum(place, 0)])


def sloping(start: float, end: float, seconds: float) -> Track:
    """Return a fall or rise from half past noon on, told every minute."""
    at = np.arange(0, 4 * H, 60)
    return Track(NOON + (at * 1000).astype(np.int64), np.interp(at, [1800, 1800 + seconds], [start, end]))


class Starting(unittest.TestCase):
    """A starter filled and run on tracks."""

    def live(
        self, home: Home, key: str, strategy: str, place: str, tracks: Tracks, **parts: Any
    ) -> tuple[Rule, RuleRun]:
        """Return the filled rule and its life from noon on, the same by both evaluators."""
        _, rule = started(home, key, strategy, place)
        hours = parts.pop("hours", 4)
        settings: dict[tuple[str, str], ToldSetting] = {(m.id, s.tells): s for m in home.appliances for s in m.settings}
        scope = Scope(
            start_ms=NOON,
            end_ms=NOON + hours * H * 1000,
            clock=LocalClock("UTC"),
            latitude_deg=51.0,
            tracks=tracks,
            settings=settings,
            **parts,
        )
        rule_run = rule_run_of(rule, ConditionEvaluator(scope))
        self.assertEqual(rule_run, interpret(rule, scope))
        return rule, rule_run

    def fired(self, *case: Any, **parts: Any) -> list[float]:
        _, rule_run = self.live(*case, **parts)
        return [(f.at_ms - NOON) / 1000 for f in rule_run.firings]


class Starters(Starting):
    def test_leak_in_every_strategy(self) -> None:
        wet, dry = then((0, 0), (600, 1), (1200, 0)), steady(0)
        for home, strategy, place in (
            (WEIR, "tell", "wc-leak"),
            (WEIR, "valve", "wc-leak"),
            (UNIT_LEAK, "cooling", "tn-leak"),
        ):
            signal = of("is_wet", place)
            with self.subTest(strategy):
                self.assertEqual(self.fired(home, "leak", strategy, place, {signal: wet}), [610])
                self.assertEqual(self.fired(home, "leak", strategy, place, {signal: dry}), [])
        rule, rule_run = self.live(WEIR, "leak", "valve", "wc-leak", {of("is_wet", "wc-leak"): wet})
        shut = next(d for d in action_runs_of(rule, rule_run) if isinstance(d.step, ShutOff))
        # What was shut stays shut, also when it is dry again.
        self.assertIsNone(shut.until_ms)
        self.assertEqual((shut.from_ms - NOON) / 1000, 610)
        with self.assertRaises(HomeError):
            started(TERRACE, "leak", "cooling", "tn-leak")

    def test_a_splash_on_the_pad_is_no_leak(self) -> None:
        splash = track((0, 0), (600, 1), (606, 0), (4000, 0))
        self.assertEqual(self.fired(WEIR, "leak", "valve", "wc-leak", {of("is_wet", "wc-leak"): splash}), [])

    def test_the_valve_that_is_shut_is_the_one_on_the_waters_way_and_asked_for_where_nothing_says(self) -> None:
        valve = next(d for d in WEIR.devices if d.kind == "water_valve")
        garden = replace(valve, id="wc-garden", name="Garden valve")
        two = replace(WEIR, devices=(garden, *WEIR.devices))
        _, rule = started(two, "leak", "valve", "wc-leak")
        self.assertEqual([s.target_ids for s in rule.then if isinstance(s, ShutOff)], [(valve.id,)])
        chain = next(c for c in two.safety_chains if c.kind == "leak")
        both = replace(chain, device_ids=(*chain.device_ids, garden.id))
        with_both = replace(two, safety_chains=tuple(both if c is chain else c for c in two.safety_chains))
        _, rule = started(with_both, "leak", "valve", "wc-leak")
        shut = {key for s in rule.then if isinstance(s, ShutOff) for key in s.target_ids}
        self.assertEqual(shut, {valve.id, garden.id})
        unclear = replace(two, safety_chains=tuple(c for c in two.safety_chains if c.kind != "leak"))
        with self.assertRaisesRegex(HomeError, "Garden valve or .*alarm path"):
            started(unclear, "leak", "valve", "wc-leak")

    def test_a_breath_of_cold_air_at_a_pipe_is_no_frost(self) -> None:
        signal = of("room_temperature", "wc-frost")
        for strategy in ("tell", "heat"):
            gust = then((0, 8.0), (1800, 1.0), (2040, 8.0))
            self.assertEqual(self.fired(WEIR, "frost", strategy, "wc-frost", {signal: gust}), [], strategy)

    def test_heat_at_the_pipe_goes_on_until_it_is_warm_for_half_an_hour(self) -> None:
        signal = of("room_temperature", "wc-frost")
        log = then((0, 8.0), (1800, 2.5), (3600, 6.0), (4200, 2.5), (7200, 6.0), hours=6)
        _, rule_run = self.live(WEIR, "frost", "heat", "wc-frost", {signal: log}, hours=6)
        ends = [(f.at_ms - NOON, (f.end_ms or 0) - NOON) for f in rule_run.firings]
        self.assertEqual(ends, [(2100 * 1000, 9000 * 1000)])

    def test_pipe_frost_tells_early_and_heats_before_it_freezes(self) -> None:
        signal = of("room_temperature", "wc-frost")
        for strategy, cold, cool in (("tell", 4.0, 5.5), ("heat", 2.5, 4.0)):
            with self.subTest(strategy):
                log = then((0, 8.0), (1800, cold))
                self.assertEqual(self.fired(WEIR, "frost", strategy, "wc-frost", {signal: log}), [1800 + 300])
                self.assertEqual(
                    self.fired(WEIR, "frost", strategy, "wc-frost", {signal: then((0, 8.0), (1800, cool))}), []
                )

    def test_opening_by_contact(self) -> None:
        signal = of("is_open", "wc-c-kitchen")
        for minutes, fires in ((10, [600 + 180]), (2, [])):
            log = then((0, 0), (600, 1), (600 + 60 * minutes, 0))
            self.assertEqual(self.fired(WEIR, "opening", "usual", "wc-c-kitchen", {signal: log}), fires)

    def test_opening_by_the_fall_of_temperature(self) -> None:
        signal = of("room_temperature", "wc-kitchen")
        self.assertEqual(len(self.fired(WEIR, "drop", "usual", "wc-kitchen", {signal: sloping(20, 18.2, 600)})), 1)
        self.assertEqual(self.fired(WEIR, "drop", "usual", "wc-kitchen", {signal: sloping(20, 18.2, 3600)}), [])

    def test_damp_air_by_threshold(self) -> None:
        signal = of("relative_humidity", "wc-tub")
        self.assertEqual(self.fired(WEIR, "damp", "threshold", "wc-tub", {signal: then((0, 50), (600, 72))})[:1], [900])
        self.assertEqual(self.fired(WEIR, "damp", "threshold", "wc-tub", {signal: then((0, 50), (600, 64))}), [])

    def test_a_dryer_is_not_started_by_a_kettle_and_stops_when_it_is_dry(self) -> None:
        signal = of("relative_humidity", "wc-tub")
        puff = then((0, 50), (600, 75), (840, 50))
        self.assertEqual(self.fired(WEIR, "damp", "threshold", "wc-tub", {signal: puff}), [])
        bath = then((0, 50), (600, 72), (4200, 62), (6000, 55), hours=8)
        _, rule_run = self.live(WEIR, "damp", "threshold", "wc-tub", {signal: bath}, hours=8)
        self.assertEqual(
            [((f.at_ms - NOON) / 1000, ((f.end_ms or 0) - NOON) / 1000) for f in rule_run.firings], [(900, 6300)]
        )
        stuck = {signal: then((0, 50), (600, 72), hours=8)}
        _, rule_run = self.live(WEIR, "damp", "threshold", "wc-tub", stuck, hours=8)
        # Where nothing dries it, it ends all the same: the room is damper outside, or the sensor is wrong.
        self.assertEqual(((rule_run.firings[0].end_ms or 0) - NOON) / 1000, 900 + 2 * 3600)

    def test_damp_air_by_difference_rests_where_airing_does_not_dry(self) -> None:
        inside, outside = of("absolute_humidity", "wc-tub"), of("absolute_humidity")
        damp = then((0, 7.0), (600, 11.0))
        self.assertEqual(
            self.fired(WEIR, "damp", "difference", "wc-tub", {inside: damp, outside: steady(5.0)})[:1], [900]
        )
        self.assertEqual(self.fired(WEIR, "damp", "difference", "wc-tub", {inside: damp, outside: steady(10.0)}), [])

    def test_a_split_unit_cools_only_where_somebody_is(self) -> None:
        warm = {of("room_temperature", "tn-bedroom"): then((0, 24), (600, 28))}
        for somebody, fires in ((1.0, [600 + 600]), (0.0, [])):
            log = {**warm, of("is_in", "tn-bedroom"): steady(somebody)}
            self.assertEqual(self.fired(TERRACE, "split", "usual", "tn-split-bedroom", log), fires)

    def test_a_split_unit_stops_when_the_room_is_left_and_when_a_window_opens(self) -> None:
        """Nine hours of heat, somebody in for the first of them: nothing cools an empty room."""
        warm = {of("room_temperature", "tn-bedroom"): then((0, 24), (600, 28), hours=10)}
        log = {**warm, of("is_in", "tn-bedroom"): then((0, 1), (3600, 0), hours=10)}
        _, rule_run = self.live(TERRACE, "split", "usual", "tn-split-bedroom", log, hours=10)
        ends = [
            ((f.at_ms - NOON) / 1000, None if f.end_ms is None else (f.end_ms - NOON) / 1000) for f in rule_run.firings
        ]
        self.assertEqual(ends, [(1200.0, 3600.0)])

    def test_a_split_unit_cools_on_for_somebody_whose_sensor_tells_changes_only(self) -> None:
        warm = {of("room_temperature", "tn-bedroom"): then((0, 24), (600, 28), hours=10)}
        is_in = of("is_in", "tn-bedroom")
        log = {**warm, is_in: track((0, 1), (8 * H, 0))}
        _, rule_run = self.live(
            TERRACE, "split", "usual", "tn-split-bedroom", log, hours=10, holds_s={is_in: 12 * 3600}
        )
        ends = [((f.at_ms - NOON) / 1000, ((f.end_ms or 0) - NOON) / 1000) for f in rule_run.firings]
        self.assertEqual(ends, [(1200.0, 8.0 * H)])
        # Hot two hours after somebody came in: without that hold nobody would be known to be there.
        later = {**log, of("room_temperature", "tn-bedroom"): then((0, 24), (2 * H, 28), hours=10)}
        asked = TERRACE, "split", "usual", "tn-split-bedroom", later
        self.assertEqual(self.fired(*asked, hours=10, holds_s={is_in: 12 * 3600}), [2 * H + 600])
        self.assertEqual(self.fired(*asked, hours=10), [])

    def test_a_window_lock_turns_off_what_cools(self) -> None:
        contact = replace(
            next(d for d in WEIR.devices if d.kind == "contact"),
            id="tn-c-bedroom",
            name="Bedroom window",
            room_id="tn-bedroom",
        )
        home = replace(TERRACE, devices=(*TERRACE.devices, contact))
        _, rule = started(home, "opening", "usual", "tn-c-bedroom")
        switched = [step for step in rule.then if isinstance(step, Switch)]
        self.assertEqual([(s.target_ids, s.is_on) for s in switched], [(("tn-split-bedroom",), False)])

    def test_blinds_go_down_by_heat_in_two_steps_and_never_at_night(self) -> None:
        hot = {of("room_temperature", "tn-living"): then((0, 24), (600, 26))}
        rule, rule_run = self.live(TERRACE, "blinds", "usual", "tn-living", hot)
        deeds = action_runs_of(rule, rule_run)
        self.assertEqual([(d.from_ms - NOON) / 1000 for d in deeds], [1500, 2400])
        late = {of("room_temperature", "tn-living"): then((0, 24), (9.5 * H, 26))}
        self.assertEqual(self.fired(TERRACE, "blinds", "usual", "tn-living", late, hours=12), [])

    def test_blinds_by_sun_go_down_only_from_where_they_are_known_to_be_and_never_up(self) -> None:
        """In winter at 51° north the sun comes before a west wall at about a quarter past one, and sets at four."""
        warm = {of("room_temperature", "tn-living"): steady(24.0)}
        blinds = [of("blind_position", f"tn-blind-living-{k}") for k in (1, 2)]
        asked = TERRACE, "blinds", "sun", "tn-living"
        up = {signal: steady(0.0) for signal in blinds}
        fired = self.fired(*asked, {**warm, **up}, hours=8)
        self.assertEqual(len(fired), 1)
        self.assertTrue(1.0 * H < fired[0] < 2.0 * H, fired)
        # One of them is down as far already; where one is, is not known; it is cool; it is night.
        self.assertEqual(self.fired(*asked, {**warm, **up, blinds[0]: steady(100.0)}, hours=8), [])
        self.assertEqual(self.fired(*asked, {**warm, blinds[0]: steady(0.0)}, hours=8), [])
        self.assertEqual(self.fired(*asked, {of("room_temperature", "tn-living"): steady(22.0), **up}, hours=8), [])
        evening = {of("room_temperature", "tn-living"): then((0, 22.0), (4.5 * H, 24.0)), **up}
        self.assertEqual(self.fired(*asked, evening, hours=8), [])

    def test_blinds_by_sun_ask_for_their_window(self) -> None:
        nowhere = replace(TERRACE, openings=tuple(replace(o, blind_motor_id=None) for o in TERRACE.openings))
        with self.assertRaisesRegex(HomeError, "which window .* under Sun"):
            started(nowhere, "blinds", "sun", "tn-living")

    def test_an_empty_room_goes_idle_but_not_with_guests(self) -> None:
        empty = {of("is_in", "wc-parlour"): then((0, 1), (600, 0))}
        self.assertEqual(self.fired(WEIR, "idle", "usual", "wc-z-parlour", empty), [600 + 1500])
        guests = {"guests are here": Marks(np.array([NOON - 1000]), np.array([True]))}
        self.assertEqual(self.fired(WEIR, "idle", "usual", "wc-z-parlour", empty, marks=guests), [])

    def test_an_empty_room_stays_idle_all_day_and_warms_for_who_comes_back(self) -> None:
        is_in = of("is_in", "wc-parlour")
        log = {is_in: track((0, 1), (600, 0), (7 * H, 1))}
        _, rule_run = self.live(WEIR, "idle", "usual", "wc-z-parlour", log, hours=8, holds_s={is_in: 12 * 3600})
        ends = [((f.at_ms - NOON) / 1000, ((f.end_ms or 0) - NOON) / 1000) for f in rule_run.firings]
        self.assertEqual(ends, [(2100, 7 * H + 120)])
        passing = {is_in: then((0, 1), (600, 0), (1500, 1), (1560, 0), (2700, 1))}
        self.assertEqual(self.fired(WEIR, "idle", "usual", "wc-z-parlour", passing), [])

    def test_a_zone_of_two_rooms_is_empty_when_both_are(self) -> None:
        one = {of("is_in", "rm-laundry"): then((0, 1), (600, 0)), of("is_in", "rm-hall"): steady(1)}
        self.assertEqual(self.fired(SAIL, "idle", "usual", "zo-side", one), [])
        both = {**one, of("is_in", "rm-hall"): then((0, 1), (1200, 0))}
        self.assertEqual(self.fired(SAIL, "idle", "usual", "zo-side", both), [1200 + 1500])

    def test_a_machine_has_finished_after_its_wait_not_in_its_pause(self) -> None:
        signal = of("electric_w", "wc-washer")
        ran = then((0, 1), (600, 400), (3600, 1))
        self.assertEqual(self.fired(WEIR, "finished", "usual", "wc-washer", {signal: ran}), [3600 + 480])
        pausing = then((0, 1), (600, 400), (3600, 1), (3900, 400))
        self.assertEqual(self.fired(WEIR, "finished", "usual", "wc-washer", {signal: pausing}), [])
        with self.assertRaises(HomeError):
            started(WEIR, "finished", "usual", "wc-tub-heat")

    def test_asked_at_bedtime_only_where_it_has_not_run(self) -> None:
        signal = of("electric_w", "wc-washer")
        bedtime = 9.5 * H
        self.assertEqual(self.fired(WEIR, "bedtime", "usual", "wc-washer", {signal: steady(1)}, hours=12), [bedtime])
        unset = replace(
            WEIR,
            appliances=tuple(
                replace(m, settings=tuple(s for s in m.settings if s.tells != "started")) for m in WEIR.appliances
            ),
        )
        with self.assertRaisesRegex(HomeError, "“started”"):
            started(unset, "bedtime", "usual", "wc-washer")
        ran = then((0, 1), (3 * H, 400), (4 * H, 1))
        self.assertEqual(self.fired(WEIR, "bedtime", "usual", "wc-washer", {signal: ran}, hours=12), [])

    def test_standby_is_cut_or_told_at_night_not_by_day(self) -> None:
        signal = of("electric_w", "wc-washer")
        for strategy in ("cut", "leave"):
            fired = self.fired(WEIR, "standby", strategy, "wc-washer", {signal: steady(1)}, hours=13)
            self.assertEqual(fired, [11 * H], strategy)
            self.assertEqual(self.fired(WEIR, "standby", strategy, "wc-washer", {signal: steady(1)}, hours=8), [])
            busy = {signal: then((0, 1), (10.8 * H, 400))}
            self.assertEqual(self.fired(WEIR, "standby", strategy, "wc-washer", busy, hours=13), [])

    def test_what_was_cut_at_night_has_power_again_at_six(self) -> None:
        _, rule_run = self.live(
            WEIR, "standby", "cut", "wc-washer", {of("electric_w", "wc-washer"): steady(1, hours=30)}, hours=20
        )
        self.assertEqual(
            [((f.at_ms - NOON) / H / 1000, ((f.end_ms or 0) - NOON) / H / 1000) for f in rule_run.firings], [(11, 18)]
        )

    def test_two_presses_of_a_fill_are_one_and_a_held_button_floods_nothing(self) -> None:
        at = NOON + 1000 * np.array([600, 605, 900, 2000, 6000, 10_000, 14_000])
        rule, rule_run = self.live(
            WEIR, "fill", "usual", "wc-pump-switch", {}, events={("button", "", "wc-wall-switch"): at}
        )
        runs = [
            ((d.from_ms - NOON) / 1000, ((d.until_ms or 0) - d.from_ms) / 1000) for d in action_runs_of(rule, rule_run)
        ]
        self.assertEqual(runs, [(600, 900), (6000, 900), (10_000, 900)])

    def test_a_fill_stops_by_itself(self) -> None:
        pressed = {("button", "", "wc-wall-switch"): np.array([NOON + 600_000])}
        rule, rule_run = self.live(WEIR, "fill", "usual", "wc-pump-switch", {}, events=pressed)
        deed = action_runs_of(rule, rule_run)[0]
        self.assertEqual(((deed.from_ms - NOON) / 1000, (deed.until_ms or 0) - deed.from_ms), (600, 15 * MIN * 1000))
        self.assertEqual(self.fired(WEIR, "fill", "usual", "wc-pump-switch", {}), [])

    def test_every_strategy_of_every_starter_is_tried_above_and_has_no_finding(self) -> None:
        tried = 0
        for name in DEMO_HOMES:
            home = demo_home(name)
            for starter in STARTERS:
                for place, _ in starter.places(home):
                    for strategy in starter.strategies:
                        try:
                            with_chain, rule = started(replace(home, rules=()), starter.key, strategy.key, place)
                        except HomeError as error:
                            self.assertTrue(str(error))
                            continue
                        added, _ = with_new_rule(with_chain, rule)
                        self.assertEqual(rule_findings(added), [], (name, starter.key, strategy.key, place))
                        tried += 1
        self.assertGreater(tried, 50)
        self.assertEqual(len(STARTERS), 23)

    def test_what_hurts_has_its_caution(self) -> None:
        for starter in STARTERS:
            hurts = starter.key not in ("opening", "drop", "finished", "bedtime")
            self.assertEqual(bool(starter.caution), hurts, starter.key)
        leak = next(s for s in STARTERS if s.key == "leak")
        self.assertIn("certified", leak.caution)
        self.assertIn("sprinkler", leak.caution)
        split = next(s for s in STARTERS if s.key == "split")
        self.assertIn("infant", split.caution)
        self.assertIn("compressor", split.caution)

    def test_a_starter_that_the_home_cannot_have_says_what_to_enter(self) -> None:
        bare = replace(WEIR, devices=(), rules=(), safety_chains=(), zones=())
        with self.assertRaises(HomeError) as caught:
            started(bare, "leak", "tell", "x")
        self.assertIn("leak sensor", str(caught.exception))
        with self.assertRaises(HomeError):
            started(WEIR, "nothing", "usual", "x")
        with self.assertRaises(HomeError):
            started(WEIR, "leak", "tell", "elsewhere")

    def test_the_first_chain_is_made_once(self) -> None:
        bare = replace(WEIR, notification_groups=(), rules=())
        home, rule = started(bare, "leak", "tell", "wc-leak")
        self.assertEqual(len(home.notification_groups), 1)
        self.assertEqual([s.group_id for s in rule.then if isinstance(s, Tell)], [home.notification_groups[0].id])
