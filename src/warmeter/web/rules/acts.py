"""What can be done on the rules page, one act a form: read, change, and a sentence for the revision."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from warmeter.core.edits import rule_edits
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.rule_defaults import condition_of, step_of, unfilled_rule
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.rules import EventMark, NotificationGroup, PutBack, Rule, RuleKind
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import Evidence
from warmeter.core.rule.release import put_back_of
from warmeter.core.rule.tuning import knobs_of
from warmeter.core.starters.catalogue import started
from warmeter.core.starters.openings import with_drop
from warmeter.core.timegrid import LocalClock
from warmeter.web import format as show
from warmeter.web.forms import Fields
from warmeter.web.rules.notifications_view import LOUD
from warmeter.web.rules.sentence import KINDS, limits_of, sentence_of
from warmeter.web.rules.slots import Slot
from warmeter.web.rules.wording import rule_wording
from warmeter.web.survey.acting import Act, Done, done_or_refuse

NAME_MOST = 80


def _rule(home: Home, fields: Fields) -> Rule:
    return home.rule(fields.texts.get("rule", ""))


def slots_of(home: Home, rule: Rule) -> dict[str, Slot]:
    """Return every slot of a rule by its id."""
    wording = rule_wording(home, rule)
    return {b.id: b for part in (sentence_of(wording, is_open=True), limits_of(wording)) for b in part.slots}


def _slot(home: Home, fields: Fields) -> Slot:
    found = slots_of(home, _rule(home, fields)).get(fields.texts.get("slot", ""))
    if found is None:
        raise HomeError("this part of the sentence is not there any more; look at the page again")
    return found


def _saved(home: Home, rule: Rule, words: str, fold: str = "") -> Done:
    return Done(rule_edits.with_rule(home, rule), f"{rule.name}: {words}", at=rule.id, fold=fold)


def _fill(home: Home, fields: Fields) -> Done:
    slot = _slot(home, fields)
    changed = slot.change(fields)
    done_or_refuse(fields)
    now = slots_of(rule_edits.with_rule(home, changed), changed).get(slot.id)
    words = f"{slot.title} is {now.text} (was {slot.text})" if now else f"{slot.title} changed"
    return _saved(home, changed, words)


def _take_out(home: Home, fields: Fields) -> Done:
    slot = _slot(home, fields)
    if slot.removal is None:
        raise HomeError("this part of the sentence must stand; change it, or remove the whole rule")
    return _saved(home, slot.removal, f"{slot.text} taken out")


def _add(home: Home, fields: Fields) -> Done:
    rule, what = _rule(home, fields), fields.texts.get("what", "")
    kind, _, rest = what.partition(":")
    if kind == "step":
        rest = rest or fields.texts.get("step", "")
        with_chain, chain = rule_edits.first_chain(home) if rest == "tell" else (home, None)
        step = step_of(with_chain, rest, chain.id if chain else "")
        return _saved(with_chain, replace(rule, then=(*rule.then, step)), "a step more")
    made = _ADDED.get(kind)
    if made is None:
        raise HomeError("there is no such part of a sentence")
    return _saved(home, made(home, rule), _ADDED_WORDS.get(kind, "a part more"))


def _with_put_back(rule: Rule) -> Rule:
    usual = put_back_of(rule)
    if rule.put_back is None:
        return replace(rule, put_back=usual)
    return replace(rule, put_back=replace(rule.put_back, when=usual.when or rule.put_back.when))


def _later(rule: Rule, **parts: Any) -> Rule:
    return replace(rule, put_back=PutBack(**parts) if rule.put_back is None else replace(rule.put_back, **parts))


_ADDED: dict[str, Callable[[Home, Rule], Rule]] = {
    "watch": lambda _, rule: rule_edits.with_added(rule, "watch", rule.watch[-1][-1]),
    "watch_or": lambda _, rule: rule_edits.with_added(rule, "watch", rule.watch[-1][-1], is_or=True),
    "only_while": lambda home, rule: rule_edits.with_added(rule, "only_while", condition_of(home, "hours")),
    "only_while_or": lambda home, rule: rule_edits.with_added(
        rule, "only_while", condition_of(home, "hours"), is_or=True
    ),
    "as_long_as": lambda home, rule: rule_edits.with_added(rule, "as_long_as", condition_of(home, "hours")),
    "put_back": lambda _, rule: _with_put_back(rule),
    "back_after": lambda _, rule: _later(rule, after_s=1800),
    "back_at": lambda _, rule: _later(rule, at_min=420),
    "back_or": lambda home, rule: rule_edits.with_added(rule, "when", condition_of(home, "statement"), is_or=True),
}
_ADDED_WORDS = {
    "watch": "and …",
    "watch_or": "or …",
    "only_while": "only while …",
    "only_while_or": "or while …",
    "as_long_as": "as long as …",
    "put_back": "put back when …",
    "back_after": "put back after …",
    "back_at": "put back at …",
    "back_or": "or put back when …",
}


def _new(home: Home, fields: Fields) -> Done:
    """Begin a rule of one's own from its first words; it is silent until a person says that its slots are right."""
    rule = unfilled_rule(home, fields.text("name", most=NAME_MOST) or "New rule")
    now = fields.whole("now_ms", 0, 2**53)
    done_or_refuse(fields)
    rule = rule_edits.suspended(rule, now, None, "", "new; fill in its blanks, then end the suspension")
    added, rule = rule_edits.with_new_rule(home, rule)
    return Done(added, f"{rule.name} begun, suspended until its blanks are filled in", at=rule.id)


