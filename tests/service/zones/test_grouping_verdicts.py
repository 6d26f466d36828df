"""Groupings of rooms as the service judges and proposes them."""

import unittest
from dataclasses import replace

import numpy as np

from tests.drawn import drawn_home
from tests.homes import small_home
from tests.served import NOW_MS, fresh_app
from warmeter.core.building.compiled import compile_home
from warmeter.core.building.groupings import GroupingOutcome, Week
from warmeter.core.building.losses import surveyed_room
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
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
