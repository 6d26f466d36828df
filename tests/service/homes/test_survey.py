"""What the service makes of a survey: figures with their working, judgements of groupings, the mutation command."""

import contextlib
import io
import unittest
from argparse import Namespace
from dataclasses import replace
from unittest.mock import patch

import numpy as np

from tests.drawn import drawn_home
from tests.homes import small_home
from tests.served import NOW_MS, fresh_app
from warmeter.cli import mutate
from warmeter.core.building.compiled import compile_home
from warmeter.core.building.groupings import GroupingOutcome, Week
from warmeter.core.building.heating import heating_of
from warmeter.core.building.losses import loss_of, surveyed_room
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.explain.survey_figures import figure_of_room
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Source
from warmeter.core.home.zones import CountedSensor, Sensing
from warmeter.service.app import App
from warmeter.service.homes.demo import demo_home
from warmeter.service.zones.grouping import (
    GroupingProposal,
    Trial,
    compare_groupings,
    proposals_of,
    rival_room,
    verdict,
    zone_groups,
)
from warmeter.simulators import faults


def stored(home: Home) -> App:
    """Return an application with a home."""
    app = fresh_app()
    app.homes.create(home, author="Ann", at_ms=NOW_MS, summary="made")
    return app


def trial(
    key: str,
    *,
    short: tuple[float, float],
    kwh: float,
    cost: float | None = None,
    sensors: int = 2,
    heads: int = 2,
    starts: int = 0,
    broken: tuple[str, ...] = (),
) -> Trial:
    """Return a grouping's week as judged, of two rooms."""
    found = GroupingOutcome(
        heat_kwh=3 * kwh,
        drawn_kwh=kwh,
        cost=cost,
        room_heat_kwh=np.zeros(2),
        underheating_kh=np.array(short),
        overheating_kh=np.zeros(2),
        mean_c=np.full(2, 19.0),
        coldest_c=np.full(2, 18.0),
        warmest_c=np.full(2, 21.0),
        starts=starts,
        strained_h=np.zeros(2),
    )
    proposal = GroupingProposal(key=key, name=key, groups=(("den",), ("study",)), rule="one")
    return Trial(
        proposal=proposal,
        found=found,
        low=found,
        high=found,
        sensors=sensors,
        valve_heads=heads,
        broken=broken,
        dangers=(),
        too_small=(),
    )


class Verdicts(unittest.TestCase):
    def favoured(self, *trials: Trial) -> str:
        """Return the name of what is favoured."""
        return verdict(drawn_home(), trials)[0].proposal.name

    def test_the_cheaper_of_two_that_keep_people_as_warm(self) -> None:
        a, b = trial("a", short=(1, 1), kwh=90, cost=20.0), trial("b", short=(3, 3), kwh=95, cost=18.0)
        self.assertEqual(self.favoured(a, b), "b")
        self.assertEqual(
            self.favoured(replace(a, found=replace(a.found, cost=None)), replace(b, found=replace(b.found, cost=None))),
            "a",
        )

    def test_cheap_and_cold_is_not_favoured(self) -> None:
        warm, cold = trial("warm", short=(0, 2), kwh=100), trial("cold", short=(0, 40), kwh=60)
        best, reason, other = verdict(drawn_home(), (warm, cold))
        self.assertEqual(best.proposal.name, "warm")
        self.assertIn("2 K·h short", reason)
        self.assertIn("it takes 40 kWh less", other)
        self.assertIn("against it, Study is 40 K·h short", other)
        self.assertEqual(rival_room(cold, drawn_home()), "study")

    def test_a_broken_limit_stands_back_unless_all_break_one(self) -> None:
        hot = trial("hot", short=(0, 0), kwh=50, broken=("Den rises to 26 °C",))
        sound = trial("sound", short=(4, 4), kwh=90)
        self.assertEqual(self.favoured(hot, sound), "sound")
        self.assertEqual(self.favoured(hot, replace(sound, broken=("x",))), "hot")

    def test_what_speaks_for_the_other_is_said_in_words(self) -> None:
        best = trial("best", short=(0, 0), kwh=80, sensors=3, heads=4, starts=9)
        simple = trial("simple", short=(0, 0), kwh=81, sensors=2, heads=0, starts=2)
        _, _, other = verdict(drawn_home(), (best, simple))
        for words in ("one sensor less", "4 valve heads fewer", "7 starts fewer of the plant"):
            self.assertIn(words, other)
        _, _, nothing = verdict(
            drawn_home(), (best, trial("worse", short=(0, 0), kwh=99, sensors=9, heads=9, starts=9))
        )
        self.assertIn("little", nothing)
        self.assertEqual(verdict(drawn_home(), (best,))[2], "")


