"""Claims, blocks, a day's prediction, setback, forecast, and the home's document."""

import json
import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from typing import Any

import jsonschema
import numpy as np

from tests.homes import small_home, with_day
from tests.places import ROOT
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.building.losses import prior_of, surveyed_room
from warmeter.core.claims.arbiter import Claim, Decision, Guard, by_minute, decisions, limits_at
from warmeter.core.errors import HomeError, NotKnowable, OutOfRange
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Source
from warmeter.core.home.presets import BUILT
from warmeter.core.home.rules import Tell
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.home.zones import GuardLimits
from warmeter.core.thermal.room_fit import even_normals, survey_draws
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_of, setpoint_decisions, timetable_claims
from warmeter.core.timetable.points import merge_block, move_edge, split_at
from warmeter.core.warmup.prediction import (
    HeatingStretch,
    RoomModel,
    day_with_leads,
    held_setpoint_c,
    predict_day,
    settled_heat_w,
)
from warmeter.core.warmup.setback import SetbackCase, setback_energy
from warmeter.core.weather.forecast import day_to_day_spread_k, like_yesterday, typed_day
from warmeter.store.codec import home_adapter, home_from_json, home_to_json

LONDON = LocalClock("Europe/London")
HOUR = 3_600_000


def claim(value: float, begin: int, end: int, kind: str = "timetable") -> Claim:
    """Return a claim over hours."""
    return Claim(kind=kind, value=value, from_ms=begin * HOUR, until_ms=end * HOUR, reason=kind)


