"""Checks of what a rule does and puts back."""

import unittest
from dataclasses import replace

from tests.checked_rules import HOME, IDLE, LEAK, OPENING, WINDOW, Checked, at, by, compared
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.devices import Device
from warmeter.core.home.rules import PutBack, RuleLimits, SetLevel, SetPoint, ShutOff, Switch, Tell
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import Evidence

HEATED_ONLY = replace(HOME, heaters=tuple(h for h in HOME.heaters if h.kind != "split_unit"))


class Acting(Checked):
    def test_what_is_switched_has_an_end(self) -> None:
        switch = Switch(target_ids=("plug",), is_on=False)
        self.sound(by(AtTime(at_min=at(8)), switch))
        bare = by(AtTime(at_min=at(8)), switch, put_back=None)
        self.assertIsNotNone(self.fixed(bare, "nothing puts back", "then.0.targets").put_back)
        self.sound(by(AtTime(at_min=at(8)), Tell(group_id="all"), put_back=None))  # nothing to put back

    def test_a_step_that_waits_until_the_rule_is_put_back_never_comes(self) -> None:
        steps = (IDLE, replace(IDLE, level_id="asleep", wait_s=1200))
        for after_s, comes in ((1201, True), (1200, False), (600, False)):
            rule = by(InState(of=WINDOW), *steps, for_s=120, put_back=PutBack(after_s=after_s))
            found = [f.part for f in self.findings(rule) if f.check == "step never comes"]
            self.assertEqual(found, [] if comes else ["then.1.wait"], after_s)
        late = by(InState(of=WINDOW), *steps, for_s=120, put_back=PutBack(after_s=600))
        self.assertEqual(self.fixed(late, "step never comes", "then.1.wait").put_back, PutBack(after_s=1800))

    def test_a_setpoint_lies_within_the_guard(self) -> None:
        limits = HOME.guard_of(HOME.zones[0])
        for value in (limits.low_c, limits.high_c):
            self.sound(by(compared(15.0), SetPoint(zone_ids=("z-study",), value_c=value)))
        for value, end in ((limits.low_c - 0.5, limits.low_c), (limits.high_c + 0.5, limits.high_c)):
            rule = by(compared(15.0), SetPoint(zone_ids=("z-study",), value_c=value))
            step = self.fixed(rule, "contradiction", "then.0.value").then[0]
            assert isinstance(step, SetPoint)
            self.assertEqual(step.value_c, end)

    def test_two_rules_that_switch_one_thing_both_ways(self) -> None:
        off = by(compared(26.0), Switch(target_ids=("plug",), is_on=False), id="first", name="First")
        home = replace(HOME, rules=(off,))
        on = by(
            compared(10.0, how="under", quantity="relative_humidity", hysteresis=5.0),
            Switch(target_ids=("plug",), is_on=True),
        )
        found = self.findings(on, home)
        self.assertEqual([(f.check, f.part) for f in found], [("contradiction", "then.0.targets")])
        self.assertIn("First", found[0].sentence)
        self.sound(replace(on, kind="window_lock"), home)  # a stronger kind decides, that is no accident
        cold = by(compared(20.0, how="under"), Switch(target_ids=("plug",), is_on=True))
        self.sound(cold, home)  # it is not over 26 and under 20 at once

    def test_zones_that_are_not_looked_at(self) -> None:
        wide = replace(OPENING, then=(SetLevel(zone_ids=("z-study", "z-hall"), level_id="idle"),))
        self.assertEqual(self.fixed(wide, "acts on more", "then.0.targets", HEATED_ONLY).then, (IDLE,))

    def test_a_heating_level_for_a_unit_that_cools(self) -> None:
        """Typed into a unit in its cooling mode, 16 °C for an empty or opened room would be a cold blast."""
        shut = InState(of=WINDOW)
        lock = replace(by(shut, SetLevel(zone_ids=("z-hall",), level_id="idle")), kind="window_lock", for_s=180)
        found = [f for f in self.findings(lock) if f.check == "heating level for what cools"]
        self.assertEqual([(f.part, f.severity) for f in found], [("then.0.targets", "danger")])
        after = found[0].fixed
        assert after is not None
        self.assertEqual(after.rules[-1].then[-1], Switch(target_ids=("unit",), is_on=False))
        self.assertFalse([f for f in rule_findings(after) if f.check == "heating level for what cools"])
        self.assertFalse([f for f in self.findings(lock, HEATED_ONLY) if f.check == "heating level for what cools"])

    def test_a_window_lock_on_what_only_infra_red_reaches_turns_it_off(self) -> None:
        sender = Device(id="ir", name="Sender", kind="infrared_sender", room_id="study", drives_id=HOME.heaters[0].id)
        home = replace(HOME, devices=(*HOME.devices, sender))
        lock = replace(OPENING, kind="window_lock")
        found = [f for f in self.findings(lock, home) if f.check == "heating level for what cools"]
        self.assertIn("infra-red only", found[0].sentence)
        self.assertFalse([f for f in self.findings(lock) if f.check == "heating level for what cools"])

    def test_what_the_log_never_held(self) -> None:
        evidence = Evidence(unheard=frozenset((WINDOW,)))
        told = [f for f in self.findings(OPENING, evidence=evidence) if f.check == "never received"]
        self.assertEqual({f.part for f in told}, {"watch.0.0.of"})
        self.assertIn("holds nothing", told[0].sentence)

    def test_a_sensor_in_another_room(self) -> None:
        hall = by(compared(15.0), SetLevel(zone_ids=("z-hall",), level_id="idle"))
        looked = self.fixed(hall, "other room", "watch.0.0.of", HEATED_ONLY).watch[0][0]
        assert isinstance(looked, Compared)
        self.assertEqual(looked.of.subject_id, "hall")

    def test_a_lamp_that_says_nothing_back(self) -> None:
        blind = replace(HOME, devices=tuple(replace(d, is_two_way=d.id not in ("lamp", "plug")) for d in HOME.devices))
        lamp = by(AtTime(at_min=at(8)), Switch(target_ids=("lamp",), is_on=True))
        self.sound(lamp)
        found = self.findings(lamp, blind)
        self.assertEqual(
            [(f.check, f.fix) for f in found], [("device without feedback", "")]
        )  # nothing there to see it by
        seen = replace(
            blind, devices=tuple(replace(d, witness_id="plug") if d.id == "lamp" else d for d in blind.devices)
        )
        self.sound(lamp, seen)

    def test_what_feeds_the_water_is_shut(self) -> None:
        rule = by(InState(of=LEAK), ShutOff(target_ids=("valve",)), kind="safety", put_back=None)
        self.sound(rule)
        wrong = replace(rule, then=(ShutOff(target_ids=("plug",)),))
        self.assertEqual(self.fixed(wrong, "wrong thing shut", "then.0.targets").then, rule.then)

    def test_a_compressor_rests_five_minutes_at_least(self) -> None:
        for target in ("unit", "dry"):
            rule = by(AtTime(at_min=at(8)), Switch(target_ids=(target,), is_on=True))
            with self.subTest(target=target):
                self.sound(replace(rule, limits=RuleLimits(min_on_s=300, min_off_s=300)))
                self.fixed(replace(rule, limits=RuleLimits(min_on_s=299, min_off_s=600)), "short cycles", "min_on_s")
        self.sound(by(AtTime(at_min=at(8)), Switch(target_ids=("washer",), is_on=True)))


if __name__ == "__main__":
    unittest.main()