class Proposals(unittest.TestCase):
    def test_what_is_worth_trying_follows_from_the_home(self) -> None:
        home = demo_home("sail-loft")
        self.assertEqual([p.key for p in proposals_of(home)], ["now", "apart", "one"])
        own = proposals_of(home, own={"rm-bindery": "A", "rm-paper": "A"})[-1]
        self.assertEqual((own.key, len(own.groups)), ("own", 7))
        self.assertIn(("rm-bindery", "rm-paper"), own.groups)
        lead = proposals_of(home, "rm-loft")[2]
        self.assertEqual((lead.name, lead.groups[0][0]), ("One zone, Loft room measures", "rm-loft"))
        self.assertEqual([p.key for p in proposals_of(small_home())], ["now"])

    def test_the_zones_own_sensor_rule_counts_as_now(self) -> None:
        home = drawn_home()
        both = (CountedSensor(device_id="air-den", weight=3.0), CountedSensor(device_id="air-study", weight=1.0))
        one = replace(home.zones[0], room_ids=("den", "study"), sensing=(Sensing(rule="weighted", sensors=both),))
        home = replace(home, zones=(one,))
        app = stored(home)
        found = compare_groupings(app, home, proposals_of(home))
        now = next(t for t in found.trials if t.proposal.key == "now")
        compiled = compile_home(home)
        self.assertEqual((now.sensors, now.valve_heads), (1, 0))
        week = _flat_week(2)
        plans = zone_groups(home, compiled, week, now.proposal)
        self.assertEqual((plans[0].rule, plans[0].weights), ("weighted", (3.0, 1.0)))
        led = zone_groups(home, compiled, week, replace(now.proposal, is_now=False, rule="one"))
        self.assertEqual((led[0].rule, led[0].weights), ("one", (1.0, 0.0)))

    def test_learnt_rooms_take_the_place_of_their_survey(self) -> None:
        home = drawn_home()
        plain = compile_home(home)
        light = replace(surveyed_room(home, home.rooms[0]), air_out_w_k=0.1)
        taught = compile_home(home, {"den": light})
        self.assertFalse(np.allclose(plain.a[0], taught.a[0]))
        np.testing.assert_allclose(plain.a[3], taught.a[3])

    def test_a_home_that_cannot_be_tried_says_why(self) -> None:
        home = replace(drawn_home(), heaters=())
        with self.assertRaises(HomeError) as caught:
            compare_groupings(stored(home), home, proposals_of(home))
        self.assertIn("no heated room has a heater", str(caught.exception))


def _flat_week(rooms: int) -> Week:
    return Week(outdoor_c=np.zeros(4), gain_w=np.zeros((rooms, 4)), needs_c=np.full((rooms, 4), 20.0), price=None)


