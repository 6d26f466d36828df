"""Rules for evenings and for the first who comes home: lamps in their order, a limit a day, doors never by presence."""

import unittest
from dataclasses import replace

import numpy as np

from tests.core.starters.test_catalogue import WEIR, Starting, of, steady, then
from tests.core.starters.test_people_starters import HOME, HOUSE
from tests.rules_at_work import NOON, H
from warmeter.core.edits.rule_defaults import step_of
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, ToldSetting
from warmeter.core.home.rules import Dim, PutBack, Rule, Switch, Tell
from warmeter.core.rule.actions import action_runs_of
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.starters.catalogue import started

LIVING = WEIR.rooms[0]
SCREEN = Appliance(
    id="screen",
    name="Screen",
    kind="computer",
    settings=(ToldSetting(tells="ran_today", threshold_w=30.0, wait_s=60.0),),
)


def with_lamps(count: int, use: str = "living") -> Home:
    """Return a home without rules whose first room has so many lamps."""
    lamps = tuple(Device(id=f"lamp{k}", name=f"Lamp {k}", kind="lamp_switch", room_id=LIVING.id) for k in range(count))
    rooms = (replace(LIVING, use=use), *WEIR.rooms[1:])  # type: ignore[arg-type]
    return replace(WEIR, rules=(), rooms=rooms, devices=(*WEIR.devices, *lamps), appliances=(*WEIR.appliances, SCREEN))


class Evenings(Starting):
    def test_lamps_are_dimmed_one_after_the_other_twice_and_never_all_at_once(self) -> None:
        home = with_lamps(3)
        rule, rule_run = self.live(home, "dimmed", "usual", LIVING.id, {}, hours=20)
        steps = [((d.from_ms - NOON) / 1000, d.step) for d in action_runs_of(rule, rule_run)]
        own = [(at, step.target_ids, step.share) for at, step in steps if isinstance(step, Dim)]
        self.assertEqual([share for _, _, share in own], [0.6, 0.6, 0.6, 0.3, 0.3, 0.3])
        self.assertEqual([ids for _, ids, _ in own[:3]], [("lamp0",), ("lamp1",), ("lamp2",)])
        # Nine in the evening is nine hours after noon.
        self.assertEqual([at - 9 * H for at, _, _ in own], [0, 300, 600, 5100, 5400, 5700])
        ends = [((f.end_ms or 0) - NOON) / 1000 for f in rule_run.firings]
        self.assertEqual(ends, [18 * H])

    def test_a_hall_stays_bright_enough_and_a_light_evening_dims_nothing(self) -> None:
        _, rule = started(with_lamps(1, "hall"), "dimmed", "usual", LIVING.id)
        shares = [step.share for step in rule.then if isinstance(step, Dim)]
        self.assertGreaterEqual(min(shares), 0.2)
        self.assertEqual(rule_findings(replace(with_lamps(1, "hall"), rules=(rule,))), [])

    def test_a_screen_is_told_after_two_hours_and_cut_ten_minutes_later_until_the_morning(self) -> None:
        draws = of("electric_w", "screen")
        # On from one till two, and from three on: two hours are reached at four.
        log = {draws: then((0, 3.0), (H, 90.0), (2 * H, 3.0), (3 * H, 90.0))}
        rule, rule_run = self.live(with_lamps(1), "child-limit", "cut", "screen", log, hours=18)
        steps = [((d.from_ms - NOON) / 1000, d.step) for d in action_runs_of(rule, rule_run)]
        self.assertEqual(len(steps), 2)
        told, cut = steps
        self.assertIsInstance(told[1], Tell)
        # What counts as a run ends its wait later: a minute at most for each of both.
        self.assertAlmostEqual(told[0], 4 * H, delta=121)
        self.assertEqual((cut[0] - told[0], cut[1]), (600, Switch(target_ids=("screen",), is_on=False, wait_s=600)))
        self.assertEqual(((rule_run.firings[0].end_ms or 0) - NOON) / 1000, 16 * H)

    def test_what_runs_less_is_left_alone_and_without_a_setting_it_says_what_to_do(self) -> None:
        log = {of("electric_w", "screen"): then((0, 90.0), (H, 3.0))}
        self.assertEqual(self.fired(with_lamps(1), "child-limit", "tell", "screen", log), [])
        bare = replace(with_lamps(1), appliances=(replace(SCREEN, settings=()),))
        with self.assertRaisesRegex(HomeError, "ran today"):
            started(bare, "child-limit", "tell", "screen")

    def test_the_first_in_finds_it_in_use_for_two_hours(self) -> None:
        zone = HOME.zones[0].id
        comes = {HOUSE: then((0, 0), (1800, 1))}
        _, rule_run = self.live(HOME, "first-in", "usual", zone, comes, holds_s={HOUSE: 24 * H})
        ends = [((f.at_ms - NOON) / 1000, ((f.end_ms or 0) - NOON) / 1000) for f in rule_run.firings]
        self.assertEqual(ends, [(1800, 1800 + 2 * H)])
        self.assertEqual(self.fired(HOME, "first-in", "usual", zone, {HOUSE: steady(1)}), [])

    def test_a_dimming_as_it_first_stands_needs_a_lamp(self) -> None:
        self.assertIsInstance(step_of(with_lamps(1), "dim"), Dim)
        lampless = replace(WEIR, devices=tuple(d for d in WEIR.devices if d.kind != "lamp_switch"))
        with self.assertRaises(HomeError):
            step_of(lampless, "dim")


class Checks(unittest.TestCase):
    def found(self, home: Home, rule: Rule, check: str) -> list[str]:
        return [f.severity for f in rule_findings(replace(home, rules=(rule,))) if f.check == check]

    def test_a_door_is_never_worked_by_presence_alone(self) -> None:
        door = Device(id="d9", name="Garage door", kind="relay", room_id=LIVING.id)
        home = replace(HOME, devices=(*HOME.devices, door))
        opens = Rule(
            id="r",
            name="Opens",
            watch=((InState(of=HOUSE),),),
            then=(Switch(target_ids=("d9",), is_on=True),),
            put_back=PutBack(after_s=60),
        )
        self.assertEqual(self.found(home, opens, "door by presence"), ["danger"])
        pressed = InState(of=of("is_open", "wc-c-parlour"))
        for sound in (replace(opens, watch=((pressed,),)), replace(opens, watch=((InState(of=HOUSE), pressed),))):
            self.assertEqual(self.found(home, sound, "door by presence"), [])
        lamp = replace(home, devices=(*HOME.devices, replace(door, name="Indoor fan")))
        self.assertEqual(self.found(lamp, opens, "door by presence"), [])

    def test_a_way_is_not_left_in_the_dark_and_the_fix_leaves_some_light(self) -> None:
        home = with_lamps(1, "hall")
        dims = Rule(
            id="r",
            name="Dims",
            watch=((InState(of=of("is_open", "wc-c-parlour")),),),
            for_s=60,
            then=(Dim(target_ids=("lamp0",), share=0.05),),
            put_back=PutBack(at_min=360),
        )
        findings = [f for f in rule_findings(replace(home, rules=(dims,))) if f.check == "dark on the way"]
        self.assertEqual(len(findings), 1)
        fixed = findings[0].fixed
        assert fixed is not None
        self.assertEqual(np.array([s.share for s in fixed.rules[0].then if isinstance(s, Dim)]), [0.2])
        self.assertEqual(self.found(with_lamps(1), dims, "dark on the way"), [])


if __name__ == "__main__":
    unittest.main()
