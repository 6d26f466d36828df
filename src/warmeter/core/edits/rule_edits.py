"""Changing a home's rules: conditions, steps and places in the list, each change a whole new home."""

from collections.abc import Sequence
from dataclasses import replace
from typing import TypeVar

from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Condition
from warmeter.core.home.document import Home
from warmeter.core.home.rules import NotificationGroup, Rule, Suspension
from warmeter.core.rule.parts import Part, clauses_of, with_clauses

_T = TypeVar("_T")
MOST_RULES = 500


def with_added(rule: Rule, part: Part, condition: Condition, *, is_or: bool = False) -> Rule:
    """Return a rule with a condition added to a part: as a clause of its own, or as an *or* to the last clause."""
    clauses = clauses_of(rule, part)
    if is_or and clauses:
        return with_clauses(rule, part, (*clauses[:-1], (*clauses[-1], condition)))
    return with_clauses(rule, part, (*clauses, (condition,)))


def with_step_moved(rule: Rule, number: int, by: int) -> Rule:
    """Return a rule with a step earlier or later in its order."""
    return replace(rule, then=tuple(_moved(rule.then, number, by)))


def _moved(parts: Sequence[_T], number: int, by: int) -> list[_T]:
    found = list(parts)
    found.insert(min(max(number + by, 0), len(parts) - 1), found.pop(number))
    return found


def with_rule(home: Home, rule: Rule) -> Home:
    """Return a home with a rule changed."""
    home.rule(rule.id)
    return replace(home, rules=swapped(home.rules, rule))


def with_new_rule(home: Home, rule: Rule) -> tuple[Home, Rule]:
    """Return a home with a rule added under a fresh id, safety first, then window locks, then the others; and the rule.

    Raises
    ------
    HomeError
        If the home has as many rules as it may.
    """
    if len(home.rules) >= MOST_RULES:
        raise HomeError(f"a home has {MOST_RULES} rules at most; remove one first")
    fresh = replace(rule, id=new_id(), name=_free_name(home, rule.name))
    order = ("safety", "window_lock", "rule")
    place = sum(order.index(each.kind) <= order.index(rule.kind) for each in home.rules)
    return replace(home, rules=(*home.rules[:place], fresh, *home.rules[place:])), fresh


def _free_name(home: Home, name: str) -> str:
    taken = {rule.name for rule in home.rules}
    number = 2
    free = name
    while free in taken:
        free = f"{name} {number}"
        number += 1
    return free[:80]


def without_rule(home: Home, rule_id: str) -> Home:
    """Return a home without a rule."""
    home.rule(rule_id)
    return replace(home, rules=tuple(each for each in home.rules if each.id != rule_id))


def with_rule_moved(home: Home, rule_id: str, by: int) -> Home:
    """Return a home with a rule higher or lower in the list: the higher of its kind holds."""
    number = home.rules.index(home.rule(rule_id))
    return replace(home, rules=tuple(_moved(home.rules, number, by)))


def suspended(rule: Rule, from_ms: int, until_ms: int | None, by: str, why: str) -> Rule:
    """Return a rule that is silent until an instant, or until a person ends it.

    Raises
    ------
    HomeError
        If it is a safety rule, or would be silent for no time.
    """
    if rule.kind == "safety":
        raise HomeError("a safety rule cannot be suspended; remove it, or change what it does")
    if until_ms is not None and until_ms <= from_ms:
        raise HomeError("a rule is suspended until a time after now")
    return replace(rule, suspended=Suspension(from_ms=from_ms, until_ms=until_ms, by=by[:80], why=why[:400]))


def with_chain(home: Home, chain: NotificationGroup) -> Home:
    """Return a home with a chain of people to tell added or changed."""
    if any(each.id == chain.id for each in home.notification_groups):
        return replace(home, notification_groups=swapped(home.notification_groups, chain))
    return replace(home, notification_groups=(*home.notification_groups, chain))


def first_chain(home: Home) -> tuple[Home, NotificationGroup]:
    """Return a home that has a chain to tell, and its first: *Everybody*, quiet from 22:00 to 07:00, if it had none."""
    if home.notification_groups:
        return home, home.notification_groups[0]
    chain = NotificationGroup(id=new_id(), name="Everybody", quiet_from_min=1320, quiet_until_min=420)
    return with_chain(home, chain), chain
