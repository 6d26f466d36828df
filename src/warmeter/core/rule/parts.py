"""The conditions of a rule by their place in its sentence."""

from dataclasses import dataclass, replace
from typing import Literal

from warmeter.core.errors import HomeError
from warmeter.core.home.rule_conditions import Clauses, Condition, Single
from warmeter.core.home.rule_conditions import Sequence as InSequence
from warmeter.core.home.rules import PutBack, Rule

Part = Literal["watch", "only_while", "as_long_as", "when"]
SubPart = Literal["", "first", "then", "unless"]
PARTS: tuple[Part, ...] = ("watch", "only_while", "as_long_as", "when")


@dataclass(frozen=True, slots=True)
class ConditionPlace:
    """Where a condition stands in a rule: part, clause, place in the clause, and part of a sequence."""

    part: Part
    clause: int
    number: int
    sub: SubPart = ""

    @property
    def key(self) -> str:
        """Its name in forms."""
        return ".".join([self.part, str(self.clause), str(self.number), *([self.sub] if self.sub else [])])


def clauses_of(rule: Rule, part: Part) -> Clauses:
    """Return a part's clauses."""
    if part == "when":
        return rule.put_back.when if rule.put_back else ()
    return {"watch": rule.watch, "only_while": rule.only_while, "as_long_as": rule.as_long_as}[part]


def with_clauses(rule: Rule, part: Part, clauses: Clauses) -> Rule:
    """Return a rule with a part's clauses; ``HomeError`` if nothing would be watched.

    A put back that has nothing left goes.
    """
    if part == "when":
        back = rule.put_back
        if back is None:
            return replace(rule, put_back=PutBack(when=clauses)) if clauses else rule
        is_left = clauses or back.after_s is not None or back.at_min is not None
        return replace(rule, put_back=replace(back, when=clauses) if is_left else None)
    if part == "watch" and not clauses:
        raise HomeError("a rule watches one thing at least; remove the whole rule instead")
    if part == "watch":
        return replace(rule, watch=clauses)
    return replace(rule, only_while=clauses) if part == "only_while" else replace(rule, as_long_as=clauses)


def condition_at(rule: Rule, place: ConditionPlace) -> Condition | None:
    """Return the condition at a place; None for a sequence's part that is not there.

    Raises
    ------
    HomeError
        If the place is gone.
    """
    try:
        found = clauses_of(rule, place.part)[place.clause][place.number]
    except IndexError as error:
        raise HomeError("this part of the sentence is not there any more; look at the page again") from error
    if not place.sub:
        return found
    if not isinstance(found, InSequence):
        raise HomeError("this part of the sentence is not there any more; look at the page again")
    part: Single | None = getattr(found, place.sub)
    return part


def with_condition(rule: Rule, place: ConditionPlace, condition: Condition | None) -> Rule:
    """Return a rule with a condition at a place changed, or taken out."""
    before = condition_at(rule, replace(place, sub=""))
    if place.sub:
        if not isinstance(before, InSequence):
            raise HomeError("this part of the sentence is not there any more; look at the page again")
        condition = _with_sub(before, place.sub, condition)
    clauses = list(clauses_of(rule, place.part))
    clause = list(clauses[place.clause])
    clause[place.number : place.number + 1] = [] if condition is None else [condition]
    clauses[place.clause : place.clause + 1] = [tuple(clause)] if clause else []
    return with_clauses(rule, place.part, tuple(clauses))


def _with_sub(sequence: InSequence, sub: SubPart, condition: Condition | None) -> InSequence:
    if sub == "unless" and not isinstance(condition, InSequence):
        return replace(sequence, unless=condition)
    if condition is None or isinstance(condition, InSequence):
        raise HomeError("a part of a sequence is a single thing that happens")
    return replace(sequence, first=condition) if sub == "first" else replace(sequence, then=condition)


def conditions_of(rule: Rule, part: Part) -> list[tuple[ConditionPlace, Condition]]:
    """Return a part's conditions with their places."""
    return [
        (ConditionPlace(part, number, k), condition)
        for number, clause in enumerate(clauses_of(rule, part))
        for k, condition in enumerate(clause)
    ]
