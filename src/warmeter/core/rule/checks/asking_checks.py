"""Checks for questions: answers upon which nothing follows, and what happens unasked when nobody answers."""

from collections.abc import Iterator

from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.rules import Rule, SetLevel, SetPoint, Switch, TimedRun
from warmeter.core.rule.checks.rule_finding import Case, RuleFinding
from warmeter.core.rule.ruleset import words_looked_at


def answer_without_effect(case: Case) -> Iterator[RuleFinding]:
    """A question is asked, and no rule looks at what an answer marks."""
    question = case.rule.question
    if question is None:
        return
    looked = {word for rule in case.home.rules for word in words_looked_at(rule)}
    number = case.rule.then.index(question)
    for word in question.words:
        if word not in looked:
            yield case.finding(
                "answer without effect",
                f"then.{number}.text",
                f"It marks “{word}” by an answer, and no rule looks at that: nothing follows. Write the rule that does.",
            )
    if not question.words:
        yield case.finding(
            "answer without effect",
            f"then.{number}.text",
            "No answer to its question marks a fact: whatever is answered, nothing follows.",
        )


def unsafe_without_answer(case: Case) -> Iterator[RuleFinding]:
    """Something is switched on or warmed because nobody answered: silence must end in what is safe."""
    question = case.rule.question
    if question is None or not question.none_word:
        return
    number = case.rule.then.index(question)
    for rule in case.home.rules:
        if _follows(rule, question.none_word) and _starts_something(rule):
            yield case.finding(
                "unsafe without an answer",
                f"then.{number}.none",
                f"If nobody answers, {rule.name} switches something on: whoever did not hear the question cannot stop it. What "
                "follows without an answer must be the safe thing.",
                severity="danger",
            )


def _follows(rule: Rule, word: str) -> bool:
    return any(isinstance(c, Fact) and c.word == word and c.is_true for clause in rule.watch for c in clause)


def _starts_something(rule: Rule) -> bool:
    return any(
        isinstance(step, TimedRun | SetLevel)
        or (isinstance(step, SetPoint) and (step.change_k is None or step.change_k > 0))
        or (isinstance(step, Switch) and step.is_on)
        for step in rule.then
    )
