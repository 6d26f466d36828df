"""Pump without flow, too hot unless meant, dosing only with flow: each with a log that fires it and one that must not."""

from dataclasses import replace

import numpy as np

from tests.core.starters.test_catalogue import Starting, of, steady, then
from tests.rules_at_work import NOON, H
from warmeter.core.errors import HomeError
from warmeter.core.home.rules import ShutOff, Switch
from warmeter.core.rule.actions import action_runs_of
from warmeter.core.starters.catalogue import started
from warmeter.core.truth.scope import Marks
from warmeter.service.homes.demo import demo_home

ORCHARD = demo_home("orchard-row")
FLOW, PUMP = of("water_flow", "or-flow"), of("is_obeying", "or-pump-switch")


class PoolStarters(Starting):
    def test_a_pump_that_runs_dry_is_shut_off_and_stays_off(self) -> None:
        runs = then((0, 0), (600, 1))
        asked = ORCHARD, "dry", "usual", "or-pump-switch"
        self.assertEqual(self.fired(*asked, {PUMP: runs, FLOW: steady(40)}), [])
        # Priming: a minute without flow after the start is no dry run.
        self.assertEqual(self.fired(*asked, {PUMP: runs, FLOW: then((0, 0), (660, 40))}), [])
        rule, life = self.live(*asked, {PUMP: runs, FLOW: then((0, 40), (3600, 0.5))})
        shut = [d for d in action_runs_of(rule, life) if isinstance(d.step, ShutOff)]
        self.assertEqual([(d.from_ms - NOON) / 1000 for d in shut], [3690])
        self.assertIsNone(shut[0].until_ms)
        # A flow that is not heard is no proof of a dry pump.
        self.assertEqual(self.fired(*asked, {PUMP: runs}), [])

    def test_water_over_forty_degrees_unless_it_is_meant(self) -> None:
        water = of("water_temperature", "or-pump")
        asked = ORCHARD, "hot", "usual", "or-pump"
        hot = {water: then((0, 38), (600, 41), (3 * H, 37.5), hours=6)}
        rule, life = self.live(*asked, hot, hours=6)
        off = [d for d in action_runs_of(rule, life) if isinstance(d.step, Switch)]
        self.assertEqual([(d.from_ms - NOON) / 1000 for d in off], [900])
        self.assertEqual(self.fired(*asked, {water: then((0, 38), (600, 39.5))}), [])
        meant = {"hot is meant": Marks(np.array([NOON - 1000]), np.array([True]))}
        self.assertEqual(self.fired(*asked, hot, marks=meant), [])

    def test_dosing_only_while_water_is_known_to_flow(self) -> None:
        """Flow from the tenth minute on, gone at the fiftieth; then a meter that falls silent while it flows."""
        asked = ORCHARD, "dosing", "usual", "or-press-spa"
        rule, life = self.live(*asked, {FLOW: then((0, 0), (600, 40), (3000, 0))})
        on = [d for d in action_runs_of(rule, life) if isinstance(d.step, Switch)]
        self.assertEqual([((d.from_ms - NOON) / 1000, ((d.until_ms or 0) - NOON) / 1000) for d in on], [(720, 3000)])
        heard = then((0, 0), (600, 40))
        silent = replace(heard, at_ms=heard.at_ms[:40], value=heard.value[:40])  # the last word at 39 minutes
        rule, life = self.live(*asked, {FLOW: silent})
        on = [d for d in action_runs_of(rule, life) if isinstance(d.step, Switch)]
        self.assertEqual([((d.until_ms or 0) - NOON) / 1000 for d in on], [39 * 60 + 300])
        self.assertEqual(self.fired(*asked, {}), [])

    def test_without_a_meter_of_its_flow_it_is_asked_for(self) -> None:
        bare = replace(ORCHARD, devices=tuple(d for d in ORCHARD.devices if d.id != "or-flow"))
        with self.assertRaisesRegex(HomeError, "which meter tells the flow behind Pool pump switch"):
            started(bare, "dry", "usual", "or-pump-switch")