def starter_act(drop_of: Callable[[Home, str], float | None]) -> Act:
    """Return the act that begins a rule from a starter; ``drop_of`` tells from which fall an opening of a room shows in its log."""

    def begin(home: Home, fields: Fields) -> Done:
        starter, place = fields.texts.get("starter", ""), fields.texts.get("place", "")
        with_chain, rule = started(home, starter, fields.texts.get("strategy", "usual"), place)
        drop_k = drop_of(home, place) if starter == "drop" else None
        if drop_k is not None:
            rule = with_drop(rule, drop_k)
        added, rule = rule_edits.with_new_rule(with_chain, rule)
        return Done(added, f"{rule.name} written", at=rule.id)

    return begin


def _name(home: Home, fields: Fields) -> Done:
    rule = _rule(home, fields)
    name = fields.text("name", least=1, most=NAME_MOST, what="A name") if "name" in fields.texts else rule.name
    intent = fields.text("intent", most=400) if "intent" in fields.texts else rule.intent
    kind: RuleKind = next((k for k in KINDS if k == fields.texts.get("kind")), rule.kind)
    done_or_refuse(fields)
    changed = replace(rule, name=name, intent=intent, kind=kind)
    return _saved(home, changed, f"is a {KINDS[kind]}" if kind != rule.kind else "name and intent", f"name-{rule.id}")


def _move(home: Home, fields: Fields) -> Done:
    rule, by = _rule(home, fields), fields.whole("by", -500, 500)
    done_or_refuse(fields)
    return Done(
        rule_edits.with_rule_moved(home, rule.id, by),
        f"{rule.name}: {'higher' if by < 0 else 'lower'} in the list",
        at=rule.id,
    )


def _step_order(home: Home, fields: Fields) -> Done:
    rule, number = _rule(home, fields), fields.whole("number", 0, 19)
    by = fields.whole("by", -19, 19)
    done_or_refuse(fields)
    if number >= len(rule.then):
        raise HomeError("this step is not there any more; look at the page again")
    return _saved(home, rule_edits.with_step_moved(rule, number, by), "order of its steps")


def _wait(home: Home, fields: Fields) -> Done:
    """Give a step a wait, so that its slot appears."""
    rule, number = _rule(home, fields), fields.whole("number", 0, 19)
    done_or_refuse(fields)
    if number >= len(rule.then):
        raise HomeError("this step is not there any more; look at the page again")
    return _saved(
        home, rule_edits.with_step(rule, number, replace(rule.then[number], wait_s=600)), "a wait before a step"
    )


def _delete(home: Home, fields: Fields) -> Done:
    rule = _rule(home, fields)
    return Done(rule_edits.without_rule(home, rule.id), f"{rule.name} removed", at="")


def fix_act(evidence: Evidence) -> Act:
    """Return the act that accepts what a check proposes, by what the logs say."""

    def fix(home: Home, fields: Fields) -> Done:
        rule = _rule(home, fields)
        key = fields.texts.get("check", ""), fields.texts.get("part", "")
        findings = rule_findings(home, evidence)
        found = next((f for f in findings if f.rule_id == rule.id and (f.check, f.part) == key and f.fixed), None)
        if found is None or found.fixed is None:
            raise HomeError("this finding is not there any more; look at the page again")
        fix = show.in_home_unit(found.fix, home)
        return Done(found.fixed, f"{rule.name}: {fix[0].lower()}{fix[1:]}", at=rule.id)

    return fix


