"""A zone's setpoint as a series over many days, a written day laid out once and used for all its dates."""

from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import carried_into, written_on
from warmeter.core.timetable.day import blocks_of, setpoint_of
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN


def asked_series_c(home: Home, zone: Zone, clock: LocalClock, first: date, days: int, step_min: int) -> Floats:
    """Return what the timetable asks, guarded, at the beginning of each step of so many local days [°C].

    Parameters
    ----------
    step_min : int
        Step; divides an hour [min].

    Notes
    -----
    On days of 23 or 25 hours the blocks are laid out by the clock; other days repeat their written day.
    """
    guard = home.guard_of(zone)
    patterns: dict[tuple[str, str], Floats] = {}
    parts: list[Floats] = []
    held_before = setpoint_of(home, zone, carried_into(home, zone, first)[2])
    for k in range(days):
        on = first + timedelta(days=k)
        day = clock.day(on)
        written = written_on(home, zone, on)
        minutes = (day.end_ms - day.start_ms) // MS_PER_MIN
        key = (written.timetable.id, written.key)
        if minutes != MIN_PER_DAY:
            part = _by_clock(home, zone, clock, on, step_min)
        else:
            if key not in patterns:
                patterns[key] = _pattern(home, zone, written.points, step_min)
            part = np.where(np.isnan(patterns[key]), held_before, patterns[key])
        parts.append(part)
        if written.points:
            held_before = setpoint_of(home, zone, written.points[-1])
    return np.clip(np.concatenate(parts), guard.low_c, guard.high_c)


def _pattern(home: Home, zone: Zone, points: tuple, step_min: int) -> Floats:  # type: ignore[type-arg]
    """Return a written day by step, NaN before its first point."""
    found = np.full(MIN_PER_DAY // step_min, np.nan)
    for point in points:
        found[-(-point.start_min // step_min) :] = setpoint_of(home, zone, point)
    return found


def _by_clock(home: Home, zone: Zone, clock: LocalClock, on: date, step_min: int) -> Floats:
    day = clock.day(on)
    at = np.arange(day.start_ms, day.end_ms, step_min * MS_PER_MIN, dtype=np.int64)
    found = np.empty(at.size)
    for block in blocks_of(home, zone, day, clock):
        found[(at >= block.from_ms) & (at < block.until_ms)] = block.setpoint_c
    return found
