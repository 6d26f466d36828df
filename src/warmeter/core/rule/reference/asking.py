"""A question told plainly, second by second, from what was written down before: the reference for ``ask_run``."""

from collections.abc import Sequence
from dataclasses import dataclass

from warmeter.core.rule.asking import AskNotes, AskOutcome, AskRun, AskTerms, AskWish, GivenAnswer, Ignored


@dataclass(slots=True)
class _Question:
    """A question and all that became of it."""

    wished: int
    until: int | None
    sent: int | None = None
    answered: int | None = None
    given_up: int | None = None
    withdrawn: int | None = None

    @property
    def is_waiting(self) -> bool:
        """Whether it is still to be sent or answered in time."""
        return self.answered is None and self.given_up is None and self.withdrawn is None


def walked(
    wishes: Sequence[AskWish], answers: Sequence[GivenAnswer], terms: AskTerms, *, end: int, tick: int
) -> AskRun:
    """Return what becomes of wishes to ask, looking at every multiple of ``tick`` up to ``end``; state is left out."""
    run, questions = AskNotes(), list[_Question]()
    first = min([wish.at for wish in wishes] + [answer.at for answer in answers], default=end)
    kept: GivenAnswer | None = None
    for now in range(first, end + 1, tick):
        for answer in (each for each in answers if each.at == now):
            kept = _hear(run, questions, answer, terms) or kept
        for question in (each for each in questions if each.is_waiting):
            _pass(run, question, now, terms)
        for wish in (each for each in wishes if each.at == now):
            _want(run, questions, wish, terms, kept)
    return run.closed()


def _hear(run: AskNotes, questions: list[_Question], answer: GivenAnswer, terms: AskTerms) -> GivenAnswer | None:
    """Let an answer count for the question that was sent last, or say why it does not."""
    now, sent = answer.at, [q for q in questions if q.sent is not None]
    last = sent[-1] if sent else None
    limit = terms.wait + terms.late
    is_held = any(q.sent is None and q.is_waiting for q in questions)
    why: Ignored | None = None
    if answer.label not in terms.options:
        why = "unknown"
    elif last is None or (is_held and now - (last.sent or 0) > limit):
        why = "unasked"
    elif last.answered is not None:
        why = "settled"
    elif last.withdrawn is not None:
        why = "withdrawn"
    elif now - (last.sent or 0) > limit:
        why = "late"
    if why is not None or last is None:
        run.ignored.append((answer, why or "unasked"))
        return None
    run.outcomes.append(AskOutcome(at=now, label=answer.label, is_late=last.given_up is not None))
    last.answered = now
    return answer


def _pass(run: AskNotes, question: _Question, now: int, terms: AskTerms) -> None:
    """Withdraw a question, give up waiting for it, or send it when the quiet time is over."""
    if question.until is not None and now >= question.until:
        question.withdrawn = now
        run.withdrawn.append(now)
    elif question.sent is not None and now >= question.sent + terms.wait:
        question.given_up = now
        run.outcomes.append(AskOutcome(at=now, label=None))
    elif question.sent is None and terms.quiet(now) is None:
        question.sent = now
        run.asked.append(now)


def _want(run: AskNotes, questions: list[_Question], wish: AskWish, terms: AskTerms, kept: GivenAnswer | None) -> None:
    """Take up a wish to ask."""
    waiting = [q for q in questions if q.is_waiting]
    if waiting:
        run.folded.append(wish.at)
        ends = (waiting[-1].until, wish.until)
        waiting[-1].until = None if None in ends else max(end for end in ends if end is not None)
        return
    run.begun.append(wish.at)
    is_quiet = terms.quiet(wish.at) is not None
    if kept is not None and terms.remember and wish.at <= kept.at + terms.remember:
        run.outcomes.append(AskOutcome(at=wish.at, label=kept.label, is_remembered=True))
    elif is_quiet and terms.in_quiet == "drop":
        run.outcomes.append(AskOutcome(at=wish.at, label=None, is_dropped=True))
    else:
        is_held = is_quiet and terms.in_quiet == "hold"
        questions.append(_Question(wish.at, wish.until, None if is_held else wish.at))
        run.asked += [] if is_held else [wish.at]
    if questions and questions[-1].is_waiting and questions[-1].until is not None and questions[-1].until <= wish.at:
        _pass(run, questions[-1], wish.at, terms)
