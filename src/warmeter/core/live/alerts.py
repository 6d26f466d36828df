"""An alert: one cause that somebody must be told of, again until answered, then others too, never in quiet hours unless it is the loudest."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from warmeter.core.rule.notifications import Quiet

MAXIMUM_TELLINGS = 10_000
AnswerKind = Literal["done", "seen", "later"]


@dataclass(frozen=True, slots=True, kw_only=True)
class AlertStep:
    """A group to tell, so long after the alert began at the earliest, and when its quiet hours end [ms]."""

    group_id: str
    after_ms: int
    quiet: Quiet


@dataclass(frozen=True, slots=True, kw_only=True)
class AlertTerms:
    """How an alert is told; times in ms.

    Parameters
    ----------
    steps : tuple of AlertStep
        The group first told, then those who are told too if nobody answers.
    repeat_ms, most : int or None, int
        Told again every so often, None once; so many times in all, the first included.
    until_answered : bool
        Whether the end of its cause leaves it open until somebody answers.
    """

    steps: tuple[AlertStep, ...]
    repeat_ms: int | None = None
    most: int = 1
    until_answered: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class AlertAnswer:
    """What somebody said of an alert: it is done, it was seen (no more is told, it stays open), or later, until when [ms]."""

    at_ms: int
    kind: AnswerKind
    by: str = ""
    until_ms: int = 0
    label: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Telling:
    """A group told at an instant [ms]: again, later than it was due for quiet hours, or because nobody answered."""

    at_ms: int
    group_id: str
    is_again: bool = False
    is_late: bool = False
    is_escalated: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class AlertRun:
    """What becomes of an alert: its tellings up to now, those to come, when it was closed, who answered first [ms]."""

    told: tuple[Telling, ...]
    to_come: tuple[Telling, ...]
    closed_ms: int | None
    answered: AlertAnswer | None = None

    @property
    def is_open(self) -> bool:
        """Whether it waits for an answer, or its cause still holds."""
        return self.closed_ms is None


def alert_run(
    begun_ms: int,
    ended_ms: int | None,
    terms: AlertTerms,
    answers: Sequence[AlertAnswer],
    *,
    now_ms: int,
    ahead_ms: int = 0,
) -> AlertRun:
    """Return what becomes of an alert up to now, and what is still to be told within ``ahead_ms`` if nothing changes.

    Parameters
    ----------
    begun_ms, ended_ms : int, int or None
        When its cause began, and ended, if it did; an answer "done" closes it as well.
    answers : sequence of AlertAnswer
        In order of time.

    Notes
    -----
    Without answers and further groups the tellings are those of J4. A group told because nobody answered is told with
    each repetition from then on. After "later" nothing is told before its time, and then at it. Any answer ends the
    escalation.

    References
    ----------
    docs/methods J4; the rest is Warmeter's own.
    """
    said = [answer for answer in answers if begun_ms <= answer.at_ms <= now_ms]
    done = next((a for a in said if a.kind == "done"), None)
    ends = [] if ended_ms is None or terms.until_answered else [ended_ms]
    closed = min([*ends, *([done.at_ms] if done else [])], default=None)
    closed = closed if closed is None or closed <= now_ms else None
    last = min([*ends, now_ms + ahead_ms, *([done.at_ms - 1] if done else [])])
    told: list[Telling] = []
    answered = said[0].at_ms if said else None
    for place, step in enumerate(terms.steps):
        told += _tellings(begun_ms, step, terms, said, last, answered if place else None)
    told.sort(key=lambda each: each.at_ms)
    return AlertRun(
        told=tuple(each for each in told if each.at_ms <= now_ms),
        to_come=tuple(each for each in told if each.at_ms > now_ms),
        closed_ms=closed,
        answered=said[0] if said else None,
    )


def _tellings(
    begun_ms: int, step: AlertStep, terms: AlertTerms, said: Sequence[AlertAnswer], last_ms: int, stop_ms: int | None
) -> list[Telling]:
    """Return the tellings of one group; a further group is told no more once somebody answered."""
    due, found = begun_ms + step.after_ms, list[Telling]()
    if stop_ms is not None and stop_ms <= due:
        return []
    for number in range(min(terms.most, MAXIMUM_TELLINGS)):
        wanted = due
        due = _allowed(due, step.quiet, said)
        if due > last_ms or (stop_ms is not None and due >= stop_ms):
            break
        found.append(
            Telling(
                at_ms=due,
                group_id=step.group_id,
                is_again=number > 0,
                is_late=due > wanted,
                is_escalated=step.after_ms > 0,
            )
        )
        if terms.repeat_ms is None:
            break
        due += terms.repeat_ms
    return found


def _allowed(due_ms: int, quiet: Callable[[int], int | None], said: Sequence[AlertAnswer]) -> int:
    """Return the first instant from when it is due at which neither quiet hours nor an answer hold it back."""
    at = due_ms
    for _ in range(len(said) + 2):
        before = at
        for answer in said:
            if answer.at_ms <= at and answer.kind == "seen":
                at = _NEVER
            if answer.kind == "later" and answer.at_ms <= at < answer.until_ms:
                at = answer.until_ms
        over = quiet(at) if at < _NEVER else None
        at = at if over is None else over
        if at == before:
            break
    return at


_NEVER = 2**62
