"""A room's log as local days of use, and what a timetable gets wrong on them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Bytes, Flags, Ints, true_runs
from warmeter.core.presence.room_presence import RoomPresence
from warmeter.core.presence.usage_profile import UsedDay
from warmeter.core.timegrid import LocalClock, weekday_of_epoch_days
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetableMisses:
    """What a timetable gets wrong a week: minutes saved on while somebody was there, hours warm while nobody was."""

    cold_min_week: float
    warm_h_week: float
    known_days: float


def judged_use(room: RoomPresence, sure: float) -> Bytes:
    """Return whether somebody was in a room in each minute, looking back; ``UNKNOWN`` between."""
    chance = room.probability.looking_back
    return np.where(chance >= sure, TRUE, np.where(chance <= 1 - sure, FALSE, UNKNOWN)).astype(np.int8)


def used_days(use: Bytes, minutes_ms: Ints, clock: LocalClock) -> list[UsedDay]:
    """Return the local days of a log, each with its stretches in use and known, in local minutes.

    Parameters
    ----------
    use : (minute,) int8 array
        ``TRUE``, ``FALSE`` or ``UNKNOWN``.
    minutes_ms : (minute,) int array
        Beginnings of the minutes [ms UTC].

    Notes
    -----
    An hour that comes twice stands once: used if it was in either. One that never comes is not known.
    """
    day, of_day = clock.local_minutes(minutes_ms)
    found = []
    for number in np.unique(day):
        mine = day == number
        known, used = np.zeros(MIN_PER_DAY, dtype=bool), np.zeros(MIN_PER_DAY, dtype=bool)
        known[of_day[mine & (use != UNKNOWN)]] = True
        used[of_day[mine & (use == TRUE)]] = True
        weekday = int(weekday_of_epoch_days(number))
        found.append(UsedDay(weekday=weekday, used_min=_runs(used), known_min=_runs(known)))
    return found


def timetable_misses(use: Bytes, is_warm: Flags) -> TimetableMisses:
    """Return what a timetable gets wrong on a log.

    Parameters
    ----------
    use : (minute,) int8 array
        Whether somebody was there; minutes that are not known count for nothing.
    is_warm : (minute,) flags
        Whether the timetable asks for the level that the room is used at.
    """
    known = int((use != UNKNOWN).sum())
    weeks = known / (7 * MIN_PER_DAY)
    cold, warm = int(((use == TRUE) & ~is_warm).sum()), int(((use == FALSE) & is_warm).sum())
    return TimetableMisses(
        cold_min_week=cold / weeks if weeks else 0.0,
        warm_h_week=warm / MIN_PER_H / weeks if weeks else 0.0,
        known_days=known / MIN_PER_DAY,
    )


def still_share(room: RoomPresence, use: Bytes, minutes: Sequence[tuple[int, int]], of_day: Ints) -> float:
    """Return for how much of its use within stretches of the day somebody kept still there."""
    inside = np.zeros(use.size, dtype=bool)
    for begin, until in minutes:
        inside |= (of_day >= begin) & (of_day < until)
    used = inside & (use == TRUE)
    return float((room.probability.still[used] >= room.probability.chance[used] / 2).mean()) if used.any() else 0.0


def _runs(flags: Flags) -> tuple[tuple[float, float], ...]:
    return tuple((float(a), float(b)) for a, b in zip(*true_runs(flags), strict=True))
