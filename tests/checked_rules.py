"""A furnished home and its rules as the checks see them, for tests."""

import unittest
from dataclasses import replace

from tests.homes import small_home
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.devices import Device, SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.home.plant import Heater, SplitUnit
from warmeter.core.home.rules import NotificationGroup, PutBack, Rule, SetLevel
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import Zone
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import NO_EVIDENCE, Evidence, RuleFinding

MIN, H = 60, 3600


WINDOW = Signal(quantity="is_open", subject_id="window")


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