class Compiled(unittest.TestCase):
    def test_sources_give_by_their_kind(self) -> None:
        home = drawn_home()
        kinds = (
            home.sources[0],
            Source(id="pump", name="Pump", kind="heat_pump", cop_points=((-5.0, 2.0), (5.0, 4.0))),
            Source(id="wire", name="Wire", kind="direct", most_w=3000.0),
        )
        third = replace(home.heaters[1], id="third", source_id="wire")
        heaters = (home.heaters[0], replace(home.heaters[1], source_id="pump"), third)
        compiled = compile_home(replace(home, sources=kinds, heaters=heaters))
        found = compiled.efficiency(np.array([-5.0, 0.0, 20.0]))
        np.testing.assert_allclose(found, [[0.9, 0.9, 0.9], [2.0, 3.0, 4.0], [1.0, 1.0, 1.0]])
        np.testing.assert_allclose(compiled.most_w, [np.inf, np.inf, 3000.0])

    def test_walls_between_rooms_join_their_fabrics_both_ways_alike(self) -> None:
        home = drawn_home()
        compiled = compile_home(home)
        stores = [surveyed_room(home, r).fabric_j_k for r in home.rooms]
        there, back = compiled.a[1, 4] * stores[0], compiled.a[4, 1] * stores[1]
        self.assertAlmostEqual(there, 3 * 2.5 * 1.75)
        self.assertAlmostEqual(there, back)

    def test_in_equilibrium_at_one_temperature_nothing_flows(self) -> None:
        compiled = compile_home(demo_home("sail-loft"))
        states = np.tile([7.0, 7.0, 0.0], len(compiled.room_ids))
        flow = compiled.a @ states + compiled.b[:, 0] * 7.0
        np.testing.assert_allclose(flow, 0.0, atol=1e-12)


class Figures(unittest.TestCase):
    def test_each_figure_is_the_cores_own_with_its_range_and_inputs(self) -> None:
        home = drawn_home()
        den = home.room("den")
        loss, heating = loss_of(home, den), heating_of(home, den)
        for key, value in (
            ("loss.den", loss.total_w),
            ("load.den", loss.safe_w),
            ("output.den", heating.output_w),
            ("flow.den", heating.flow_needed_c),
            ("copes.den", heating.copes_to_c),
        ):
            figure = figure_of_room(home, key)
            self.assertEqual(figure.value, value, key)
            self.assertTrue(figure.formula and figure.substituted and figure.method and figure.inputs)
        figure = figure_of_room(home, "loss.den")
        self.assertEqual((figure.low, figure.high), (loss.low_w, loss.high_w))
        self.assertEqual(len(figure.inputs), 2 + 2 * len(loss.rows))
        changes = [abs(s.change) for s in figure.sensitivities]
        self.assertEqual(changes, sorted(changes, reverse=True))

    def test_a_warmer_neighbour_is_told_beside_the_load(self) -> None:
        home = drawn_home()
        load = figure_of_room(home, "load.study")
        self.assertGreater(load.value or 0, load.alternatives[0].value or 0)
        self.assertIn("−", figure_of_room(home, "loss.study").substituted)
        self.assertIn("Without heat from warmer neighbours", figure_of_room(home, "loss.study").note)

    def test_out_of_reach_is_no_number_and_no_water_no_flow(self) -> None:
        home = drawn_home()
        weak = replace(home, heaters=(replace(home.heaters[0], rated_heat_w=200.0), home.heaters[1]))
        self.assertIsNone(figure_of_room(weak, "flow.den").value)
        dry = replace(home, sources=(replace(home.sources[0], flow_c=None),))
        with self.assertRaises(NotKnowable) as caught:
            figure_of_room(dry, "flow.den")
        self.assertIn("flow temperature", caught.exception.record)


class MutationCommand(unittest.TestCase):
    def ran(self, **plants: faults.Plant) -> tuple[int, str]:
        """Return exit code and words of the command with some plants put in others' places."""
        out = io.StringIO()
        with (
            patch.dict(faults.PLANTS, {k.replace("_", " "): v for k, v in plants.items()}),
            contextlib.redirect_stdout(out),
        ):
            return mutate.run(Namespace()), out.getvalue()

    def test_a_fault_that_is_not_found_fails_the_command(self) -> None:
        code, words = self.ran(two_owners=lambda home: [faults.Planted(home, home.devices[0].id)])
        self.assertEqual(code, 1)
        self.assertIn("MISSED    Sail Loft Bindery: two owners", words)

    def test_a_finding_that_nothing_planted_explains_fails_it_too(self) -> None:
        def clumsy(home: Home) -> list[faults.Planted]:
            return [faults.Planted(replace(p.home, tariffs=()), p.place) for p in faults.two_owners(home)[:1]]

        code, words = self.ran(two_owners=clumsy)
        self.assertEqual(code, 1)
        self.assertIn("brought no tariff", words)
