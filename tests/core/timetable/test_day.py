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
from warmeter.core.building.losses import surveyed_room
from warmeter.core.claims.arbiter import Claim, Decision, Guard, by_minute, decisions, limits_at
from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Source
from warmeter.core.home.presets import BUILT
from warmeter.core.home.rules import Tell
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.home.zones import GuardLimits
from warmeter.core.thermal.room_fit import even_normals
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_of, setpoint_decisions, timetable_claims
from warmeter.core.timetable.points import merge_block, move_edge, split_at
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
        with self.assertRaisesRegex(HomeError, "no such period"):
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
        self.assertEqual(document["format"], "warmeter-home/13")
        self.assertEqual(document["tariffs"][0]["rates"][0]["price_per_unit"], "0.10")

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
        published = json.loads((ROOT / "docs" / "formats" / "warmeter-home-13.schema.json").read_text(encoding="utf-8"))
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
            ("below protection limit", with_day(home, ChangePoint(start_min=0, level_id="idle", own_setpoint_c=5.0))),
            ("protection limit low", replace(home, guard=GuardLimits(low_c=4.0))),
            ("currency", replace(home, currency="EUR")),
            ("no tariff", replace(home, tariffs=())),
        ):
            with self.subTest(kind):
                self.assertEqual(self.kinds(broken), {kind})

    def test_older_buildings_lose_more(self) -> None:
        home = small_home()
        losses = [surveyed_room(home, replace(home.rooms[0], built=built)).loss_w_k for built in BUILT]
        self.assertEqual(losses, sorted(losses, reverse=True))
