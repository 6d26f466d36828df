"""When nobody was at home, and how far away the nearest telephone was meanwhile."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Bytes, Flags, Floats, Ints, true_runs
from warmeter.core.presence.presence_score import standing
from warmeter.core.timegrid import LocalClock, weekday_of_epoch_days
from warmeter.core.truth.truth import FALSE
from warmeter.core.units import MIN_PER_DAY, MS_PER_S

# A telephone that has said nothing for longer is nowhere [s].
DISTANCE_STANDS_S = 2400
# Fewer arrivals of a kind of day say nothing of a usual hour.
FEWEST_ARRIVALS = 4
DAYS_OFF = (5, 6)
# Whoever comes home before it comes home on the day before [min of the day].
DAY_TURNS_MIN = 240


@dataclass(frozen=True, slots=True, kw_only=True)
class Absence:
    """Nobody at home over minutes [left, came) of what is looked at."""

    left: int
    came: int


def absences_of(state: Bytes, least_min: int) -> list[Absence]:
    """Return the absences of at least so many minutes that ended, by a home's state in each minute.

    Where the state is not known, what was known last stands.
    """
    begins, ends = true_runs(standing(state) == FALSE)
    rows = zip(begins.tolist(), ends.tolist(), strict=True)
    return [Absence(left=a, came=b) for a, b in rows if b - a >= least_min and b < state.size]


def nearest_m(told: Iterable[tuple[Ints, Floats]], minutes_ms: Ints) -> Floats:
    """Return the distance of the telephone that is nearest home in each minute [m]; NaN where none has said it lately."""
    found = np.full(minutes_ms.size, np.nan)
    for at, metres in told:
        place = np.searchsorted(at, minutes_ms, side="right") - 1
        is_fresh = (place >= 0) & (minutes_ms - at[np.maximum(place, 0)] <= DISTANCE_STANDS_S * MS_PER_S)
        found = np.fmin(found, np.where(is_fresh, metres[np.maximum(place, 0)], np.nan))
    return found


def within_distance(absence: Absence, nearest: Floats, distance_m: float) -> Flags:
    """Return the minutes of an absence in which somebody has come back within a distance, (minute,) from its begin.

    Whoever was never farther away since leaving has not come back; a minute without a distance is not within it.
    """
    here = nearest[absence.left : absence.came]
    was_beyond = np.maximum.accumulate(np.nan_to_num(here, nan=0.0)) > distance_m
    return np.asarray(was_beyond & (here <= distance_m), dtype=np.bool_)


def usual_arrival_min(
    absences: Iterable[Absence], minutes_ms: Ints, clock: LocalClock, assurance: float
) -> dict[int, int]:
    """Return by weekday the minute of the day before which at most (1 − assurance) of the arrivals came.

    Working days and days off apart; a kind of day with fewer than four arrivals takes all. Days turn at four in the
    morning: an arrival at half past midnight is one at minute 1470.
    """
    came = np.array([minutes_ms[a.came] for a in absences], dtype=np.int64)
    if came.size < FEWEST_ARRIVALS:
        return {}
    day, minute = evening_minutes(came, clock)
    is_off = np.isin(weekday_of_epoch_days(day), DAYS_OFF)
    result: dict[int, int] = {}
    for of_kind in (False, True):
        own = minute[is_off == of_kind]
        chosen = own if own.size >= FEWEST_ARRIVALS else minute
        hour = int(np.quantile(chosen, 1 - assurance, method="lower"))
        result |= {k: hour for k in range(7) if (k in DAYS_OFF) == of_kind}
    return result


def evening_minutes(at_ms: Ints, clock: LocalClock) -> tuple[Ints, Ints]:
    """Return (epoch day, minute) of instants on days that turn at four in the morning: minutes from 240 to 1679."""
    day, minute = clock.local_minutes(at_ms)
    is_night = minute < DAY_TURNS_MIN
    return day - is_night, minute + MIN_PER_DAY * is_night
