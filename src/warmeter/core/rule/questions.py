"""What a rule asks: its questions over a stretch, the facts that the answers mark, and the notices that ask."""

from collections.abc import Mapping, Sequence

import numpy as np

from warmeter.core.home.rules import Ask, NotificationGroup, Rule
from warmeter.core.rule.actions import Notification, action_runs_of, quiet_of
from warmeter.core.rule.asking import AskRun, AskTerms, AskWish, GivenAnswer, ask_run
from warmeter.core.rule.run import RuleRun
from warmeter.core.truth.scope import NO_MARKS, Marks, Scope
from warmeter.core.units import MS_PER_S


def question_run_of(rule: Rule, rule_run: RuleRun, groups: Sequence[NotificationGroup], scope: Scope) -> AskRun | None:
    """Return what became of the question that a rule asks over a scope; None for a rule that asks nothing.

    A question is withdrawn when its rule is over; a rule without an end, or begun anew, withdraws nothing.

    References
    ----------
    docs/methods J12.
    """
    question = rule.question
    if question is None:
        return None
    ends = {f.at_ms: None if f.why in ("", "done", "restarted") else f.end_ms for f in rule_run.firings}
    wishes = [
        AskWish(deed.from_ms, ends[deed.fired_ms]) for deed in action_runs_of(rule, rule_run) if deed.step is question
    ]
    said = sorted(scope.answers.get(rule.id, ()), key=lambda answer: answer[0])
    return ask_run(
        sorted(wishes, key=lambda wish: wish.at),
        [GivenAnswer(at, label) for at, label in said],
        terms_of(question, groups, scope, is_safety=rule.kind == "safety"),
        end=scope.end_ms - 1,
    )


def terms_of(question: Ask, groups: Sequence[NotificationGroup], scope: Scope, *, is_safety: bool) -> AskTerms:
    """Return the terms of a question [ms]; a group that is gone is never quiet."""
    group = next((each for each in groups if each.id == question.group_id), None)
    return AskTerms(
        options=tuple(answer.label for answer in question.answers),
        wait=question.within_s * MS_PER_S,
        late=question.late_s * MS_PER_S,
        remember=question.remember_s * MS_PER_S,
        in_quiet=question.in_quiet,
        quiet=(lambda _: None) if group is None else quiet_of(group, scope.clock, is_safety=is_safety),
    )


def marked_by_answers(question: Ask, run: AskRun, marks: Mapping[str, Marks]) -> dict[str, Marks]:
    """Return marked facts with those of a question's answers added.

    Of its facts only that of the last answer is so, and asking anew takes it back. What falls into one instant is laid
    a second apart in its order, so that every step is seen.
    """
    found = dict(marks)
    added: dict[str, list[tuple[int, bool]]] = {word: [] for word in question.words}
    last = None
    for at, chosen in _steps(question, run):
        last = at if last is None else max(at, last + MS_PER_S)
        for word, rows in added.items():
            rows.append((last, word == chosen))
    for word, rows in added.items():
        before = found.get(word, NO_MARKS)
        at_ms = np.concatenate([before.at_ms, np.array([at for at, _ in rows], dtype=np.int64)])
        is_true = np.concatenate([before.is_true, np.array([said for _, said in rows], dtype=bool)])
        order = np.argsort(at_ms, kind="stable")
        found[word] = Marks(at_ms[order], is_true[order])
    return found


def _steps(question: Ask, run: AskRun) -> list[tuple[int, str]]:
    """Return instants and the fact that is so from then on, "" for none, in order."""
    rows = [(begun, 1, "") for begun in run.begun]
    rows += [(o.at, 2 if o.is_at_once else 0, question.word_of(o.label)) for o in run.outcomes]
    return [(at, word) for at, _, word in sorted(rows)]


def asked_notices(rule: Rule, run: AskRun) -> list[Notification]:
    """Return the notices that ask, with the answers that can be given."""
    question = rule.question
    assert question is not None  # asked of rules with a question only
    offered = " / ".join(answer.label for answer in question.answers)
    begun = sorted(run.begun)
    return [
        Notification(
            at_ms=at,
            group_id=question.group_id,
            text=f"{question.text or rule.name} ({offered})",
            since_ms=max((wish for wish in begun if wish <= at), default=at),
            is_late=at not in run.begun,
        )
        for at in run.asked
    ]
