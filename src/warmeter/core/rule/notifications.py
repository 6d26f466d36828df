"""When to tell again: reminders while something lasts, and quiet hours (J4)."""

from collections.abc import Callable, Sequence
from datetime import timedelta

from warmeter.core.timegrid import LocalClock

Quiet = Callable[[int], int | None]


def quiet_by_clock(clock: LocalClock, from_min: int, until_min: int) -> Quiet:
    """Return when quiet hours [from, until) that hold at an instant end by the home's clock, else None [ms UTC]."""

    def ends(at_ms: int) -> int | None:
        if from_min == until_min:
            return None
        on = clock.local(at_ms).date()
        for back in (1, 0):
            day = on - timedelta(days=back)
            begin = clock.instant(day, from_min)
            end = clock.instant(day + timedelta(days=int(until_min <= from_min)), until_min)
            if begin <= at_ms < end:
                return end
        return None

    return ends


def notices(
    stretches: Sequence[tuple[int, int]],
    *,
    after: int,
    repeat: int | None,
    most: int,
    quiet: Quiet,
    end: int,
    is_closed: bool = True,
) -> list[int]:
    """Return when somebody is told, within stretches in which it is true; all times in one unit.

    Parameters
    ----------
    stretches : sequence of (int, int)
        [start, end] in which the condition holds.
    after, repeat, most : int
        First after so long, then every ``repeat`` (None: once), at most ``most`` times in one stretch.
    quiet : callable
        When the quiet time that holds at an instant ends, None where it is not quiet.
    end : int
        Last instant that is looked at, inclusive.
    is_closed : bool
        Whether the very end of a stretch still counts.

    References
    ----------
    docs/methods J4.
    """
    found = []
    for begin, until in stretches:
        last = min(until if is_closed else until - 1, end)
        due = begin + after
        for _ in range(most):
            over = quiet(due)
            due = due if over is None else over
            if due > last:
                break
            found.append(due)
            if repeat is None:
                break
            due += repeat
    return found