class Arbiter(unittest.TestCase):
    base = claim(15.0, 0, 24, "base")

    def at(self, claims: list[Claim], guards: list[Guard], at_ms: int) -> Decision:
        """Return what is decided at an instant."""
        return decisions(claims, self.base, guards, at_ms, at_ms + 1)[0]

    def test_latest_from_wins_then_the_later_laid(self) -> None:
        claims = [claim(20.0, 6, 22), claim(18.0, 8, 10), claim(19.0, 8, 10)]
        self.assertEqual([self.at(claims, [], h * HOUR).value for h in (5, 7, 9, 10, 22)], [15, 20, 19, 20, 15])

    def test_a_claim_that_ends_gives_way_to_the_next_not_to_an_old_number(self) -> None:
        found = decisions([claim(20.0, 6, 22), claim(17.0, 9, 12)], self.base, [], 0, 24 * HOUR)
        self.assertEqual([(d.at_ms // HOUR, d.value) for d in found], [(0, 15), (6, 20), (9, 17), (12, 20), (22, 15)])

    def test_the_guard_clamps_everything_and_says_so(self) -> None:
        decided = self.at([claim(5.0, 0, 24)], [Guard(low=10.0, high=28.0)], 0)
        self.assertEqual((decided.value, decided.is_clamped), (10.0, True))
        crossed = limits_at([Guard(low=30.0), Guard(high=20.0)], 0)
        self.assertTrue(crossed.cross)
        self.assertEqual(crossed.clamp(25.0)[0], 20.0, "the upper limit wins")
        off = [Claim(kind="safety", value=0.0, from_ms=0)]
        self.assertEqual(self.at(off, [Guard(low=10.0)], 0).value, 0.0, "a safety's off is not lifted")

    def test_by_minute(self) -> None:
        found = decisions([claim(20.0, 1, 2)], self.base, [], 0, 3 * HOUR)
        values = by_minute(found, 0, 3 * HOUR)
        self.assertEqual([values[59], values[60], values[119], values[120]], [15, 20, 20, 15])

    def test_unknown_kinds_are_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            claim(1.0, 0, 1, "whim")


class Blocks(unittest.TestCase):
    def test_blocks_follow_the_wall_clock_on_days_of_23_and_25_hours(self) -> None:
        home = small_home()
        for on, hours in (
            (date(2026, 3, 29), [6, 15, 2]),
            (date(2026, 10, 25), [8, 15, 2]),
            (date(2026, 1, 5), [7, 15, 2]),
        ):
            blocks = blocks_of(home, home.zones[0], LONDON.day(on), LONDON)
            self.assertEqual([(b.until_ms - b.from_ms) / HOUR for b in blocks], hours, on)

    def test_a_block_inside_the_skipped_hour_is_left_out(self) -> None:
        home = with_day(
            small_home(),
            ChangePoint(start_min=0, level_id="asleep"),
            ChangePoint(start_min=70, level_id="in-use"),
            ChangePoint(start_min=100, level_id="asleep"),
        )
        self.assertEqual(len(blocks_of(home, home.zones[0], LONDON.day(date(2026, 3, 29)), LONDON)), 2)

    def test_edges_stop_at_their_neighbours(self) -> None:
        day = small_home().zones[0].timetables[0].usual
        self.assertEqual(move_edge(day, 1, 2000)[1].start_min, 1319)
        self.assertEqual(move_edge(day, 2, -5)[2].start_min, 421)
        self.assertEqual(move_edge(day, 0, 500)[0].start_min, 419)
        with self.assertRaisesRegex(HomeError, "no such block"):
            move_edge(day, 3, 60)

    def test_split_then_merge_is_where_it_was(self) -> None:
        day = small_home().zones[0].timetables[0].usual
        self.assertEqual(merge_block(split_at(day, 600, day[-1]), 2), day)
        for at in (420, 1320, 0, 1440):
            with self.assertRaises(HomeError):
                split_at(day, at, day[-1])
        with self.assertRaises(HomeError):
            merge_block(day, 3)

    def test_no_setpoint_undercuts_the_guard(self) -> None:
        home = with_day(small_home(), ChangePoint(start_min=0, level_id="in-use", own_setpoint_c=3.0))
        day = LONDON.day(date(2026, 1, 5))
        found = setpoint_decisions(
            home,
            home.zones[0],
            timetable_claims(blocks_of(home, home.zones[0], day, LONDON), {}),
            day.start_ms,
            day.end_ms,
        )
        self.assertEqual({d.value for d in found}, {10.0})


def model_of(home: Home) -> tuple[RoomModel, int]:
    """Return the home's room by its survey, and how many draws it has."""
    room, heater = home.rooms[0], home.heaters[0]
    rooms, gains, suns = survey_draws(prior_of(home, room))
    control = OnOff(full_heat_w=heater.rated_heat_w, band_k=0.4, min_on_steps=2, min_off_steps=2)
    return RoomModel(
        step=compile_rooms(rooms, heater.rated_heat_w, 60.0), gain_w=gains, sun_m2=suns, control=control
    ), len(rooms)


class Prediction(unittest.TestCase):
    def setUp(self) -> None:
        self.home = small_home()
        self.model, draws = model_of(self.home)
        self.day = LONDON.day(date(2026, 1, 5))
        self.stretch = HeatingStretch(
            start_ms=self.day.start_ms,
            outdoor_c=np.full(1441, 3.0),
            offsets_k=np.zeros(draws),
            certain=0,
            clear_sky_w_m2=np.zeros(1440),
            start_c=np.full((draws, 3), 18.0),
        )
        self.blocks = blocks_of(self.home, self.home.zones[0], self.day, LONDON)

    def test_room_is_at_its_setpoint_when_the_block_begins(self) -> None:
        day = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks)
        self.assertEqual(len(day.leads), 1)
        self.assertGreater(day.leads[0].lead.best or 0, 5)
        self.assertGreaterEqual(float(day.run.air_c[0, 420]), 20.0 - 1e-6)

    def test_without_warm_up_the_room_is_short_of_its_setpoint_for_longer(self) -> None:
        early = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks)
        late = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks, with_leads=False)
        self.assertLess(early.underheating_kh(0, 1440)[0], 0.6 * late.underheating_kh(0, 1440)[0])
        self.assertGreater(early.heat_kwh(0, 1440)[0], late.heat_kwh(0, 1440)[0])

    def test_a_typed_lead_is_carried_out(self) -> None:
        day = day_with_leads(
            self.home, self.home.zones[0], self.model, self.stretch, self.blocks, {self.blocks[1].from_ms: 30}
        )
        self.assertEqual(np.flatnonzero(day.setpoint_c == 20.0)[0], 390)

    def test_the_range_holds_the_best(self) -> None:
        lead = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks).leads[0].lead
        self.assertLessEqual(lead.low or 0, lead.best or 0)
        self.assertTrue(lead.high is None or lead.high >= (lead.best or 0))

    def test_holding_never_needs_less_heat(self) -> None:
        asked = predict_day(self.home, self.home.zones[0], self.model, self.stretch, self.blocks).setpoint_c
        written = settled_heat_w(self.model, self.stretch, asked).sum(axis=1) / 60_000
        held = (
            settled_heat_w(self.model, self.stretch, held_setpoint_c(self.home.guard, self.blocks, 1440)).sum(axis=1)
            / 60_000
        )
        self.assertTrue((held >= written - 0.05).all())

    def test_a_hopeless_heater_is_too_late(self) -> None:
        weak = replace(self.model, control=replace(self.model.control, full_heat_w=100.0))
        self.assertIsNone(
            predict_day(self.home, self.home.zones[0], weak, self.stretch, self.blocks).leads[0].lead.best
        )


