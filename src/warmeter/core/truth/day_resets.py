"""Facts of the day: whether a machine has run since the day's reset hour (J10)."""

from collections.abc import Sequence
from datetime import timedelta
from typing import Literal

from warmeter.core.timegrid import LocalClock

_MS = 1000
Counts = Literal["started", "ended", "ran"]
Run = tuple[int, int | None]


def day_start_ms(clock: LocalClock, at_ms: int, reset_min: int) -> int:
    """Return the latest reset at or before an instant [ms UTC]."""
    on = clock.local(at_ms).date()
    # The date goes back an hour over midnight in some zones: tomorrow's reset may already have been.
    for back in (-1, 0, 1):
        start = clock.instant(on - timedelta(days=back), reset_min)
        if start <= at_ms:
            return start
    return clock.instant(on - timedelta(days=2), reset_min)


def resets_ms(clock: LocalClock, start_ms: int, end_ms: int, reset_min: int) -> list[int]:
    """Return every reset within [start, end), and the latest before it, rising [ms UTC]."""
    found = [day_start_ms(clock, start_ms, reset_min)]
    on = clock.local(start_ms).date() - timedelta(days=1)
    while (at := clock.instant(on, reset_min)) < end_ms:
        if at > found[-1]:
            found.append(at)
        on += timedelta(days=1)
    return found


def reached_ms(runs: Sequence[Run], *, counts: Counts, least_s: int, begin_ms: int, until_ms: int) -> int | None:
    """Return when a fact comes true within one of its days [begin, until), None if it does not [ms UTC]."""
    left = max(1, least_s) * _MS
    for start, end in runs:
        if start >= until_ms:
            break
        if counts == "started":
            if start >= begin_ms:
                return start
        elif counts == "ended":
            if end is not None and begin_ms <= end < until_ms:
                return end
        else:
            first = max(start, begin_ms)
            last = until_ms if end is None else min(end, until_ms)
            if last - first >= left and first + left < until_ms:
                return first + left
            left -= max(0, last - first)
    return None
