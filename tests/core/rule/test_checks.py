"""Findings on rules, each at the border between what is sound and what is not, in one small home."""

import unittest
from dataclasses import replace
from datetime import date

import numpy as np

from tests.homes import small_home
from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.devices import Device, SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.home.plant import Heater, SplitUnit
from warmeter.core.home.rules import (
    NotificationGroup,
    PutBack,
    Rule,
    RuleLimits,
    SetLevel,
    SetPoint,
    ShutOff,
    Switch,
    Tell,
)
from warmeter.core.home.timetables import ChangePoint, DayProfile, every_day
from warmeter.core.home.zones import Zone
from warmeter.core.rule.chatter import bounce_s
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import NO_EVIDENCE, Evidence, RuleFinding

MIN, H = 60, 3600
WINDOW = Signal(quantity="is_open", subject_id="window")
STUDY = Signal(quantity="room_temperature", subject_id="study")
LEAK = Signal(quantity="is_wet", subject_id="leak")
IDLE = SetLevel(zone_ids=("z-study",), level_id="idle")


def at(hour: float) -> int:
    return round(hour * 60)


def furnished() -> Home:
    """Return a study and a hall, heated from 05:00 and turned down at 22:00 and 20:00, with what rules look at."""
    home = small_home()
    study = home.rooms[0]
    return replace(
        home,
        rooms=(study, replace(study, id="hall", name="Hall")),
        zones=(
            *home.zones,
            Zone(
                id="z-hall",
                name="Hall",
                room_ids=("hall",),
                timetables=every_day(
                    "tt2",
                    ChangePoint(start_min=at(5), level_id="in-use"),
                    ChangePoint(start_min=at(20), level_id="asleep"),
                ),
            ),
        ),
        heaters=(
            *home.heaters,
            Heater(
                id="unit",
                room_id="hall",
                name="Hall unit",
                kind="split_unit",
                source_id="mains",
                rated_heat_w=2500.0,
                split=SplitUnit(cooling_w=2000.0),
            ),
        ),
        devices=(
            Device(id="window", name="Study window", kind="contact", room_id="study"),
            Device(id="leak", name="Hall leak sensor", kind="leak_sensor", room_id="hall"),
            Device(id="valve", name="Water valve", kind="water_valve", room_id="hall"),
            Device(id="plug", name="Study plug", kind="plug", room_id="study"),
            Device(id="lamp", name="Hall lamp", kind="lamp_switch", room_id="hall"),
        ),
        safety_chains=(SafetyChain(id="c", name="Water", kind="leak", device_ids=("leak", "valve")),),
        notification_groups=(
            NotificationGroup(id="all", name="Household", quiet_from_min=at(22), quiet_until_min=at(7)),
        ),
        appliances=(*home.appliances, Appliance(id="dry", name="Dehumidifier", kind="dehumidifier")),
    )


HOME = furnished()


def compared(value: float, hysteresis: float = 0.5, how: str = "over", quantity: str = "room_temperature") -> Compared:
    signal = Signal(quantity=quantity, subject_id="study")
    return Compared(of=signal, how=how, value=value, hysteresis=hysteresis)  # type: ignore[arg-type]


def by(condition: object, *steps: object, **parts: object) -> Rule:
    """Return a rule that watches one thing and, if nothing else is said, sets Idle until two hours later."""
    watch: Clauses = ((condition,),)  # type: ignore[assignment]
    base = Rule(id="r", name="GroupingOutcome", watch=watch, then=steps or (IDLE,), put_back=PutBack(after_s=2 * H))  # type: ignore[arg-type]
    return replace(base, **parts)  # type: ignore[arg-type]


OPENING = by(InState(of=WINDOW), for_s=120, put_back=PutBack(when=((InState(of=WINDOW, is_on=False),),), for_s=120))


HEATED_ONLY = replace(HOME, heaters=tuple(h for h in HOME.heaters if h.kind != "split_unit"))


