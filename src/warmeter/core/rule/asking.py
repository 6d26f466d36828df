"""A question, its answers, and none (J12): one question at a time, whatever is asked, answered or interrupted.

The same is told plainly, second by second, in ``reference.asking``; both must agree.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from warmeter.core.home.rules import InQuiet
from warmeter.core.rule.notifications import Quiet

Ignored = Literal["unknown", "unasked", "settled", "late", "withdrawn"]


@dataclass(frozen=True, slots=True)
class AskWish:
    """That a rule wants to ask, and when that rule is over and the question withdrawn (None: never)."""

    at: int
    until: int | None = None


@dataclass(frozen=True, slots=True)
class GivenAnswer:
    """What somebody answered, and when."""

    at: int
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AskTerms:
    """How a question is asked; times in one unit.

    Parameters
    ----------
    options : tuple of str
        What can be answered.
    wait, late, remember : int
        How long an answer is waited for, still counts after that, and stands for the next time.
    in_quiet : str
        What becomes of a question in quiet time: hold, drop, send.
    quiet : callable
        When the quiet time that holds at an instant ends, None where it is not quiet.
    """

    options: tuple[str, ...]
    wait: int
    late: int = 0
    remember: int = 0
    in_quiet: InQuiet = "hold"
    quiet: Quiet


@dataclass(frozen=True, slots=True, kw_only=True)
class AskOutcome:
    """What came of a question: an answer or none (a label of None), in time, late, remembered, or dropped unasked."""

    at: int
    label: str | None
    is_late: bool = False
    is_remembered: bool = False
    is_dropped: bool = False

    @property
    def is_at_once(self) -> bool:
        """Whether it came with the wish itself: nobody had to be asked, or nobody could."""
        return self.is_remembered or self.is_dropped


@dataclass(frozen=True, slots=True, kw_only=True)
class AskState:
    """Where a question stands; all that has to be kept over a restart.

    Parameters
    ----------
    asked : int or None
        When the last question was asked.
    until : int or None
        When the rule that asks is over: an open or held question is withdrawn then.
    is_open, is_answered, is_withdrawn : bool
        Whether it still waits in time, was answered, or was withdrawn.
    held_to : int or None
        When a held question will be asked.
    last : GivenAnswer or None
        The last answer that counted.
    """

    asked: int | None = None
    until: int | None = None
    is_open: bool = False
    is_answered: bool = False
    is_withdrawn: bool = False
    held_to: int | None = None
    last: GivenAnswer | None = None

    @property
    def is_waiting(self) -> bool:
        """Whether a question is open or held."""
        return self.is_open or self.held_to is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class AskRun:
    """What became of the wishes to ask, in order of time.

    Parameters
    ----------
    begun : tuple of int
        Wishes that began something: asked, held, dropped or answered from memory.
    asked, folded, withdrawn : tuple of int
        Questions sent; wishes while one was open or held; questions whose rule was over before an answer.
    outcomes : tuple of AskOutcome
        Answers and none.
    ignored : tuple of (GivenAnswer, str)
        Answers that did not count, and why.
    state : AskState
        Where it stands at the end.
    """

    begun: tuple[int, ...]
    asked: tuple[int, ...]
    folded: tuple[int, ...]
    withdrawn: tuple[int, ...]
    outcomes: tuple[AskOutcome, ...]
    ignored: tuple[tuple[GivenAnswer, Ignored], ...]
    state: AskState


@dataclass(slots=True, kw_only=True)
class AskNotes:
    """What is written down while a question is followed, and where it stands meanwhile."""

    begun: list[int] = field(default_factory=list)
    asked: list[int] = field(default_factory=list)
    folded: list[int] = field(default_factory=list)
    withdrawn: list[int] = field(default_factory=list)
    outcomes: list[AskOutcome] = field(default_factory=list)
    ignored: list[tuple[GivenAnswer, Ignored]] = field(default_factory=list)
    state: AskState = AskState()

    def closed(self) -> AskRun:
        """Return it as what became of the wishes."""
        return AskRun(
            begun=tuple(self.begun),
            asked=tuple(self.asked),
            folded=tuple(self.folded),
            withdrawn=tuple(self.withdrawn),
            outcomes=tuple(self.outcomes),
            ignored=tuple(self.ignored),
            state=self.state,
        )


def ask_run(
    wishes: Sequence[AskWish],
    answers: Sequence[GivenAnswer],
    terms: AskTerms,
    *,
    end: int,
    state: AskState | None = None,
) -> AskRun:
    """Return what became of wishes to ask up to ``end`` inclusive.

    Parameters
    ----------
    wishes, answers : sequences
        In order of time, after what ``state`` stands for.
    state : AskState or None
        Where it stood before: a restart goes on from there.

    Notes
    -----
    Within an instant: answers, withdrawing, none, a held question, new wishes. A withdrawn question marks nothing,
    and no answer to it counts.

    References
    ----------
    docs/methods J12; memory and withdrawing are Warmeter's own.
    """
    run = AskNotes(state=state or AskState())
    said = [answer for answer in answers if answer.at <= end]
    wanted = [wish for wish in wishes if wish.at <= end]
    a = w = 0
    while True:
        coming = [*_due(run.state, terms)]
        coming += [said[a].at] if a < len(said) else []
        coming += [wanted[w].at] if w < len(wanted) else []
        now = min(coming, default=end + 1)
        if now > end:
            return run.closed()
        while a < len(said) and said[a].at == now:
            _answer(run, said[a], terms)
            a += 1
        _come_due(run, now, terms)
        while w < len(wanted) and wanted[w].at == now:
            _wish(run, wanted[w], terms)
            w += 1


def _due(state: AskState, terms: AskTerms) -> list[int]:
    """Return when something happens by itself."""
    found = [state.asked + terms.wait] if state.is_open and state.asked is not None else []
    found += [state.held_to] if state.held_to is not None else []
    return found + ([state.until] if state.is_waiting and state.until is not None else [])


def _answer(run: AskNotes, answer: GivenAnswer, terms: AskTerms) -> None:
    state = run.state
    why = _refused(state, answer, terms)
    if why is not None:
        run.ignored.append((answer, why))
        return
    run.outcomes.append(AskOutcome(at=answer.at, label=answer.label, is_late=not state.is_open))
    run.state = replace(state, is_open=False, is_answered=True, last=answer)


def _refused(state: AskState, answer: GivenAnswer, terms: AskTerms) -> Ignored | None:
    """Return why an answer does not count."""
    if answer.label not in terms.options:
        return "unknown"
    last = None if state.asked is None else state.asked + terms.wait + terms.late
    if last is None or (state.held_to is not None and answer.at > last):
        return "unasked"
    if state.is_answered:
        return "settled"
    if state.is_withdrawn:
        return "withdrawn"
    return "late" if answer.at > last else None


def _come_due(run: AskNotes, now: int, terms: AskTerms) -> None:
    """Withdraw, give up waiting, and ask what was held."""
    state = run.state
    if state.is_waiting and state.until is not None and state.until <= now:
        run.withdrawn.append(now)
        run.state = replace(
            state, is_open=False, held_to=None, until=None, is_withdrawn=state.is_withdrawn or state.is_open
        )
        return
    if state.is_open and state.asked is not None and state.asked + terms.wait <= now:
        run.outcomes.append(AskOutcome(at=now, label=None))
        run.state = replace(state, is_open=False)
    if state.held_to is not None and state.held_to <= now:
        _send(run, now)


def _send(run: AskNotes, now: int) -> None:
    run.asked.append(now)
    run.state = AskState(asked=now, until=run.state.until, is_open=True, last=run.state.last)


def _wish(run: AskNotes, wish: AskWish, terms: AskTerms) -> None:
    state = run.state
    if state.is_waiting:
        run.folded.append(wish.at)
        until = None if None in (state.until, wish.until) else max(state.until or 0, wish.until or 0)
        run.state = replace(state, until=until)
        return
    run.begun.append(wish.at)
    if state.last is not None and terms.remember and wish.at - state.last.at <= terms.remember:
        run.outcomes.append(AskOutcome(at=wish.at, label=state.last.label, is_remembered=True))
        return
    over = terms.quiet(wish.at)
    if over is not None and terms.in_quiet == "drop":
        run.outcomes.append(AskOutcome(at=wish.at, label=None, is_dropped=True))
        return
    if over is not None and terms.in_quiet == "hold":
        run.state = replace(state, held_to=over, until=wish.until)
        return
    run.state = replace(state, until=wish.until)
    _send(run, wish.at)
