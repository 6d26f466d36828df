"""Commands on rules: write, fill a slot, add and take out parts, order, fix, tune, mark, suspend."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Annotated, Any

from annotated_types import Ge, Le, Len

from warmeter.core.edits import rule_edits
from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.rule_defaults import condition_of, step_of, unfilled_rule
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Condition
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, InstantMs, Name, TimeOfDay, Word
from warmeter.core.home.presets import LOUDNESS_LABEL, RULE_LABEL
from warmeter.core.home.rules import EventMark, Loudness, NotificationGroup, PutBack, Reading, Rule
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import Evidence
from warmeter.core.rule.parts import GONE, part_at, with_part, with_values
from warmeter.core.rule.release import put_back_of
from warmeter.core.rule.signals import looked_at, main_signal
from warmeter.core.rule.tuning import knobs_of
from warmeter.core.sentence import begun_small, sentence
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY

StepNumber = Annotated[int, Ge(0), Le(19)]


def _with_rule(home: Home, rule: Rule, words: str, fold: str = "") -> Edit:
    return Edit(rule_edits.with_rule(home, rule), f"{rule.name}: {words}", rule.id, fold)


@dataclass(frozen=True, slots=True, kw_only=True)
class WriteRule:
    """Begin a rule of one's own from its first words; it is silent until a person says that its slots are right."""

    now_ms: InstantMs
    name: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it, suspended."""
        rule = unfilled_rule(home, self.name or "New rule")
        why = "new; fill in its blanks, then end the suspension"
        added, rule = rule_edits.with_new_rule(home, rule_edits.suspended(rule, self.now_ms, None, "", why))
        return Edit(added, f"{rule.name} begun, suspended until its blanks are filled in", rule.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class FillSlot:
    """Set fields of the part of a rule at a path, as one slot of its sentence holds them."""

    rule_id: Id
    path: str
    values: Mapping[str, Any]
    words: str = "changed"

    def edit(self, home: Home) -> Edit:
        """Return the home with the slot filled."""
        return _with_rule(home, with_values(home.rule(self.rule_id), self.path, self.values), self.words)


@dataclass(frozen=True, slots=True, kw_only=True)
class LookAt:
    """Let a condition look at something else; ``condition`` is what it looks at then."""

    rule_id: Id
    path: str
    condition: Condition
    words: str = "changed"

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        return _with_rule(home, with_part(home.rule(self.rule_id), self.path, self.condition), self.words)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeVerb:
    """Say how a condition looks at its signal (over, rising, silent ...), and whether crossing or state is meant."""

    rule_id: Id
    path: str
    how: str
    reading: Reading | None = None
    words: str = "changed"

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed; its numbers stay where they still have a meaning."""
        rule = home.rule(self.rule_id)
        before: Any = part_at(rule, self.path)
        signal = main_signal(before)
        if signal is None:
            raise HomeError(GONE)
        changed = with_part(rule, self.path, looked_at(signal, self.how, before))
        changed = changed if self.reading is None else replace(changed, reading=self.reading)
        return _with_rule(home, changed, self.words)


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeOutPart:
    """Take a condition or step out of a rule, or with ``field`` one field of a part."""

    rule_id: Id
    path: str
    field: str = ""
    words: str = "a part removed"

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        rule = home.rule(self.rule_id)
        changed = with_values(rule, self.path, {self.field: None}) if self.field else with_part(rule, self.path, None)
        return _with_rule(home, changed, self.words)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddRulePart:
    """Add a part to a rule's sentence: a condition, a step (``step:tell``), or what puts it back."""

    rule_id: Id
    what: Word
    step: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it added, filled by something usual."""
        rule = home.rule(self.rule_id)
        kind, _, step_kind = self.what.partition(":")
        if kind == "step":
            step_kind = step_kind or self.step
            home, group = rule_edits.first_chain(home) if step_kind in ("tell", "ask") else (home, None)
            step = step_of(home, step_kind, group.id if group else "")
            return _with_rule(home, replace(rule, then=(*rule.then, step)), "a step more")
        if kind not in _ADDED:
            raise HomeError("there is no such part of a sentence")
        words, added = _ADDED[kind]
        return _with_rule(home, added(home, rule), words)


def _with_put_back(_: Home, rule: Rule) -> Rule:
    usual = put_back_of(rule)
    if rule.put_back is None:
        return replace(rule, put_back=usual)
    return replace(rule, put_back=replace(rule.put_back, when=usual.when or rule.put_back.when))


def _back_at_the_latest(**values: Any) -> Callable[[Home, Rule], Rule]:
    def added(_: Home, rule: Rule) -> Rule:
        back = PutBack(**values) if rule.put_back is None else replace(rule.put_back, **values)
        return replace(rule, put_back=back)

    return added


def _clause(part: Any, key: str, *, is_or: bool = False) -> Callable[[Home, Rule], Rule]:
    def added(home: Home, rule: Rule) -> Rule:
        condition = rule.watch[-1][-1] if part == "watch" else condition_of(home, key)
        return rule_edits.with_added(rule, part, condition, is_or=is_or)

    return added


_ADDED: dict[str, tuple[str, Callable[[Home, Rule], Rule]]] = {
    "watch": ("and …", _clause("watch", "")),
    "watch_or": ("or …", _clause("watch", "", is_or=True)),
    "only_while": ("only while …", _clause("only_while", "hours")),
    "only_while_or": ("or while …", _clause("only_while", "hours", is_or=True)),
    "as_long_as": ("as long as …", _clause("as_long_as", "hours")),
    "put_back": ("put back when …", _with_put_back),
    "back_after": ("put back after …", _back_at_the_latest(after_s=1800)),
    "back_at": ("put back at …", _back_at_the_latest(at_min=420)),
    "back_or": ("or put back when …", _clause("when", "statement", is_or=True)),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeRule:
    """Change a rule's name, intent or kind."""

    rule_id: Id
    values: Annotated[Values, FieldsOf(Rule, ("name", "intent", "kind"))]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        rule = home.rule(self.rule_id)
        changed = replace(rule, **self.values)
        words = f"is a {RULE_LABEL[changed.kind]}" if changed.kind != rule.kind else "name and intent"
        return _with_rule(home, changed, words, f"name-{rule.id}")


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRule:
    """Move a rule up or down in the list: the higher of its kind holds."""

    rule_id: Id
    by: Annotated[int, Ge(-500), Le(500)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        changed = rule_edits.with_rule_moved(home, self.rule_id, self.by)
        words = f"{home.rule(self.rule_id).name}: {'higher' if self.by < 0 else 'lower'} in the list"
        return Edit(changed, words, self.rule_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveStep:
    """Move a step earlier or later in its rule."""

    rule_id: Id
    number: StepNumber
    by: Annotated[int, Ge(-19), Le(19)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        rule = home.rule(self.rule_id)
        part_at(rule, f"then.{self.number}")
        return _with_rule(home, rule_edits.with_step_moved(rule, self.number, self.by), "order of its steps")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddWait:
    """Give a step a wait of ten minutes, so that its slot appears."""

    rule_id: Id
    number: StepNumber

    def edit(self, home: Home) -> Edit:
        """Return the home with it waiting."""
        changed = with_values(home.rule(self.rule_id), f"then.{self.number}", {"wait_s": 600})
        return _with_rule(home, changed, "a wait before a step")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveRule:
    """Remove a rule."""

    rule_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        name = home.rule(self.rule_id).name
        return Edit(rule_edits.without_rule(home, self.rule_id), f"{name} removed", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class AcceptFix:
    """Do what a check of a rule proposes, by what the logs say."""

    rule_id: Id
    check: str
    part: str = ""
    evidence: Evidence = field(default_factory=Evidence)

    def edit(self, home: Home) -> Edit:
        """Return the home with it done."""
        rule = home.rule(self.rule_id)
        for finding in rule_findings(home, self.evidence):
            is_it = (finding.rule_id, finding.check, finding.part) == (rule.id, self.check, self.part)
            if is_it and finding.fixed is not None:
                return Edit(finding.fixed, sentence("{}: {}", rule.name, begun_small(finding.fix)), rule.id)
        raise HomeError("this finding is not there any more; look at the page again")


@dataclass(frozen=True, slots=True, kw_only=True)
class TuneRule:
    """Put the two numbers of a point of the error map into their slots."""

    rule_id: Id
    up: Word
    up_value: Annotated[float, Ge(-1e6), Le(1e6)]
    across: Word
    across_value: Annotated[float, Ge(-1e6), Le(1e6)]

    def edit(self, home: Home) -> Edit:
        """Return the home with both set."""
        rule, names = home.rule(self.rule_id), []
        for key, value in ((self.up, self.up_value), (self.across, self.across_value)):
            knob = next((knob for knob in knobs_of(rule) if knob.key == key), None)
            if knob is None:
                raise HomeError("this blank is not there any more; look at the page again")
            rule = knob.set_in(rule, value)
            names.append(knob.name)
        return _with_rule(home, rule, f"{' and '.join(names)} taken from the map")


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkEvent:
    """Mark a stretch of the log as what a rule should have caught; marks that it touches go."""

    rule_id: Id
    start_day: date
    start_time: TimeOfDay
    end_day: date
    end_time: TimeOfDay

    def edit(self, home: Home) -> Edit:
        """Return the home with it marked."""
        rule, clock = home.rule(self.rule_id), LocalClock(home.time_zone)
        ends = clock.instant(self.start_day, self.start_time), clock.instant(self.end_day, self.end_time)
        mark = EventMark(start_ms=ends[0], end_ms=ends[1])
        apart = (m for m in rule.marks if m.end_ms <= mark.start_ms or m.start_ms >= mark.end_ms)
        marks = tuple(sorted((*apart, mark), key=lambda m: m.start_ms))
        return _with_rule(home, replace(rule, marks=marks), "an event marked that it should have caught")


@dataclass(frozen=True, slots=True, kw_only=True)
class UnmarkEvent:
    """Take a mark out."""

    rule_id: Id
    start_ms: InstantMs

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        rule = home.rule(self.rule_id)
        left = tuple(m for m in rule.marks if m.start_ms != self.start_ms)
        return _with_rule(home, replace(rule, marks=left), "a mark removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeNotificationGroup:
    """Add people who are told, or change how they are."""

    name: Name
    loudness: Loudness
    group_id: Word = ""
    quiet_from: TimeOfDay | None = None
    quiet_until: TimeOfDay | None = None
    through: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with them."""
        if (self.quiet_from is None) != (self.quiet_until is None):
            raise HomeError("quiet hours need a beginning and an end; leave both empty for none")
        group = NotificationGroup(
            id=self.group_id or new_id(),
            name=self.name,
            loudness=self.loudness,
            quiet_from_min=None if self.quiet_from is None else self.quiet_from % MIN_PER_DAY,
            quiet_until_min=None if self.quiet_until is None else self.quiet_until % MIN_PER_DAY,
            goes_through_quiet=self.through,
        )
        return Edit(rule_edits.with_chain(home, group), f"{group.name} is told {LOUDNESS_LABEL[group.loudness]}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveNotificationGroup:
    """Take people out who are told; rules that tell them have a finding."""

    group_id: Word

    def edit(self, home: Home) -> Edit:
        """Return the home without them."""
        group = next((g for g in home.notification_groups if g.id == self.group_id), None)
        if group is None:
            raise HomeError("there is no such group any more")
        left = tuple(g for g in home.notification_groups if g != group)
        return Edit(replace(home, notification_groups=left), f"{group.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class SuspendRule:
    """Silence a rule until a time on the home's clock, or until a person ends it."""

    rule_id: Id
    now_ms: InstantMs
    why: Annotated[str, Len(1, 400)]
    until_day: date | None = None
    until_time: TimeOfDay = 420
    by: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it silent."""
        clock = LocalClock(home.time_zone)
        until_ms = None if self.until_day is None else clock.instant(self.until_day, self.until_time)
        rule = rule_edits.suspended(home.rule(self.rule_id), self.now_ms, until_ms, self.by, self.why)
        return _with_rule(home, rule, "suspended")


@dataclass(frozen=True, slots=True, kw_only=True)
class ResumeRule:
    """End a rule's suspension."""

    rule_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with it working."""
        return _with_rule(home, replace(home.rule(self.rule_id), suspended=None), "works again")
