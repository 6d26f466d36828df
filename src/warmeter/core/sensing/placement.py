"""What spoils a sensor's readings where it hangs, found in its log: sun, heater, outside wall, hand, draught, silence."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.sensing.excursions import Excursion, both_ways, excursions

SpoiltBy = Literal["sun", "heater", "outside_wall", "hand", "draught", "stale"]
# A sensor that leaves another of its room by so much within the time feels something else; alone it has to outrun what
# a heater at full does to a small room, and to be back sooner.
LEAST_K, LEAST_ALONE_K, WITHIN_MIN = 1.0, 1.5, 20
LONGEST_MIN, LONGEST_ALONE_MIN = 300, 180
HAND_MIN = 60  # a hand's warmth is gone within an hour
NEAR_MIN = 25  # before an excursion: what began then may have made it
SUNLIT_SHARE, OFTENER = 0.6, 3.0
FEWEST_DAYS, FEWEST_STARTS, STARTS_SHARE = 3, 4, 0.3
COLDER_K = 6.0  # outdoors, for a draught to be felt
# Against another sensor of the room: below this much a kelvin of outdoors a wall speaks.
WALL_SLOPE, WALL_LEAST_K, WALL_FEWEST_H = -0.03, 0.4, 48.0
HEATER_LEAST_K = 1.0
STILL_MIN, OTHERS_MOVE_K, OUTDOORS_MOVES_K = 360, 1.5, 4.5  # the same for six hours while what is around moved


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacementLog:
    """A sensor's log on an even grid; NaN where not heard.

    Parameters
    ----------
    step_min : float
        Length of a step [min].
    sensor_c, others_c, outdoor_c : (step,) float arrays
        Its readings, those of the room's other sensors (all NaN without one), outdoors [°C].
    heating : (step,) float array
        1 while the room's heater works, 0 while not, NaN where not known.
    is_sunlit : (step,) bool array
        Whether the beam of a clear sky stands on a window of the room.
    is_open : (step,) float array
        1 while a window or door of the room stands open, NaN where no contact tells.
    day : (step,) int array
        Local day.
    """

    step_min: float
    sensor_c: Floats
    others_c: Floats
    outdoor_c: Floats
    heating: Floats
    is_sunlit: Flags
    is_open: Floats
    day: Ints

    def steps(self, minutes: float) -> int:
        """Return how many steps some minutes are, one at least."""
        return max(1, round(minutes / self.step_min))


@dataclass(frozen=True, slots=True, kw_only=True)
class Spoilt:
    """A cause that spoils readings.

    Parameters
    ----------
    by : str
        The cause.
    hours : float
        Hours that it spoils in the log [h].
    times, days : int
        How often, on how many days; 0 times for what lasts.
    size_k : float
        How far off in the middle, below 0 where it reads too low [K].
    places : tuple of int
        Where its excursions begin in the log.
    """

    by: SpoiltBy
    hours: float
    times: int
    days: int
    size_k: float
    places: tuple[int, ...] = ()


def spoilt_readings(log: PlacementLog) -> list[Spoilt]:
    """Return what spoils a sensor's readings, the most hours first.

    Beside another sensor of the room the difference to it is looked at, else its own course. What comes back quickly and
    has no cause that is known here is left out: it is not known.

    References
    ----------
    docs/methods, placement.
    """
    has_other = not np.isnan(log.others_c).all()
    still = _still_stretches(log)
    course = (log.sensor_c - log.others_c if has_other else log.sensor_c).copy()
    for begin, end in still:
        course[begin:end] = np.nan
    least = LEAST_K if has_other else LEAST_ALONE_K
    within, longest = log.steps(WITHIN_MIN), log.steps(LONGEST_MIN if has_other else LONGEST_ALONE_MIN)
    found = both_ways(course, least_k=least, within=within, longest=longest)
    rises = excursions(course, least_k=least, within=within, longest=longest)
    by_heater = _follow_the_heater(log, rises)
    by_cause: dict[SpoiltBy, list[Excursion]] = {}
    for each in found:
        cause = _cause(log, each, by_heater=by_heater, is_alone=not has_other)
        if cause is not None and cause != "heater":
            by_cause.setdefault(cause, []).append(each)
    told = [
        _told(log, by, own)
        for by, own in by_cause.items()
        if by == "hand" or len({int(log.day[e.begin]) for e in own}) >= FEWEST_DAYS
    ]
    told = [t for t in told if t.by != "sun" or _keeps_to_the_sun(log, rises, t)]
    told += _by_heater(log, rises) if by_heater else []
    told += _still(log, still)
    if has_other:
        told += _beside_wall(log)
        if not by_heater:
            told += _over_heater(log)
    return sorted(told, key=lambda t: -t.hours)


def _follow_the_heater(log: PlacementLog, rises: list[Excursion]) -> bool:
    """Whether a fair share of the heater's starts outside the sun is followed by a rise."""
    with np.errstate(invalid="ignore"):
        starts = np.flatnonzero(np.diff(log.heating) == 1)
    dark = starts[~log.is_sunlit[starts]]
    risen = np.zeros(log.day.size, dtype=bool)
    for each in rises:
        risen[max(0, each.begin - log.steps(NEAR_MIN)) : each.peak] = True
    followed = int(risen[dark].sum())
    return followed >= FEWEST_STARTS and followed >= STARTS_SHARE * dark.size


def _keeps_to_the_sun(log: PlacementLog, rises: list[Excursion], sun: Spoilt) -> bool:
    """Whether its rises come far oftener an hour while the sun can stand on the windows than else."""
    lit = int(log.is_sunlit.sum())
    dark = log.is_sunlit.size - lit
    return sun.times * dark >= OFTENER * (len(rises) - sun.times) * lit