class Checked(unittest.TestCase):
    def findings(self, rule: Rule, home: Home = HOME, evidence: Evidence = NO_EVIDENCE) -> list[RuleFinding]:
        """Return what is found on a rule at the end of a home's list, notes left out."""
        with_it = replace(home, rules=(*home.rules, rule))
        return [f for f in rule_findings(with_it, evidence) if f.rule_id == rule.id and f.severity != "note"]

    def sound(self, rule: Rule, home: Home = HOME, evidence: Evidence = NO_EVIDENCE) -> None:
        self.assertEqual(self.findings(rule, home, evidence), [])

    def fixed(self, rule: Rule, check: str, part: str, home: Home = HOME, evidence: Evidence = NO_EVIDENCE) -> Rule:
        """Return the rule as its one finding mends it, having seen that nothing is found any more."""
        found = self.findings(rule, home, evidence)
        self.assertEqual([(f.check, f.part) for f in found], [(check, part)])
        after = found[0].fixed
        assert after is not None, found[0]
        left = [f for f in rule_findings(after, evidence) if f.severity != "note"]
        self.assertEqual(left, [])
        return next(r for r in after.rules if r.id == rule.id)


class Watched(Checked):
    def test_hysteresis_is_three_times_the_noise_at_least(self) -> None:
        noisy = Evidence(noise={STUDY: 0.15})
        self.sound(by(compared(24.0, hysteresis=0.45)), evidence=noisy)
        wide = self.fixed(by(compared(24.0, hysteresis=0.44)), "no hysteresis", "watch.0.0.hysteresis", evidence=noisy)
        fixed = wide.watch[0][0]
        assert isinstance(fixed, Compared)
        self.assertAlmostEqual(fixed.hysteresis, 0.5)  # 0.45 rounded up to what is typed

    def test_a_put_back_from_the_other_side_is_a_hysteresis_too(self) -> None:
        noisy = Evidence(noise={STUDY: 0.2})
        near, far = (PutBack(when=((compared(value, 0.0, how="under"),),)) for value in (23.5, 23.4))
        self.sound(by(compared(24.0, 0.0), put_back=far), evidence=noisy)
        rule = by(compared(24.0, 0.0), put_back=near)
        back = self.fixed(rule, "no hysteresis", "when.0.0.value", evidence=noisy).put_back
        assert back is not None
        value = back.when[0][0]
        assert isinstance(value, Compared)
        self.assertAlmostEqual(value.value, 23.4)

    def test_an_opening_waits_as_long_as_its_contact_bounces(self) -> None:
        self.sound(OPENING)
        self.sound(replace(OPENING, for_s=60))
        self.assertEqual(self.fixed(replace(OPENING, for_s=59), "no wait", "for").for_s, 120)
        bad = Evidence(bounce_s={WINDOW: 150.0})
        found = self.findings(OPENING, evidence=bad)
        self.assertEqual([f.part for f in found], ["for", "back_for"])
        self.assertIn("bounces for up to 150 s", found[0].sentence)
        assert OPENING.put_back is not None
        self.sound(replace(OPENING, for_s=300, put_back=replace(OPENING.put_back, for_s=300)), evidence=bad)

    def test_a_clock_does_not_wait(self) -> None:
        strike = by(AtTime(at_min=at(8)), Tell(group_id="all"), put_back=None)
        self.sound(strike)
        self.assertEqual(self.fixed(replace(strike, for_s=60), "never or always", "for").for_s, 0)

    def test_a_clock_that_strikes_outside_its_hours_never_fires(self) -> None:
        for minute, sound in ((at(8), True), (at(12) - 1, True), (at(12), False), (at(7), False)):
            rule = by(
                AtTime(at_min=minute),
                Tell(group_id="all"),
                put_back=None,
                only_while=((Hours(from_min=at(8), until_min=at(12)),),),
            )
            with self.subTest(minute=minute):
                if sound:
                    self.sound(rule)
                else:
                    self.fixed(rule, "never or always", "only_while.0.0.from")

    def test_humidity_over_a_hundred_per_cent_never_holds(self) -> None:
        self.sound(by(compared(100.0, 5.0, quantity="relative_humidity")))
        wet = by(compared(101.0, 5.0, quantity="relative_humidity"))
        self.fixed(wet, "never or always", "watch.0.0.value")

    def test_water_is_answered_within_a_minute(self) -> None:
        leak = by(InState(of=LEAK), Tell(group_id="all"), kind="safety", put_back=None, for_s=60)
        self.sound(leak)
        self.assertEqual(self.fixed(replace(leak, for_s=61), "urgent but late", "for").for_s, 0)
        late = replace(leak, then=(Tell(group_id="all", wait_s=61),))
        self.assertEqual(self.fixed(late, "urgent but late", "then.0.wait").then[0].wait_s, 0)

    def test_a_crossing_before_its_hours_is_lost(self) -> None:
        rule = by(compared(26.0), only_while=((Hours(from_min=at(8), until_min=at(20)),),))
        self.assertEqual(self.fixed(rule, "crossing or state", "watch.0.0.how").reading, "is")


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
        told = [f for f in self.findings(OPENING, evidence=evidence) if f.check == "never heard"]
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
        self.assertEqual([(f.check, f.fix) for f in found], [("blind device", "")])  # nothing there to see it by
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


