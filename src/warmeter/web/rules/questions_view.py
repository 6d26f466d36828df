"""The questions that rules ask, what was answered, and what came of it."""

from collections.abc import Sequence
from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.rule.asking import AskOutcome, AskRun, Ignored
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN
from warmeter.service.rules.replays import Replay
from warmeter.store.events import Event
from warmeter.web import format as show

MOST_GIVEN = 6
_WHY: dict[Ignored, str] = {
    "unknown": "it is not offered",
    "unasked": "nobody had asked",
    "settled": "the question was answered before",
    "late": "it came after its time",
    "withdrawn": "the rule was over before",
}


def answers_told(question: AskRun) -> dict[int, str]:
    """Return in words what came of each question, by the instant at which it was asked."""
    found: dict[int, str] = {}
    for asked, until in zip(question.asked, [*question.asked[1:], None], strict=True):
        # An answer in the instant of the next question still belongs to this one.
        mine = [o for o in question.outcomes if o.at > asked and (until is None or o.at <= until) and not o.is_at_once]
        said = [_outcome(outcome, asked) for outcome in mine]
        said += [
            f"withdrawn after {_since(asked, at)}: the rule was over"
            for at in question.withdrawn
            if at > asked and (until is None or at <= until) and not mine
        ]
        found[asked] = ", ".join(said) or "still open"
    return found


def _outcome(outcome: AskOutcome, asked_ms: int) -> str:
    if outcome.label is None:
        return "nobody answered"
    late = "late, " if outcome.is_late else ""
    return f"{late}“{outcome.label}” after {_since(asked_ms, outcome.at)}"


def _since(asked_ms: int, at_ms: int) -> str:
    return show.duration((at_ms - asked_ms) / MS_PER_MIN)


@dataclass(frozen=True, slots=True)
class GivenLine:
    """An answer that was entered: its number, when and what, and why it did not count, or is not in view ("" otherwise)."""

    number: int
    words: str
    why: str


@dataclass(frozen=True, slots=True)
class QuestionLine:
    """A question that a rule asks: the rule, the words, the answers, what came of it, and the answers entered last."""

    rule_id: str
    rule: str
    text: str
    labels: tuple[str, ...]
    told: str
    given: list[GivenLine]


def question_lines(home: Home, replay: Replay | None, events: Sequence[Event], clock: LocalClock) -> list[QuestionLine]:
    """Return the questions of a home's rules, with the answers entered last."""
    found = []
    for rule in home.rules:
        question = rule.question
        if question is None:
            continue
        replayed = replay.rules.get(rule.id) if replay is not None else None
        run = replayed.question if replayed else None
        mine = [event for event in events if event.subject == rule.id]
        found.append(
            QuestionLine(
                rule_id=rule.id,
                rule=rule.name,
                text=(question.text or rule.name).replace("{rule}", rule.name),
                labels=tuple(answer.label for answer in question.answers),
                told=_counts(run),
                given=_given(home, mine, replay, run, clock)[:MOST_GIVEN],
            )
        )
    return found


def _given(
    home: Home, events: Sequence[Event], replay: Replay | None, run: AskRun | None, clock: LocalClock
) -> list[GivenLine]:
    """Return the answers that were entered, the newest first; of two alike the later one is that which did not count."""
    left = [] if run is None else [((answer.at, answer.label), why) for answer, why in run.ignored]
    found = []
    for event in reversed(events):
        place = next((k for k in range(len(left) - 1, -1, -1) if left[k][0] == (event.at_ms, event.detail)), None)
        is_in_view = replay is not None and replay.scope.start_ms <= event.at_ms < replay.scope.end_ms
        why = f"did not count: {_WHY[left.pop(place)[1]]}" if place is not None else ""
        found.append(
            GivenLine(
                number=event.id,
                words=f"{show.moment(event.at_ms, clock, home.country)} “{event.detail}”",
                why=why if is_in_view else "outside the days in view",
            )
        )
    return found


def _counts(question: AskRun | None) -> str:
    """Return how often it was asked in the stretch, and what came of that."""
    if question is None or not question.begun:
        return "not asked in these days"
    answered = sum(o.label is not None and not o.is_at_once for o in question.outcomes)
    parts = [
        (len(question.asked), "asked {}"),
        (answered, "answered {}"),
        (sum(o.is_late for o in question.outcomes), "{} of them late"),
        (sum(o.label is None and not o.is_at_once for o in question.outcomes), "nobody answered {}"),
        (len(question.withdrawn), "withdrawn {}"),
        (sum(o.is_remembered for o in question.outcomes), "from memory {}"),
        (sum(o.is_dropped for o in question.outcomes), "not asked in quiet hours {}"),
        (len(question.ignored), "answers that did not count: {}"),
    ]
    return ", ".join(words.format(count) for count, words in parts if count)
