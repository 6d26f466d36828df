"""Rules for people on tracks: nobody in, silence, guests, beds and lamps."""

import unittest
from dataclasses import replace

import numpy as np

from tests.core.starters.test_catalogue import WEIR, Starting, of, steady, then
from tests.rules_at_work import NOON, H, track
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.devices import Device
from warmeter.core.home.people import Occupant, Witness
from warmeter.core.home.rules import SetLevel, TimedRun
from warmeter.core.rule.actions import action_runs_of
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.starters.catalogue import STARTERS, started
from warmeter.core.truth.scope import Marks

HOUSE = Signal(quantity="is_home")
PHONE = Device(id="phone", name="Ilse telephone", kind="telephone", power="battery")
BED = Device(id="bed", name="Bed", kind="mattress", room_id="wc-guest")
ILSE = Occupant(
    id="ilse",
    name="Ilse",
    witnesses=(
        Witness(id="w-phone", kind="telephone", device_ids=("phone",)),
        Witness(id="w-washer", kind="machine", machine_id="wc-washer", on_w=30.0),
    ),
)
HOME = replace(WEIR, rules=(), devices=(*WEIR.devices, PHONE, BED), people=(ILSE,))


class People(Starting):
    def test_everyone_out_is_idle_after_a_quarter_of_an_hour_and_back_with_the_first(self) -> None:
        log = {HOUSE: track((0, 1), (1800, 0), (2 * H, 1))}
        rule, rule_run = self.live(HOME, "everyone-out", "usual", HOME.id, log, holds_s={HOUSE: 24 * H})
        ends = [((f.at_ms - NOON) / 1000, ((f.end_ms or 0) - NOON) / 1000) for f in rule_run.firings]
        self.assertEqual(ends, [(1800 + 900, 2 * H)])
        step = action_runs_of(rule, rule_run)[0].step
        self.assertIsInstance(step, SetLevel)
        self.assertEqual(set(step.zone_ids), {zone.id for zone in HOME.zones})  # type: ignore[union-attr]

    def test_not_known_is_not_out_and_guests_stay_warm(self) -> None:
        unknown = {HOUSE: track((0, 1), (1800, float("nan")))}
        self.assertEqual(self.fired(HOME, "everyone-out", "usual", HOME.id, unknown, holds_s={HOUSE: 24 * H}), [])
        guests = {"guests are here": Marks(np.array([NOON - 1000]), np.array([True]))}
        out = {HOUSE: track((0, 1), (1800, 0))}
        self.assertEqual(
            self.fired(HOME, "everyone-out", "usual", HOME.id, out, marks=guests, holds_s={HOUSE: 24 * H}), []
        )

    def test_a_door_left_open_is_told_only_when_nobody_is_in(self) -> None:
        is_open = of("is_open", "wc-c-parlour")
        out = then((0, 1), (1800, 0))
        self.assertEqual(
            self.fired(HOME, "left-open", "usual", "wc-c-parlour", {HOUSE: out, is_open: steady(1)}), [1800 + 300]
        )
        for log in ({HOUSE: out, is_open: steady(0)}, {HOUSE: steady(1), is_open: steady(1)}):
            self.assertEqual(self.fired(HOME, "left-open", "usual", "wc-c-parlour", log), [])

    def test_what_is_left_on_is_told(self) -> None:
        draws = of("electric_w", "wc-washer")
        out = then((0, 1), (1800, 0))
        self.assertEqual(
            self.fired(HOME, "left-on", "usual", "wc-washer", {HOUSE: out, draws: steady(60)}), [1800 + 300]
        )
        self.assertEqual(self.fired(HOME, "left-on", "usual", "wc-washer", {HOUSE: out, draws: steady(4)}), [])

    def test_the_night_begins_in_bed_but_not_at_noon(self) -> None:
        bed = of("is_in_bed", "bed")
        # Noon is the beginning: 22:00 is ten hours on.
        night = {bed: then((0, 0), (10 * H, 1), (19 * H, 0))}
        _, rule_run = self.live(HOME, "bed", "usual", "bed", night, hours=21)
        ends = [((f.at_ms - NOON) / 1000, ((f.end_ms or 0) - NOON) / 1000) for f in rule_run.firings]
        self.assertEqual(ends, [(10 * H + 1200, 19 * H + 900)])
        self.assertEqual(self.fired(HOME, "bed", "usual", "bed", {bed: then((0, 0), (600, 1), (2 * H, 0))}), [])

    def test_a_lamp_welcomes_in_the_dark_only_and_goes_off_by_itself(self) -> None:
        comes = {HOUSE: then((0, 0), (9 * H, 1))}
        rule, rule_run = self.live(HOME, "welcome", "usual", "wc-porch", comes, hours=11)
        runs = action_runs_of(rule, rule_run)
        self.assertEqual([(r.from_ms - NOON) / 1000 for r in runs], [9 * H])
        self.assertIsInstance(runs[0].step, TimedRun)
        self.assertEqual((runs[0].until_ms or 0) - runs[0].from_ms, 900_000)
        self.assertEqual(self.fired(HOME, "welcome", "usual", "wc-porch", {HOUSE: then((0, 0), (600, 1))}), [])

    def test_steam_is_told_by_the_air_of_another_room(self) -> None:
        _, rule = started(HOME, "damp", "room", "wc-tub")
        other = rule.watch[0][0].minus  # type: ignore[attr-defined]
        self.assertNotEqual(other.subject_id, "wc-tub")
        log = {
            of("absolute_humidity", "wc-tub"): then((0, 9.0), (1800, 12.0)),
            of("absolute_humidity", other.subject_id): steady(9.0),
        }
        self.assertEqual(self.fired(HOME, "damp", "room", "wc-tub", log)[:1], [1800 + 300])

    def test_none_of_them_has_a_finding_on_a_sound_home(self) -> None:
        for starter in STARTERS:
            if starter.key in ("everyone-out", "left-open", "left-on", "bed", "welcome"):
                places = starter.places(HOME)
                self.assertTrue(places, starter.key)
                with_chain, rule = started(HOME, starter.key, "usual", places[0][0])
                found = rule_findings(replace(with_chain, rules=(rule,)))
                self.assertEqual([(f.check, f.part) for f in found], [], starter.key)


if __name__ == "__main__":
    unittest.main()