class AgainstTheTimetable(Checked):
    """The study is asleep at 16 until 07:00 and from 22:00 on, in use at 20 between."""

    def held(self, begin: float, asked_c: float, **back: object) -> Rule:
        step = SetPoint(zone_ids=("z-study",), value_c=asked_c)
        return by(AtTime(at_min=at(begin)), step, put_back=PutBack(**back))  # type: ignore[arg-type]

    def test_kept_low_over_the_turn_up(self) -> None:
        rule = self.held(5, 12.0, at_min=at(8))
        found = self.findings(rule)
        self.assertIn("In use at 07:00", found[0].sentence)
        back = self.fixed(rule, "contradiction", "back_at").put_back
        assert back is not None
        self.assertEqual((back.at_min, back.after_s), (at(7), None))

    def test_kept_high_over_the_turn_down(self) -> None:
        back = self.fixed(self.held(21, 22.0, after_s=90 * MIN), "contradiction", "back_after").put_back
        assert back is not None
        self.assertEqual((back.at_min, back.after_s), (at(22), None))

    def test_over_before_or_at_the_turn(self) -> None:
        self.sound(self.held(5, 12.0, at_min=at(7)))
        self.sound(self.held(5, 12.0, after_s=2 * H))
        self.sound(self.held(21, 22.0, at_min=at(22)))

    def test_the_same_way_as_the_timetable_is_no_contradiction(self) -> None:
        self.sound(self.held(5, 21.0, at_min=at(8)))  # warm earlier
        self.sound(self.held(21, 12.0, at_min=at(23)))  # turned down earlier

    def test_over_midnight(self) -> None:
        self.sound(self.held(23, 12.0, at_min=at(6.5)))
        self.fixed(self.held(23, 12.0, at_min=at(7.5)), "contradiction", "back_at")

    def test_only_on_its_weekdays(self) -> None:
        zone = HOME.zones[0]
        late = zone.timetables[0]
        tuesday = replace(
            HOME,
            zones=(
                replace(
                    zone,
                    timetables=(
                        replace(
                            late,
                            usual=(ChangePoint(start_min=0, level_id="asleep"),),
                            days=(_day("tue", at(7), "in-use"),),
                        ),
                    ),
                ),
                HOME.zones[1],
            ),
        )
        rule = self.held(5, 12.0, at_min=at(8))
        self.assertIn("Tuesday", self.findings(rule, tuesday)[0].sentence)
        self.sound(replace(rule, watch=((AtTime(at_min=at(5), weekdays=(0, 2, 3, 4, 5, 6)),),)), tuesday)

    def test_a_condition_may_outweigh_the_timetable(self) -> None:
        until_warm = PutBack(when=((compared(19.0),),), at_min=at(8))
        self.sound(by(AtTime(at_min=at(5)), SetPoint(zone_ids=("z-study",), value_c=12.0), put_back=until_warm))

    def test_a_level_that_no_timetable_of_the_zone_sets(self) -> None:
        rule = by(compared(26.0), reading="is")
        self.sound(replace(rule, only_while=((AtLevel(zone_id="z-study", level_ids=("idle", "asleep")),),)))
        never = replace(rule, only_while=((AtLevel(zone_id="z-study", level_ids=("idle",)),),))
        self.fixed(never, "never or always", "only_while.0.0.levels")


