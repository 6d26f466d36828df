"""The axis of one local day: grid lines and numerals by its wall clock, on days of 23 to 25 hours too."""

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.timegrid import LocalClock, LocalDay
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H, MS_PER_MIN
from warmeter.web import format as show
from warmeter.web.strip.draw import LEFT, RIGHT
from warmeter.web.strip.lanes import Axis

TABLE_MIN, WIDE_PX_H = 5, 18
EVENING_MIN = 1170.0


def day_axis(clock: LocalClock, day: LocalDay, width: int, now_ms: int | None = None) -> Axis:
    """Return the axis of a local day for a strip's width [px]; ``now_ms`` is marked where it lies within."""
    minutes = (day.end_ms - day.start_ms) // MS_PER_MIN
    table_at = table_instants(day)
    _, wall = clock.local_minutes(table_at)
    grid, numerals = day_marks(clock, day, width)
    now = None if now_ms is None or not day.start_ms <= now_ms < day.end_ms else (now_ms - day.start_ms) / MS_PER_MIN
    return Axis(
        length=float(minutes),
        grid=grid,
        numerals=numerals,
        now=now,
        now_label="" if now is None or now_ms is None else f"now {show.clock_now(now_ms, clock)}",
        table_step=float(TABLE_MIN),
        table_times=[show.clock_time(minute) for minute in wall.tolist()],
        crosshair=EVENING_MIN * minutes / MIN_PER_DAY,
        clock_names=clock_names(clock, table_at, TABLE_MIN),
    )


def table_instants(day: LocalDay) -> Ints:
    """Return the instants of the crosshair's table [ms UTC]."""
    return np.arange(day.start_ms, day.end_ms, TABLE_MIN * MS_PER_MIN, dtype=np.int64)


def clock_names(clock: LocalClock, table_at: Ints, step_min: int) -> list[tuple[float, str]]:
    """Return from which minute on the clock has which name: two on a day on which it changes."""
    names = [clock.abbreviation(at) for at in table_at.tolist()]
    return [(float(step_min * k), name) for k, name in enumerate(names) if not k or name != names[k - 1]]


def day_marks(clock: LocalClock, day: LocalDay, width: int) -> tuple[list[tuple[float, bool]], list[tuple[float, str]]]:
    """Return grid lines and numerals of one day by its wall clock."""
    minutes = (day.end_ms - day.start_ms) // MS_PER_MIN
    at = day.start_ms + np.arange(0, minutes + 1, MIN_PER_H, dtype=np.int64) * MS_PER_MIN
    _, wall = clock.local_minutes(at)
    px = (width - LEFT - RIGHT) / (minutes / MIN_PER_H)
    every = 2 if px >= WIDE_PX_H else 3
    grid, numerals = [], []
    for k, minute in enumerate(wall.tolist()):
        hour = minute // MIN_PER_H
        is_end = k == at.size - 1
        if hour % 2 == 0 or is_end:
            grid.append((k * 60.0, hour % 6 == 0))
        if hour % every == 0 or is_end:
            numerals.append((k * 60.0, "24" if is_end and hour == 0 else f"{hour:02d}"))
    return grid, numerals
