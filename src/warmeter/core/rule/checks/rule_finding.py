"""A finding on a part of a rule's sentence, and what checks know of the home and its logs."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Literal

from warmeter.core.finding import Severity
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule, SetLevel, SetPoint, Step
from warmeter.core.rule.signals import NOISE

Check = Literal[
    "no hysteresis",
    "no wait",
    "nothing puts back",
    "contradiction",
    "acts on more",
    "crossing or state",
    "device without feedback",
    "no condition",
    "cold for who cannot bear it",
    "alarm swallowed",
    "answer without effect",
    "unsafe without an answer",
    "wrong thing shut",
    "short cycles",
    "other room",
    "never or always",
    "urgent but late",
    "circle",
    "clock change",
    "never received",
    "heating level for what cools",
    "step never comes",
    "door by presence",
    "dark on the way",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleFinding:
    """What a check says of a rule.

    Parameters
    ----------
    check : str
        Which one.
    severity : str
        How much it matters.
    rule_id, part : str
        The rule, and the blank of its sentence that it is about ("" for the whole).
    sentence : str
        What is so, in plain words.
    mend : str
        What would mend it, in the words of a button; empty where a person has to decide.
    mended : Home or None
        The home with it mended.
    """

    check: Check
    severity: Severity
    rule_id: str
    part: str
    sentence: str
    fix: str = ""
    fixed: Home | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What the logs say of the signals: their noise, and how long sensors of two states bounce [s].

    ``unheard`` are those of which the home's log has nothing at all, though it has a log. ``never`` tells in words, by rule, that its watch never held, or always did, over a long log. ``today`` is the date
    on which rules are looked at: its year's clock changes and its week's timetables count.
    """

    noise: Mapping[Signal, float] = field(default_factory=dict)
    bounce_s: Mapping[Signal, float] = field(default_factory=dict)
    unheard: frozenset[Signal] = frozenset()
    never: Mapping[str, str] = field(default_factory=dict)
    today: date = date(2026, 1, 15)

    def noise_of(self, signal: Signal) -> float:
        """Return a signal's noise: as measured, else as usual for its quantity."""
        return self.noise.get(signal, NOISE.get(signal.quantity, 0.0))


NO_EVIDENCE = Evidence()


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """A rule under check in its home, with the signals that the home has."""

    home: Home
    rule: Rule
    known: frozenset[Signal]
    evidence: Evidence = NO_EVIDENCE

    def fixed(self, rule: Rule) -> Home:
        """Return the home with the rule changed."""
        return replace(self.home, rules=tuple(rule if r.id == rule.id else r for r in self.home.rules))

    def finding(
        self,
        check: Check,
        part: str,
        sentence: str,
        *,
        severity: Severity = "warning",
        fix: str = "",
        rule: Rule | None = None,
        home: Home | None = None,
    ) -> RuleFinding:
        """Return a finding on this rule; ``rule`` or ``home`` is what the mend makes of it."""
        return RuleFinding(
            check=check,
            severity=severity,
            rule_id=self.rule.id,
            part=part,
            sentence=sentence,
            fix=fix,
            fixed=home if rule is None else self.fixed(rule),
        )

    def rooms_watched(self) -> set[str]:
        """Return the rooms that the watch looks at."""
        signals = [s for clause in self.rule.watch for c in clause for s in c.signals]
        return {room for signal in signals if (room := room_of(self.home, signal.subject_id)) is not None}

    def rooms_acted_on(self) -> set[str]:
        """Return the rooms of the zones, devices and heaters that the steps act on."""
        return {room for step in self.rule.then for room in rooms_of_step(self.home, step)}


def room_of(home: Home, part_id: str | None) -> str | None:
    """Return the room that a part is or stands in, None if it stands in none."""
    if any(room.id == part_id for room in home.rooms):
        return part_id
    rooms = {d.id: d.room_id for d in home.devices} | {h.id: h.room_id for h in home.heaters}
    return rooms.get(part_id or "")


def targets_of(step: Step) -> tuple[str, ...]:
    """Return the ids that a step acts on; a fact marked or a chain told is none."""
    if isinstance(step, SetLevel | SetPoint):
        return step.zone_ids
    return step.target_ids if step.kind in ("switch", "blinds", "dim", "timed_run", "shut_off") else ()


def rooms_of_step(home: Home, step: Step) -> set[str]:
    """Return the rooms that a step acts on."""
    if isinstance(step, SetLevel | SetPoint):
        return {room for zone in home.zones if zone.id in step.zone_ids for room in zone.room_ids}
    return {room for target in targets_of(step) if (room := room_of(home, target)) is not None}