class Setback(unittest.TestCase):
    def test_saving_equals_loss_times_the_area_between(self) -> None:
        case = SetbackCase(
            loss_w_k=50, capacity_j_k=5e6, full_heat_w=3000, setpoint_c=20, setback_c=16, outdoor_c=0, period_s=28_800
        )
        found = setback_energy(case)
        theta, area, dt = 20.0, 0.0, 1.0
        for k in range(28_800):
            heat = 3000.0 if k >= 28_800 - found.reheat_s else (50 * 16.0 if theta <= 16.0 else 0.0)
            area += (20 - theta) * dt
            theta += dt * (heat - 50 * theta) / 5e6
        self.assertAlmostEqual(found.saving_kwh, 50 * area / 3.6e6, delta=0.002)
        self.assertAlmostEqual(theta, 20.0, delta=0.01)

    def test_a_heater_too_weak_to_hold_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            SetbackCase(
                loss_w_k=100, capacity_j_k=1e6, full_heat_w=1000, setpoint_c=20, setback_c=16, outdoor_c=0, period_s=100
            )


class Forecast(unittest.TestCase):
    def test_yesterday_again(self) -> None:
        yesterday = np.arange(1440.0)
        np.testing.assert_array_equal(like_yesterday(yesterday, 2000)[:1440], yesterday)
        with self.assertRaisesRegex(NotKnowable, "Type tomorrow"):
            like_yesterday(np.full(1440, np.nan), 10)

    def test_typed_low_and_high_are_reached_at_their_hours(self) -> None:
        day = typed_day(-2.0, 6.0, np.arange(1440))
        self.assertAlmostEqual(float(day[360]), -2.0)
        self.assertAlmostEqual(float(day[900]), 6.0)
        self.assertTrue((day >= -2 - 1e-9).all() and (day <= 6 + 1e-9).all())
        self.assertLess(float(np.abs(np.diff(day)).max()), 0.03)

    def test_spread_of_days(self) -> None:
        days = np.repeat([1.0, 4.0, 1.0, 4.0, 1.0], 24)
        self.assertAlmostEqual(day_to_day_spread_k(days), float(np.std([3, -3, 3, -3], ddof=1)))
        self.assertEqual(day_to_day_spread_k(np.zeros(24)), 2.5)


class Draws(unittest.TestCase):
    def test_even_draws_have_mean_zero_and_spread_one(self) -> None:
        draws = even_normals(32, 7)
        np.testing.assert_allclose(draws.mean(axis=0), 0, atol=1e-12)
        np.testing.assert_allclose(draws.std(axis=0, ddof=1), 1)
        self.assertLess(float(np.abs(np.corrcoef(draws.T) - np.eye(7)).max()), 0.45)


