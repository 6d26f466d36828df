"""A, then B within so long, unless C within so long after that (J11)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

Letter = Literal["A", "B", "C"]


@dataclass(frozen=True, slots=True)
class SequencePair:
    """An A and the B that followed it in time; ``at_ms`` is when it was told or cancelled, or would be told."""

    a_ms: int
    b_ms: int
    at_ms: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SequenceMatches:
    """Sequences told, cancelled by a C, and those whose time is not over yet."""

    told: tuple[SequencePair, ...]
    cancelled: tuple[SequencePair, ...]
    pending: tuple[SequencePair, ...]


def sequences(
    events: Sequence[tuple[int, Letter]], *, within_ms: int, cancel_ms: int | None, is_first: bool, end_ms: int
) -> SequenceMatches:
    """Return the sequences of a list of events in order of time.

    Parameters
    ----------
    events : sequence of (int, str)
        Instant [ms] and letter; those of one second in their order, the end included.
    within_ms : int
        From A to B at most, inclusive.
    cancel_ms : int or None
        A C up to so long after B, inclusive, cancels it; None tells it at B.
    is_first : bool
        Whether an A is ignored while an earlier one is still fresh; else every A counts anew.

    References
    ----------
    docs/methods J11.
    """
    armed: int | None = None
    waiting: list[SequencePair] = []
    told: list[SequencePair] = []
    cancelled: list[SequencePair] = []
    for at, letter in events:
        if at > end_ms:
            break
        told += [pair for pair in waiting if pair.at_ms < at]
        waiting = [pair for pair in waiting if pair.at_ms >= at]
        if letter == "A":
            if not (is_first and armed is not None and at - armed <= within_ms):
                armed = at
        elif letter == "B":
            if armed is not None and at - armed <= within_ms:
                pair = SequencePair(armed, at, at + (cancel_ms or 0))
                (told if cancel_ms is None else waiting).append(pair)
                armed = None
        else:
            cancelled += [SequencePair(pair.a_ms, pair.b_ms, at) for pair in waiting]
            waiting = []
    told += [pair for pair in waiting if pair.at_ms <= end_ms]
    order = sorted(told, key=lambda pair: pair.b_ms)
    return SequenceMatches(
        told=tuple(order), cancelled=tuple(cancelled), pending=tuple(pair for pair in waiting if pair.at_ms > end_ms)
    )