def _by_heater(log: PlacementLog, rises: list[Excursion]) -> list[Spoilt]:
    """Return that the heater warms it: it is off as long as that works."""
    own = [e for e in rises if _cause(log, e, by_heater=True, is_alone=True) == "heater"]
    works = log.heating == 1
    return [
        Spoilt(
            by="heater",
            hours=float(works.sum()) * log.step_min / 60,
            times=len(own),
            days=np.unique(log.day[works]).size,
            size_k=float(np.median([e.size_k for e in own])),
            places=tuple(e.begin for e in own),
        )
    ]


def _cause(log: PlacementLog, each: Excursion, *, by_heater: bool, is_alone: bool) -> SpoiltBy | None:
    before = max(0, each.begin - log.steps(NEAR_MIN))
    around = slice(before, each.peak + 1)
    if each.size_k < 0:
        worked = by_heater and bool((log.heating[around] == 1).any())
        lit = is_alone and bool(log.is_sunlit[around].any())
        aired = bool((log.is_open[around] == 1).any())
        colder = bool(np.nanmin(log.sensor_c[around]) - log.outdoor_c[each.peak] >= COLDER_K)
        known = bool((~np.isnan(log.heating[around])).all())
        return "draught" if known and colder and not (aired or worked or lit) else None
    if by_heater and bool((log.heating[around] == 1).any()):
        return "heater"
    if float(log.is_sunlit[each.begin : each.peak + 1].mean()) >= SUNLIT_SHARE:
        return "sun"
    is_short = (each.end - each.begin) * log.step_min <= HAND_MIN
    aired = bool((log.is_open[around] == 1).any())
    return "hand" if is_short and not aired and bool((~np.isnan(log.heating[around])).all()) else None


def _told(log: PlacementLog, by: SpoiltBy, own: list[Excursion]) -> Spoilt:
    return Spoilt(
        by=by,
        hours=sum(e.end - e.begin for e in own) * log.step_min / 60,
        times=len(own),
        days=len({int(log.day[e.begin]) for e in own}),
        size_k=float(np.median([e.size_k for e in own])),
        places=tuple(e.begin for e in own),
    )


def _still_stretches(log: PlacementLog) -> list[tuple[int, int]]:
    """Return stretches in which readings stay the same for hours while what is around them moves."""
    values, least = log.sensor_c, log.steps(STILL_MIN)
    edges = np.flatnonzero(~np.append(False, np.diff(values) == 0))
    beside = not np.isnan(log.others_c).all()
    around, needed = (log.others_c, OTHERS_MOVE_K) if beside else (log.outdoor_c, OUTDOORS_MOVES_K)
    found = []
    for begin, end in zip(edges.tolist(), [*edges[1:].tolist(), values.size], strict=True):
        if end - begin < least:
            continue
        heard = around[begin:end][~np.isnan(around[begin:end])]
        worked = bool((np.diff(log.heating[begin:end]) == 1).any())
        if worked or (heard.size > 0 and float(np.ptp(heard)) >= needed):
            found.append((begin, end))
    return found


def _still(log: PlacementLog, stretches: list[tuple[int, int]]) -> list[Spoilt]:
    if not stretches:
        return []
    return [
        Spoilt(
            by="stale",
            hours=sum(end - begin for begin, end in stretches) * log.step_min / 60,
            times=len(stretches),
            days=len({int(log.day[begin]) for begin, _ in stretches}),
            size_k=0.0,
            places=tuple(begin for begin, _ in stretches),
        )
    ]


def _beside_wall(log: PlacementLog) -> list[Spoilt]:
    """Return that it hangs on an outside wall: at rest and in the dark it reads the lower the colder it is outdoors."""
    below, drop = log.sensor_c - log.others_c, log.others_c - log.outdoor_c
    still = ~log.is_sunlit & ~(log.heating == 1) & ~np.isnan(below) & ~np.isnan(drop)
    if int(still.sum()) * log.step_min / 60 < WALL_FEWEST_H or float(np.ptp(drop[still])) < COLDER_K:
        return []
    days = np.unique(log.day[still])
    slope, level = np.polyfit(drop[still], below[still], 1).tolist()
    # Days are the sample: steps of one night say the same.
    left_out = [np.polyfit(drop[s], below[s], 1)[0] for d in days if (s := still & (log.day != d)).any()]
    spread = 2 * float(np.std(left_out)) * (len(left_out) - 1) ** 0.5
    size = level + slope * float(np.median(drop[still]))
    if slope + spread >= WALL_SLOPE or size > -WALL_LEAST_K:
        return []
    off = np.abs(level + slope * drop) > WALL_LEAST_K
    return [Spoilt(by="outside_wall", hours=float(off.sum()) * log.step_min / 60, times=0, days=days.size, size_k=size)]


def _over_heater(log: PlacementLog) -> list[Spoilt]:
    """Return that a heater warms it: while that works it reads higher against the others than at rest."""
    above = log.sensor_c - log.others_c
    known = ~np.isnan(above) & ~log.is_sunlit
    works, rests = known & (log.heating == 1), known & (log.heating == 0)
    days = np.unique(log.day[works])
    if days.size < FEWEST_DAYS or not rests.any():
        return []
    size = float(np.median(above[works]) - np.median(above[rests]))
    if size < HEATER_LEAST_K:
        return []
    return [Spoilt(by="heater", hours=float(works.sum()) * log.step_min / 60, times=0, days=days.size, size_k=size)]
