"""Clock times and dates on the home's clock as stretches and moments; a skipped time is the first instant after."""

from collections.abc import Collection
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.timegrid import LocalClock

Pairs = list[tuple[int, int]]
MonthDay = tuple[int, int]


def dates_between(clock: LocalClock, start_ms: int, end_ms: int) -> list[date]:
    """Return the local dates from one before the start to one after the end."""
    first, last = clock.local(start_ms).date() - timedelta(days=1), clock.local(end_ms).date() + timedelta(days=1)
    return [first + timedelta(days=k) for k in range((last - first).days + 1)]


def hour_stretches(
    clock: LocalClock, from_min: int, until_min: int, weekdays: Collection[int], start_ms: int, end_ms: int
) -> Pairs:
    """Return the stretches of clock hours around [start, end), not cut; equal times are a whole day."""
    wraps = until_min <= from_min
    found = []
    for on in dates_between(clock, start_ms, end_ms):
        if weekdays and on.weekday() not in weekdays:
            continue
        begin = clock.instant(on, from_min)
        until = clock.instant(on + timedelta(days=1) if wraps else on, until_min)
        if until > begin:
            found.append((begin, until))
    return found


def clock_moments(clock: LocalClock, at_min: int, weekdays: Collection[int], start_ms: int, end_ms: int) -> Ints:
    """Return the instants of a clock time within [start, end), rising."""
    found = [
        clock.instant(on, at_min)
        for on in dates_between(clock, start_ms, end_ms)
        if not weekdays or on.weekday() in weekdays
    ]
    return np.array(sorted({at for at in found if start_ms <= at < end_ms}), dtype=np.int64)


def is_date_in(first: MonthDay, last: MonthDay, on: date) -> bool:
    """Return whether a date lies in a yearly stretch, both ends included."""
    day = (on.month, on.day)
    return first <= day <= last if first <= last else day >= first or day <= last


def date_stretches(clock: LocalClock, first: MonthDay, last: MonthDay, start_ms: int, end_ms: int) -> Pairs:
    """Return the days of a yearly stretch of dates around [start, end)."""
    return [
        (clock.instant(on, 0), clock.instant(on + timedelta(days=1), 0))
        for on in dates_between(clock, start_ms, end_ms)
        if is_date_in(first, last, on)
    ]


def midnights(clock: LocalClock, start_ms: int, end_ms: int) -> Ints:
    """Return the beginnings of the local days that touch [start, end), rising."""
    found = [clock.instant(on, 0) for on in dates_between(clock, start_ms, end_ms)]
    return np.array([at for at in found if at < end_ms], dtype=np.int64)
