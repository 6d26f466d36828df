"""A home's rules together: what one marks another can look at, so they are taken in that order."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from warmeter.core.home.rules import MarkFact, NotificationGroup, Rule
from warmeter.core.rule.actions import marked
from warmeter.core.rule.asking import AskRun
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.questions import marked_by_answers, question_run_of
from warmeter.core.rule.run import Firing, RuleMemory, RuleRun, rule_run_of
from warmeter.core.truth.scope import Scope

NO_MEMORY: Mapping[str, RuleMemory] = MappingProxyType({})


def words_looked_at(rule: Rule) -> set[str]:
    """Return the facts that a rule looks at."""
    return {word for condition in rule.conditions for word in condition.facts}


def words_marked(rule: Rule) -> set[str]:
    """Return the facts that a rule marks, itself or by the answers to its question."""
    asked = () if rule.question is None else rule.question.words
    return {step.word for step in rule.then if isinstance(step, MarkFact)} | set(asked)


def in_order(rules: Sequence[Rule]) -> tuple[list[Rule], list[Rule]]:
    """Return rules so that each comes after those whose marks it looks at, and those that run in a circle."""
    looked = {rule.id: words_looked_at(rule) for rule in rules}
    marked_by = {rule.id: words_marked(rule) for rule in rules}
    waiting, ordered = list(rules), []
    while waiting:
        to_come = set().union(*(marked_by[rule.id] for rule in waiting))
        free = [rule for rule in waiting if not looked[rule.id] & to_come]
        if not free:
            break
        ordered += free
        waiting = [rule for rule in waiting if looked[rule.id] & to_come]
    return ordered, waiting


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleSetRun:
    """What became of a home's rules: a life for each id, and the ids of those that run in a circle and are left out.

    ``evaluator`` is what they looked at, with what they marked; ``questions`` what became of those that ask.
    """

    rule_runs: Mapping[str, RuleRun]
    evaluator: ConditionEvaluator
    circle_ids: tuple[str, ...] = ()
    questions: Mapping[str, AskRun] = field(default_factory=dict)


def rule_runs_of(
    rules: Sequence[Rule],
    scope: Scope,
    groups: Sequence[NotificationGroup] = (),
    memory: Mapping[str, RuleMemory] = NO_MEMORY,
) -> RuleSetRun:
    """Return what becomes of rules over a scope, each seeing what those before it marked; ``groups`` are whom they ask.

    ``memory`` has the rules that did something before, or are looked at from later on than the scope's start.
    """
    ordered, circle = in_order(rules)
    rule_runs: dict[str, RuleRun] = {}
    questions: dict[str, AskRun] = {}
    evaluator = ConditionEvaluator(scope)
    for rule in ordered:
        mine, before = evaluator, tuple[Firing, ...]()
        if rule.id in memory:
            start_ms, before = memory[rule.id].start_ms, memory[rule.id].before
            if start_ms > scope.start_ms:
                mine = ConditionEvaluator(replace(evaluator.scope, start_ms=min(start_ms, scope.end_ms - 1)))
        rule_runs[rule.id] = rule_run_of(rule, mine, before=before)
        if words_marked(rule):
            marks = marked(rule, rule_runs[rule.id], evaluator.scope.marks)
            asked = question_run_of(rule, rule_runs[rule.id], groups, scope)
            if asked is not None and rule.question is not None:
                questions[rule.id] = asked
                marks = marked_by_answers(rule.question, asked, marks)
            evaluator = evaluator.with_scope(replace(evaluator.scope, marks=marks))
    return RuleSetRun(
        rule_runs=rule_runs, evaluator=evaluator, circle_ids=tuple(rule.id for rule in circle), questions=questions
    )
