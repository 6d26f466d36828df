"""Three-valued truth over time: false, not known, true, as stretches.

Joined as Kleene does: *and* is the lesser, *or* the greater, *not* the mirror image.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Bytes, Flags, Ints

Stretches = tuple[Ints, Ints]
FALSE, UNKNOWN, TRUE = 0, 1, 2
MOMENT_MS = 1000


@dataclass(frozen=True, slots=True)
class Truth:
    """What is true from each change on.

    Parameters
    ----------
    at_ms : (change,) int array
        Instants of changes, rising strictly; the first is the beginning of what is looked at [ms UTC].
    value : (change,) int8 array
        ``FALSE``, ``UNKNOWN`` or ``TRUE`` from then on; neighbours differ.
    end_ms : int
        End of what is looked at [ms UTC].
    """

    at_ms: Ints
    value: Bytes
    end_ms: int

    def at(self, instants_ms: Ints) -> Bytes:
        """Return the value at instants within the stretch, shape as given."""
        return self.value[np.searchsorted(self.at_ms, instants_ms, side="right") - 1]

    def stretches(self, value: int = TRUE) -> Stretches:
        """Return beginnings and ends [ms] of the stretches that have a value."""
        ends = np.append(self.at_ms[1:], self.end_ms)
        held = self.value == value
        return self.at_ms[held], ends[held]

    @property
    def negated(self) -> "Truth":
        """Its opposite; what is not known stays so."""
        return Truth(self.at_ms, (TRUE - self.value).astype(np.int8), self.end_ms)

    @property
    def crosses(self) -> Flags:
        """Of each true stretch: whether what was last known before it is false."""
        known = self.value != UNKNOWN
        place = np.where(known, np.arange(self.value.size), -1)
        last = np.maximum.accumulate(np.append(-1, place))[:-1]
        was_false = (last >= 0) & (self.value[np.maximum(last, 0)] == FALSE)
        return np.asarray(was_false[self.value == TRUE], dtype=np.bool_)


def begins(truth: Truth) -> Ints:
    """Return when it came true, having last been known to be false [ms UTC]."""
    return truth.stretches()[0][truth.crosses]


def constant(value: int, start_ms: int, end_ms: int) -> Truth:
    """Return what stays the same from beginning to end."""
    return Truth(np.array([start_ms], dtype=np.int64), np.array([value], dtype=np.int8), end_ms)


def from_changes(at_ms: Ints, value: Bytes, start_ms: int, end_ms: int, before: int = UNKNOWN) -> Truth:
    """Return truth from changes in rising order; of several at one instant the last counts.

    Parameters
    ----------
    before : int
        What holds at the start, if no change stands at or before it.
    """
    keep = np.append(at_ms[1:] != at_ms[:-1], True) if at_ms.size else np.zeros(0, dtype=bool)
    at_ms, value = at_ms[keep], value[keep]
    first, last = np.searchsorted(at_ms, [start_ms, end_ms], side="right")
    last = int(np.searchsorted(at_ms, end_ms, side="left"))
    head = int(value[first - 1]) if first else before
    at = np.concatenate([[start_ms], at_ms[first:last]]).astype(np.int64)
    values = np.concatenate([[head], value[first:last]]).astype(np.int8)
    changed = np.append(True, values[1:] != values[:-1])
    return Truth(at[changed], values[changed], end_ms)


def from_stretches(begin_ms: Ints, until_ms: Ints, start_ms: int, end_ms: int) -> Truth:
    """Return truth that holds within stretches [begin, until), which may touch or overlap, and is false else."""
    if begin_ms.size == 0:
        return constant(FALSE, start_ms, end_ms)
    at = np.concatenate([begin_ms, until_ms])
    step = np.concatenate([np.ones(begin_ms.size), -np.ones(until_ms.size)])
    order = np.argsort(at, kind="stable")
    depth = np.cumsum(step[order])
    return from_changes(at[order], np.where(depth > 0, TRUE, FALSE).astype(np.int8), start_ms, end_ms, FALSE)


def moments(at_ms: Ints, start_ms: int, end_ms: int) -> Truth:
    """Return truth that holds for one second from each instant on."""
    at = np.asarray(at_ms, dtype=np.int64)
    return from_stretches(at, at + MOMENT_MS, start_ms, end_ms)


def _joined(parts: Sequence[Truth], lesser: bool) -> Truth:
    if len(parts) == 1:
        return parts[0]
    at = np.unique(np.concatenate([part.at_ms for part in parts]))
    rows = np.stack([part.at(at) for part in parts])
    value = rows.min(axis=0) if lesser else rows.max(axis=0)
    changed = np.append(True, value[1:] != value[:-1])
    return Truth(at[changed], value[changed], parts[0].end_ms)


def all_of(parts: Sequence[Truth]) -> Truth:
    """Return whether all hold; all parts over the same stretch, one at least."""
    return _joined(parts, lesser=True)


def any_of(parts: Sequence[Truth]) -> Truth:
    """Return whether one of them holds; all parts over the same stretch, one at least."""
    return _joined(parts, lesser=False)


def held(truth: Truth, for_ms: int) -> Truth:
    """Return whether it has held all through for so long (J2).

    A change at the very end of the time comes first: what holds exactly as long as that is not told.
    """
    if for_ms <= 0:
        return truth
    begin, end = truth.stretches()
    late = np.minimum(begin + for_ms, end)
    at = np.concatenate([truth.at_ms, late])
    # A true stretch begins as not yet held; where it lasts, a change at its due time makes it true.
    value = np.concatenate([np.where(truth.value == TRUE, FALSE, truth.value), np.full(late.size, TRUE)])
    kept = np.append(np.ones(truth.at_ms.size, dtype=bool), late < end)
    at, value = at[kept], value[kept].astype(np.int8)
    order = np.argsort(at, kind="stable")
    return from_changes(at[order], value[order], int(truth.at_ms[0]), truth.end_ms)
