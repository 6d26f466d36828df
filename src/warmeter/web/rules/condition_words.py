"""Conditions of a rule in words, with their slots."""

from collections.abc import Callable
from dataclasses import replace

from warmeter.core.edits.rule_defaults import condition_of
from warmeter.core.home.document import Home
from warmeter.core.home.rule_conditions import (
    AtLevel,
    Compared,
    Condition,
    Happens,
    InState,
    MachineDoes,
    Moving,
    RanToday,
    Signal,
    Silent,
)
from warmeter.core.home.rule_conditions import Sequence as InSequence
from warmeter.core.home.rules import Rule
from warmeter.core.rule.parts import ConditionPlace, Part, clauses_of, with_condition
from warmeter.core.rule.signals import is_two_states
from warmeter.web.rules.clock_words import say_clock
from warmeter.web.rules.fact_words import say_fact
from warmeter.web.rules.signal_words import minus_slot, say_signal
from warmeter.web.rules.slot_types import GONE, seconds_slot
from warmeter.web.rules.slots import Sentence, Slot, one_of
from warmeter.web.rules.wording import RuleWording


def say_clauses(told: Sentence, wording: RuleWording, part: Part) -> None:
    """Add a part's clauses, with *and* and *or* between."""
    for number, clause in enumerate(clauses_of(wording.rule, part)):
        if number:
            told.say("and")
        for place, condition in enumerate(clause):
            if place:
                told.say("or")
            _say(told, wording, ConditionPlace(part, number, place), condition)


def _say(told: Sentence, wording: RuleWording, place: ConditionPlace, condition: Condition) -> None:
    """Add a condition with its slots."""
    home, rule = wording.home, wording.rule
    key = place.key
    removal = None
    if not place.sub or place.sub == "unless":
        without = _without(rule, place)
        removal = without

    def put(condition: Condition) -> Rule:
        return with_condition(rule, place, condition)

    def first_slot(text: str) -> Slot:
        options = (
            wording.names.subjects if place.sub else (*wording.names.subjects, ("sequence", "one thing, then another"))
        )
        return Slot(
            id=f"{key}.of",
            text=text,
            title="what is looked at",
            kind="choice",
            value=_subject_key(condition),
            options=options,
            change=lambda fields: put(_subject_chosen(home, condition, one_of(options, fields.texts.get("value", "")))),
            removal=removal,
            is_wrong=text == GONE,
        )

    if isinstance(condition, Compared | Moving | InState | Silent):
        told.leave(first_slot(wording.names.name(condition.of)))
        if isinstance(condition, Compared | Moving) and condition.minus is not None:
            told.say("less")
            told.leave(minus_slot(wording, key, condition, put))
        say_signal(told, wording, place, condition, put)
        return
    if isinstance(condition, InSequence):
        _say_sequence(told, wording, place, condition, first_slot)
        return
    if not say_clock(told, key, condition, put, first_slot):
        say_fact(told, home, key, condition, put, first_slot)


def _without(rule: Rule, place: ConditionPlace) -> Rule | None:
    """Return the rule without a condition, None where something must stand."""
    if place.part == "watch" and not place.sub and len([c for clause in rule.watch for c in clause]) == 1:
        return None
    return with_condition(rule, place, None)


def _subject_key(condition: Condition) -> str:
    if isinstance(condition, Compared | Moving | InState | Silent):
        return f"signal:{condition.of.quantity}:{condition.of.subject_id or ''}"
    if isinstance(condition, MachineDoes):
        return f"machine:{condition.appliance_id}"
    if isinstance(condition, RanToday):
        return f"ran:{condition.appliance_id}"
    if isinstance(condition, AtLevel):
        return f"level:{condition.zone_id}"
    if isinstance(condition, Happens):
        return f"button:{condition.subject_id}" if condition.event == "button" else "statement"
    return condition.kind


def _subject_chosen(home: Home, before: Condition, key: str) -> Condition:
    """Return the condition on what was chosen; the same kind of signal keeps verb and numbers."""
    if key == _subject_key(before):
        return before
    kind, _, rest = key.partition(":")
    if kind == "machine" and isinstance(before, MachineDoes):
        return replace(before, appliance_id=rest)
    if kind == "ran" and isinstance(before, RanToday):
        return replace(before, appliance_id=rest)
    if kind == "signal":
        quantity, _, subject = rest.partition(":")
        signal = Signal(quantity=quantity, subject_id=subject or None)
        if isinstance(before, InState) and is_two_states(signal):
            return replace(before, of=signal)
        if isinstance(before, Compared | Moving) and before.of.quantity == quantity:
            return replace(before, of=signal)
        if isinstance(before, Silent):
            return replace(before, of=signal)
    return condition_of(home, key)


def _say_sequence(
    told: Sentence, wording: RuleWording, place: ConditionPlace, c: InSequence, first_slot: Callable[[str], Slot]
) -> None:
    rule = wording.rule

    def put(changed: InSequence) -> Rule:
        return with_condition(rule, place, changed)

    told.leave(first_slot("first"))
    _say(told, wording, replace(place, sub="first"), c.first)
    told.say("then")
    _say(told, wording, replace(place, sub="then"), c.then)
    told.say("within")
    told.leave(
        seconds_slot(f"{place.key}.within", "within how long", c.within_s, lambda s: put(replace(c, within_s=s)))
    )
    if c.unless is not None:
        told.say("unless")
        _say(told, wording, replace(place, sub="unless"), c.unless)
        told.say("within")
        told.leave(
            seconds_slot(
                f"{place.key}.cancel",
                "within how long after that",
                c.cancel_s or 0,
                lambda s: put(replace(c, cancel_s=s)),
            )
        )
        told.say("after that")
