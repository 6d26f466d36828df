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
from warmeter.core.rule.parts import ConditionPlace, Part, clauses_of
from warmeter.core.rule.signals import is_two_states
from warmeter.web.rules.clock_words import say_clock
from warmeter.web.rules.fact_words import say_fact
from warmeter.web.rules.signal_words import minus_slot, say_signal
from warmeter.web.rules.slot_types import GONE, Subject, seconds_slot
from warmeter.web.rules.slots import Removal, Sentence, Slot
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
    path, subjects = place.path, wording.names.subjects
    options = subjects if place.sub else (*subjects, ("sequence", "one thing, then another"))

    def first_slot(text: str) -> Slot:
        return Slot(
            id=f"{path}.of",
            text=text,
            title="what is looked at",
            kind="choice",
            value=_subject_key(condition),
            options=options,
            path=path,
            type=Subject(options),
            removal=_removal(wording.rule, place),
            is_wrong=text == GONE,
        )

    if isinstance(condition, Compared | Moving | InState | Silent):
        told.leave(first_slot(wording.names.name(condition.of)))
        if isinstance(condition, Compared | Moving) and condition.minus is not None:
            told.say("less")
            told.leave(minus_slot(wording, path, condition))
        say_signal(told, wording, place, condition)
    elif isinstance(condition, InSequence):
        _say_sequence(told, wording, place, condition, first_slot)
    elif not say_clock(told, path, condition, first_slot):
        say_fact(told, wording.home, path, condition, first_slot)


def _removal(rule: Rule, place: ConditionPlace) -> Removal | None:
    """Return what goes with a condition, None where something must stand."""
    is_last_watch = place.part == "watch" and sum(len(clause) for clause in rule.watch) == 1
    if place.sub in ("first", "then") or (is_last_watch and not place.sub):
        return None
    return Removal(place.path)


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


def condition_on(home: Home, before: Condition, key: str) -> Condition:
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
    path = place.path
    told.leave(first_slot("first"))
    _say(told, wording, replace(place, sub="first"), c.first)
    told.say("then")
    _say(told, wording, replace(place, sub="then"), c.then)
    told.say("within")
    told.leave(seconds_slot(f"{path}.within", "within how long", c.within_s, path, "within_s"))
    if c.unless is not None:
        told.say("unless")
        _say(told, wording, replace(place, sub="unless"), c.unless)
        told.say("within")
        title = "within how long after that"
        told.leave(seconds_slot(f"{path}.cancel", title, c.cancel_s or 0, path, "cancel_s"))
        told.say("after that")
