"""Whether a meter's intervals are all there: what is missing, what overlaps, and the energy counted once (Q10)."""

from dataclasses import dataclass
from datetime import date

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints, true_runs
from warmeter.core.errors import within
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_H

Spans = tuple[tuple[int, int], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class DayIntervals:
    """One local day: how many slots it has and how many of them are wholly covered."""

    date: date
    hours: float
    expected: int
    full: int
    coverage: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Completeness:
    """How far readings cover local days.

    Parameters
    ----------
    expected, full : int
        Slots of all days, and those wholly covered.
    partial_ms : tuple of int
        Starts of slots that are covered in part [ms UTC].
    missing_n : int
        Slots of which nothing is covered.
    missing_ms, overlaps_ms : tuple of (int, int)
        Runs of adjacent missing slots, and stretches covered twice or more [ms UTC].
    overlapping : int
        Readings that share a second or more with another.
    dropped : int
        Readings without a value or a length.
    coverage : float
        Covered share of the days (ratio).
    total, total_raw : float
        Sum of the values with every second counted once, and as they stand, in their own unit.
    days : tuple of DayIntervals
        Day by day.
    """

    expected: int
    full: int
    partial_ms: tuple[int, ...]
    missing_n: int
    missing_ms: Spans
    overlaps_ms: Spans
    overlapping: int
    dropped: int
    coverage: float
    total: float
    total_raw: float
    days: tuple[DayIntervals, ...]


def completeness(
    start_ms: Ints, length_ms: Ints, values: Floats, *, clock: LocalClock, first: date, last: date, step_s: float
) -> Completeness:
    """Return how far interval readings cover local days.

    Parameters
    ----------
    start_ms, length_ms : (reading,) int arrays
        Starts [ms UTC] and lengths of intervals [ms]; a length of 0 or less is dropped.
    values : (reading,) float array
        What each interval holds (an energy, say); NaN where nothing is known.
    clock : LocalClock
        Of the home.
    first, last : date
        First and last day, both counted.
    step_s : float
        Length of a slot, 1 to 86 400 [s]; a day's last slot is cut at midnight.

    Raises
    ------
    OutOfRange
        If the slot is not within its range.

    Notes
    -----
    docs/methods Q10. Where readings overlap, the earlier start counts, then the earlier in the list.
    """
    within("slot", step_s, 1.0, 86_400.0, "s")
    slots, day_of = _slots(clock, first, last, round(step_s * 1000))
    begin, end = int(slots[0]), int(slots[-1])
    good = ~np.isnan(values) & (length_ms > 0)
    at, until, held = start_ms[good], start_ms[good] + length_ms[good], values[good]
    share_length = (until - at).astype(np.float64)
    low, high = np.clip(at, begin, end), np.clip(until, begin, end)
    inside = (high - low).astype(np.float64)
    order = np.argsort(low, kind="stable")
    covered_to = np.maximum.accumulate(np.append(np.int64(begin), high[order]))
    fresh = np.maximum(0, high[order] - np.maximum(low[order], covered_to[:-1])).astype(np.float64)
    edges = _depth(low, high, begin, end)
    once = _spans(edges, 1)
    twice = _spans(edges, 2)
    covered = _covered_before(once, slots)
    by_slot = np.diff(covered)
    width = np.diff(slots)
    is_missing, is_full = by_slot == 0, by_slot == width
    hits = _covered_before(twice, np.concatenate([low, high])).reshape(2, -1)
    return Completeness(
        expected=int(width.size),
        full=int(is_full.sum()),
        partial_ms=tuple(slots[:-1][~is_missing & ~is_full].tolist()),
        missing_n=int(is_missing.sum()),
        missing_ms=_runs(slots, is_missing),
        overlaps_ms=twice,
        overlapping=int((hits[1] - hits[0] >= 1000).sum()),
        dropped=int((~good).sum()),
        coverage=float(by_slot.sum() / (end - begin)),
        total=float(np.sum(held[order] * fresh / share_length[order])),
        total_raw=float(np.sum(held * inside / share_length)),
        days=_days(clock, first, day_of, by_slot, is_full),
    )


def _slots(clock: LocalClock, first: date, last: date, step_ms: int) -> tuple[Ints, Ints]:
    """Return the edges of all slots [ms UTC] and the day of each slot, counted from the first."""
    edges: list[Ints] = []
    days: list[Ints] = []
    day = clock.day(first)
    number = 0
    while day.date <= last:
        starts = np.arange(day.start_ms, day.end_ms, step_ms, dtype=np.int64)
        edges.append(starts)
        days.append(np.full(starts.size, number, dtype=np.int64))
        end_ms, day, number = day.end_ms, clock.day_of(day.end_ms), number + 1
    return np.append(np.concatenate(edges), np.int64(end_ms)), np.concatenate(days)


def _depth(low: Ints, high: Ints, begin: int, end: int) -> tuple[Ints, Ints]:
    """Return instants, and how many readings cover the stretch from each to the next."""
    some = high > low
    instants = np.concatenate([[begin], low[some], high[some], [end]]).astype(np.int64)
    change = np.concatenate([[0], np.ones(int(some.sum())), -np.ones(int(some.sum())), [0]]).astype(np.int64)
    order = np.argsort(instants, kind="stable")
    unique, first = np.unique(instants[order], return_index=True)
    depth = np.cumsum(np.add.reduceat(change[order], first))
    return unique, depth


def _spans(edges: tuple[Ints, Ints], least: int) -> Spans:
    """Return the maximal stretches covered at least so often."""
    at, depth = edges
    deep = np.concatenate([[False], depth[:-1] >= least, [False]])
    turn = np.flatnonzero(deep[1:] != deep[:-1])
    return tuple((int(at[a]), int(at[b])) for a, b in zip(turn[::2], turn[1::2], strict=True))


def _covered_before(spans: Spans, at: Ints) -> Ints:
    """Return how much of disjoint rising spans lies before each instant [ms]."""
    if not spans:
        return np.zeros(at.size, dtype=np.int64)
    begin, end = (np.array(side, dtype=np.int64) for side in zip(*spans, strict=True))
    before = np.concatenate([[0], np.cumsum(end - begin)]).astype(np.int64)
    k = np.searchsorted(begin, at, side="right")
    here = np.where(k > 0, np.minimum(at, end[np.maximum(k - 1, 0)]) - begin[np.maximum(k - 1, 0)], 0)
    return np.asarray(before[np.maximum(k - 1, 0)] + here, dtype=np.int64)


def _runs(slots: Ints, chosen: Flags) -> Spans:
    return tuple((int(slots[a]), int(slots[b])) for a, b in zip(*true_runs(chosen), strict=True))


def _days(clock: LocalClock, first: date, day_of: Ints, by_slot: Ints, is_full: Flags) -> tuple[DayIntervals, ...]:
    out, day = [], clock.day(first)
    for number in range(int(day_of[-1]) + 1):
        mine = day_of == number
        length = day.end_ms - day.start_ms
        out.append(
            DayIntervals(
                date=day.date,
                hours=length / MS_PER_H,
                expected=int(mine.sum()),
                full=int(is_full[mine].sum()),
                coverage=float(by_slot[mine].sum() / length),
            )
        )
        day = clock.day_of(day.end_ms)
    return tuple(out)