def _day(of: str, start_min: int, level_id: str) -> DayProfile:
    points = (ChangePoint(start_min=0, level_id="asleep"), ChangePoint(start_min=start_min, level_id=level_id))
    return DayProfile(of=of, points=points)


class People(Checked):
    def test_an_empty_room_asks_for_guests_and_for_the_night(self) -> None:
        away = InState(of=Signal(quantity="is_in", subject_id="study"), is_on=False)
        guests, awake = (Fact(word="guests are here", is_true=False),), (Hours(from_min=at(7), until_min=at(21)),)
        sound = by(away, for_s=1500, reading="is", only_while=(guests, awake))
        self.sound(sound)
        for left in ((guests,), (awake,), ()):
            fixed = self.fixed(replace(sound, only_while=left), "no guard", "watch.0.0.how")
            self.assertEqual({type(c) for clause in fixed.only_while for c in clause}, {Fact, Hours})

    def test_an_alarm_in_quiet_hours(self) -> None:
        leak = by(InState(of=LEAK), Tell(group_id="all"), put_back=None)
        self.assertEqual(self.fixed(leak, "alarm swallowed", "then.0.chain").kind, "safety")
        loud = replace(HOME, notification_groups=(replace(HOME.notification_groups[0], goes_through_quiet=True),))
        self.sound(leak, loud)
        warm = by(compared(28.0), Tell(group_id="all"), put_back=None)
        self.fixed(warm, "alarm swallowed", "then.0.chain")
        for minute, sound in ((at(7), True), (at(22) - 1, True), (at(22), False), (at(7) - 1, False)):
            strike = by(AtTime(at_min=minute), Tell(group_id="all"), put_back=None)
            with self.subTest(minute=minute):
                self.assertEqual(self.findings(strike) == [], sound)


class Clocks(Checked):
    def test_the_change_of_the_year_that_it_is(self) -> None:
        rule = by(AtTime(at_min=90), Tell(group_id="all"), put_back=PutBack(after_s=H))
        home = replace(HOME, rules=(rule,))
        for year, skipped, doubled in ((2026, "2026-03-29", "2026-10-25"), (2027, "2027-03-28", "2027-10-31")):
            told = [
                f.sentence for f in rule_findings(home, Evidence(today=date(year, 6, 1))) if f.check == "clock change"
            ]
            with self.subTest(year=year):
                self.assertEqual(len(told), 1)
                self.assertTrue(skipped in told[0] or doubled in told[0], told)
        for zone in ("UTC", "Asia/Tokyo"):
            self.assertEqual([f for f in rule_findings(replace(home, time_zone=zone)) if f.check == "clock change"], [])


class Bounce(unittest.TestCase):
    def lasts(self, *changes: float) -> float:
        """Return how long a contact bounces that is told every minute and changes at some seconds."""
        at = np.array(sorted({*changes, *range(0, 3600, 60)}), dtype=float)
        flips = np.searchsorted(np.array(changes), at, side="right")
        return bounce_s(at, (flips % 2).astype(float))

    def test_opened_and_shut_is_no_bounce(self) -> None:
        self.assertEqual(self.lasts(), 0.0)
        self.assertEqual(self.lasts(100), 0.0)
        self.assertEqual(self.lasts(100, 108), 0.0)
        self.assertEqual(self.lasts(100, 108, 900, 905), 0.0)

    def test_it_lasts_from_the_first_change_to_the_last(self) -> None:
        self.assertEqual(self.lasts(100, 101, 103), 3.0)
        self.assertEqual(self.lasts(100, 101, 103, 1000, 1010, 1020), 20.0)
        self.assertEqual(self.lasts(100, 111, 122), 0.0)  # more than ten seconds apart

    def test_what_is_not_known_does_not_change(self) -> None:
        at = np.arange(5.0)
        self.assertEqual(bounce_s(at, np.array([0, np.nan, 1, np.nan, 0.0])), 0.0)
        self.assertEqual(bounce_s(np.zeros(0), np.zeros(0)), 0.0)