def _tune(home: Home, fields: Fields) -> Done:
    """Put the two numbers of a map's point into their slots."""
    rule = _rule(home, fields)
    words = []
    for name in ("up", "across"):
        knob = next((k for k in knobs_of(rule) if k.key == fields.texts.get(name)), None)
        if knob is None:
            raise HomeError("this blank is not there any more; look at the page again")
        value = fields.number(f"{name}_value", -1e6, 1e6)
        done_or_refuse(fields)
        rule = knob.change(rule, value)
        words.append(knob.name)
    return _saved(home, rule, f"{' and '.join(words)} taken from the map")


def _mark(home: Home, fields: Fields) -> Done:
    """Mark a stretch of the log as what the rule should have caught."""
    rule, clock, ends = _rule(home, fields), LocalClock(home.time_zone), []
    for end in ("start", "end"):
        on, minute = fields.day(f"{end}_day"), fields.clock(f"{end}_time")
        if on is None:
            fields.errors[f"{end}_day"] = "A date is missing here"
            continue
        ends.append(clock.instant(on, minute))
    done_or_refuse(fields)
    mark = EventMark(start_ms=ends[0], end_ms=ends[1])
    kept = tuple(m for m in rule.marks if m.end_ms <= mark.start_ms or m.start_ms >= mark.end_ms)
    marks = tuple(sorted((*kept, mark), key=lambda m: m.start_ms))
    return _saved(home, replace(rule, marks=marks), "an event marked that it should have caught")


def _unmark(home: Home, fields: Fields) -> Done:
    rule, start = _rule(home, fields), fields.whole("start_ms", 0, 2**53)
    done_or_refuse(fields)
    return _saved(home, replace(rule, marks=tuple(m for m in rule.marks if m.start_ms != start)), "a mark taken out")


def _chain(home: Home, fields: Fields) -> Done:
    """Add a chain to tell, or change one."""
    name = fields.text("name", least=1, what="A name")
    loudness = fields.choice("loudness", LOUD)
    ends = [fields.clock(n) if fields.texts.get(n, "").strip() else None for n in ("quiet_from", "quiet_until")]
    if (ends[0] is None) != (ends[1] is None):
        fields.errors["quiet_from"] = "Quiet hours need a beginning and an end; leave both empty for none"
    done_or_refuse(fields)
    chain = NotificationGroup(
        id=fields.texts.get("chain") or new_id(),
        name=name,
        loudness=next(key for key in LOUD if key == loudness),
        quiet_from_min=None if ends[0] is None else ends[0] % 1440,
        quiet_until_min=None if ends[1] is None else ends[1] % 1440,
        goes_through_quiet=fields.is_on("through"),
    )
    return Done(rule_edits.with_chain(home, chain), f"{name} is told {LOUD[chain.loudness]}")


def _chain_out(home: Home, fields: Fields) -> Done:
    """Take a chain out; rules that tell it have a finding."""
    chain = next((c for c in home.notification_groups if c.id == fields.texts.get("chain")), None)
    if chain is None:
        raise HomeError("there is no such chain any more")
    return Done(
        replace(home, notification_groups=tuple(c for c in home.notification_groups if c != chain)),
        f"{chain.name} taken out",
    )


def _suspend(home: Home, fields: Fields) -> Done:
    rule, clock = _rule(home, fields), LocalClock(home.time_zone)
    now = fields.whole("now_ms", 0, 2**53)
    on, minute = fields.day("until_day"), fields.clock("until_time", 420)
    why = fields.text("why", least=1, most=400, what="Why")
    done_or_refuse(fields)
    until = None if on is None else clock.instant(on, minute)
    by = fields.texts.get("by", "")
    return _saved(home, rule_edits.suspended(rule, now, until, by, why), "suspended")


def _resume(home: Home, fields: Fields) -> Done:
    return _saved(home, replace(_rule(home, fields), suspended=None), "works again")


ACTS: Mapping[str, Act] = {
    "new": _new,
    "fill": _fill,
    "take-out": _take_out,
    "add": _add,
    "name": _name,
    "move": _move,
    "step-order": _step_order,
    "wait": _wait,
    "delete": _delete,
    "chain": _chain,
    "chain-out": _chain_out,
    "tune": _tune,
    "mark": _mark,
    "unmark": _unmark,
    "suspend": _suspend,
    "resume": _resume,
}
