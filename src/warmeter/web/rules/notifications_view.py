"""What a rule would have told, with its values filled in; whom it can tell; facts that a person marks."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule
from warmeter.core.rule.actions import Notification
from warmeter.core.rule.ruleset import words_looked_at, words_marked
from warmeter.core.truth.scope import NO_MARKS
from warmeter.core.truth.track import value_of
from warmeter.core.units import MS_PER_MIN
from warmeter.service.rules.replays import Replay
from warmeter.web import format as show
from warmeter.web.rules.questions_view import answers_told
from warmeter.web.rules.slots import value_text
from warmeter.web.rules.wording import RuleWording

MOST = 12


@dataclass(frozen=True, slots=True)
class NotificationLine:
    """One notice: when, to whom, the text with its values, and a word on how."""

    when: str
    whom: str
    text: str
    how: str


def notification_lines(wording: RuleWording, replay: Replay) -> list[NotificationLine]:
    """Return the newest notices of a rule over the stretch."""
    home, found = wording.home, replay.rules[wording.rule.id]
    names = {chain.id: chain.name for chain in home.notification_groups}
    clock = replay.scope.clock
    answered = {} if found.question is None else answers_told(found.question)
    return [
        NotificationLine(
            when=show.moment(notice.at_ms, clock, home.country),
            whom=names.get(notice.group_id, "a group that is gone"),
            text=filled(wording, replay, notice),
            how=_how(notice, answered.get(notice.at_ms, "")),
        )
        for notice in found.notices[-MOST:][::-1]
    ]


def _how(notice: Notification, answered: str) -> str:
    how = "kept until the quiet hours ended" if notice.is_late else "again" if notice.is_again else ""
    return "; ".join(part for part in (how, answered) if part)


def filled(wording: RuleWording, replay: Replay, notice: Notification) -> str:
    """Return a notice's text with the rule's name, the watched value and how long it has held put in."""
    held = show.duration((notice.at_ms - notice.since_ms) / MS_PER_MIN)
    text = notice.text.replace("{rule}", wording.rule.name).replace("{since}", held)
    return text.replace("{value}", _value(wording, replay, notice.at_ms)) if "{value}" in text else text


def _value(wording: RuleWording, replay: Replay, at_ms: int) -> str:
    """Return the first quantity that the rule watches, with its unit, at an instant."""
    rule = wording.rule
    for clause in rule.watch:
        for c in clause:
            if isinstance(c, Compared | Moving):
                track = replay.evaluator.heard(c.of, rule.limits.stale_s, c.minus)
                value = float(value_of(track, np.array([at_ms], dtype=np.int64))[0])
                unit = wording.names.unit(c.of)
                is_difference = c.minus is not None
                return (
                    "not known"
                    if np.isnan(value)
                    else value_text(wording.home, unit, round(value, 1), is_difference=is_difference)
                )
    return "not known"


@dataclass(frozen=True, slots=True)
class FactLine:
    """A fact that rules look at or mark: whether a person last marked it, and which rules do."""

    word: str
    is_so: bool
    rules: str


def fact_lines(home: Home, replay: Replay | None) -> list[FactLine]:
    """Return the facts of a home's rules."""
    words = sorted({word for rule in home.rules for word in words_looked_at(rule) | words_marked(rule)})
    marks = replay.scope.marks if replay is not None else {}
    found = []
    for word in words:
        said = marks.get(word, NO_MARKS).is_true
        found.append(FactLine(word, bool(said.size and said[-1]), _rules(home, word)))
    return found


def _rules(home: Home, word: str) -> str:
    def names(rules: list[Rule]) -> str:
        return ", ".join(rule.name for rule in rules)

    marking = names([rule for rule in home.rules if word in words_marked(rule)])
    looking = names([rule for rule in home.rules if word in words_looked_at(rule)])
    return "; ".join(
        part
        for part in (f"marked by {marking}" if marking else "", f"looked at by {looking}" if looking else "")
        if part
    )