class HomeDocument(unittest.TestCase):
    def test_there_and_back_whole(self) -> None:
        self.assertEqual(home_from_json(home_to_json(small_home())), small_home())

    def test_money_is_text_and_the_format_named(self) -> None:
        document = json.loads(home_to_json(small_home()))
        self.assertEqual(document["format"], "warmeter-home/7")
        self.assertEqual(document["tariffs"][0]["rates"][0]["price_per_kwh"], "0.10")

    def test_unknown_fields_wrong_types_and_ranges_are_refused_by_place(self) -> None:
        changes: tuple[tuple[Callable[[Any], object], str], ...] = (
            (lambda d: d.update(colour="red"), "colour"),
            (lambda d: d["rooms"][0].update(height_m="2.5"), "rooms.0.height_m"),
            (lambda d: d["rooms"][0]["described"].update(floor_area_m2=-3.0), "rooms.0.described.floor_area_m2"),
            (lambda d: d.update(format="warmeter-home/99"), "warmeter-home/99"),
            (lambda d: d["rooms"][0].pop("built"), "rooms.0.built"),
            (lambda d: d["zones"][0].update(room_ids=["cellar"]), "room that is not there"),
            (lambda d: d["levels"].append(d["levels"][0]), "stands twice"),
            (lambda d: d["zones"][0]["timetables"][0]["usual"].reverse(), "must rise"),
        )
        for change, place in changes:
            document = json.loads(home_to_json(small_home()))
            change(document)
            with self.subTest(place), self.assertRaises(ValueError) as caught:
                home_from_json(json.dumps(document))
            self.assertIn(place, str(caught.exception))

    def test_the_published_schema_is_that_of_the_code(self) -> None:
        published = json.loads((ROOT / "docs" / "formats" / "warmeter-home-7.schema.json").read_text(encoding="utf-8"))
        self.assertEqual(published, home_adapter().json_schema())
        jsonschema.validate(json.loads(home_to_json(small_home())), published)

    def test_documents_of_every_finished_format_open(self) -> None:
        paths = sorted((ROOT / "tests" / "data" / "homes").glob("*.json"))
        self.assertTrue(paths)
        for path in paths:
            home = home_from_json(path.read_bytes())
            self.assertTrue(home.rooms and home.zones and home.tariffs, path.name)

    def test_what_format_7_calls_by_other_words_keeps_what_it_held(self) -> None:
        older = json.loads((ROOT / "tests" / "data" / "homes" / "warmeter-home-6.json").read_text(encoding="utf-8"))
        home = home_from_json(json.dumps(older))
        self.assertEqual(home.time_zone, older["zone"])
        self.assertEqual([c.id for c in home.safety_chains], [c["id"] for c in older.get("chains", ())])
        self.assertEqual([g.name for g in home.notification_groups], [g["name"] for g in older["tell_chains"]])
        told = [step["chain_id"] for rule in older["rules"] for step in rule["then"] if step["kind"] == "tell"]
        self.assertTrue(told)
        self.assertEqual([s.group_id for rule in home.rules for s in rule.then if isinstance(s, Tell)], told)

    def test_parts_without_meaning_are_refused(self) -> None:
        with self.assertRaises(HomeError):
            GuardLimits(low_c=20.0, high_c=10.0)
        for points in ((), ((7.0, 3.0), (2.0, 2.0)), ((7.0, 99.0),)):
            with self.assertRaises(HomeError):
                Source(id="s", name="Pump", kind="heat_pump", cop_points=points)
        with self.assertRaises(HomeError):
            small_home().room("nowhere")


class Checks(unittest.TestCase):
    def kinds(self, home: Home) -> set[str]:
        return {finding.kind for finding in findings_of(home)} - {"no register"}

    def test_a_sound_home_has_none(self) -> None:
        self.assertEqual(self.kinds(small_home()), set())

    def test_each_fault_is_found(self) -> None:
        home = small_home()
        for kind, broken in (
            ("room without heater", replace(home, heaters=())),
            ("heater too small", replace(home, heaters=(replace(home.heaters[0], rated_heat_w=300.0),))),
            ("below guard", with_day(home, ChangePoint(start_min=0, level_id="idle", own_setpoint_c=5.0))),
            ("guard low", replace(home, guard=GuardLimits(low_c=4.0))),
            ("currency", replace(home, currency="EUR")),
            ("no tariff", replace(home, tariffs=())),
        ):
            with self.subTest(kind):
                self.assertEqual(self.kinds(broken), {kind})

    def test_older_buildings_lose_more(self) -> None:
        home = small_home()
        losses = [surveyed_room(home, replace(home.rooms[0], built=built)).loss_w_k for built in BUILT]
        self.assertEqual(losses, sorted(losses, reverse=True))
