"""The parts of a rule by their path: conditions by their place in its sentence, steps, what puts it back, limits."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, cast

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Condition
from warmeter.core.home.conditions.kinds import Single
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.conditions.sequence import Sequence as InSequence
from warmeter.core.home.rules import PutBack, Rule, RuleLimits, Step

Part = Literal["watch", "only_while", "as_long_as", "when"]
SubPart = Literal["", "first", "then", "unless"]
RulePart = Rule | Condition | Step | PutBack | RuleLimits
GONE = "this part of the sentence is not there any more; look at the page again"
PARTS: tuple[Part, ...] = ("watch", "only_while", "as_long_as", "when")


@dataclass(frozen=True, slots=True)
class ConditionPlace:
    """Where a condition stands in a rule: part, clause, place in the clause, and part of a sequence."""

    part: Part
    clause: int
    number: int
    sub: SubPart = ""

    @property
    def path(self) -> str:
        """Its path in the rule, such as ``watch.0.1`` or ``watch.0.1.first``."""
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
        return with_values(rule, "put_back", {"when": clauses})
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
        raise HomeError(GONE) from error
    if not place.sub:
        return found
    if not isinstance(found, InSequence):
        raise HomeError(GONE)
    part: Single | None = getattr(found, place.sub)
    return part


def with_condition(rule: Rule, place: ConditionPlace, condition: Condition | None) -> Rule:
    """Return a rule with a condition at a place changed, or taken out; ``HomeError`` if the place is gone."""
    before = condition_at(rule, replace(place, sub=""))
    if place.sub:
        if not isinstance(before, InSequence):
            raise HomeError(GONE)
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


def with_step(rule: Rule, number: int, step: Step | None) -> Rule:
    """Return a rule with a step changed, or taken out (None); ``HomeError`` for its last one."""
    steps = list(rule.then)
    if not 0 <= number < len(steps):
        raise HomeError("this step is not there any more; look at the page again")
    if step is None and len(steps) == 1:
        raise HomeError("a rule does one thing at least; change the step instead")
    steps[number : number + 1] = [] if step is None else [step]
    return replace(rule, then=tuple(steps))


def place_of(path: str) -> ConditionPlace | None:
    """Return the place of a condition by its path, None for a path of something else."""
    words = path.split(".")
    if words[0] not in PARTS or len(words) not in (3, 4) or not (words[1].isdecimal() and words[2].isdecimal()):
        return None
    sub = words[3] if len(words) == 4 else ""
    if sub not in ("", "first", "then", "unless"):
        return None
    return ConditionPlace(words[0], int(words[1]), int(words[2]), cast(SubPart, sub))


def step_number(path: str) -> int | None:
    """Return the number of a step by its path ``then.2``, None for a path of something else."""
    word, _, number = path.partition(".")
    return int(number) if word == "then" and number.isdecimal() else None


def part_at(rule: Rule, path: str) -> RulePart:
    """Return the part of a rule at a path: "" the rule itself, ``limits``, ``put_back``, a step or a condition.

    Raises
    ------
    HomeError
        If nothing stands there.
    """
    place, step = place_of(path), step_number(path)
    if place is not None:
        part: RulePart | None = condition_at(rule, place)
    elif step is not None:
        part = rule.then[step] if step < len(rule.then) else None
    else:
        part = {"": rule, "limits": rule.limits, "put_back": rule.put_back}.get(path)
    if part is None:
        raise HomeError(GONE)
    return part


def with_part(rule: Rule, path: str, part: RulePart | None) -> Rule:
    """Return a rule with the part at a path changed, or taken out (None)."""
    place, step = place_of(path), step_number(path)
    if place is not None:
        return with_condition(rule, place, cast("Condition | None", part))
    if step is not None:
        return with_step(rule, step, cast("Step | None", part))
    return cast(Rule, part) if path == "" else replace(rule, **{path: part})  # type: ignore[arg-type]


def with_values(rule: Rule, path: str, values: Mapping[str, Any]) -> Rule:
    """Return a rule with fields of the part at a path changed; what would put it back goes with its last field."""
    part = part_at(rule, path)
    if isinstance(part, PutBack):
        fields = {"when": part.when, "after_s": part.after_s, "at_min": part.at_min, "for_s": part.for_s} | dict(values)
        is_left = fields["when"] or fields["after_s"] is not None or fields["at_min"] is not None
        return replace(rule, put_back=PutBack(**fields) if is_left else None)
    return with_part(rule, path, replace(part, **values))
