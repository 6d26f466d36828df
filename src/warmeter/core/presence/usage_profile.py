"""When a room is really used, by groups of weekdays and slots of the day, and the blocks that follow from it (N4)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints, true_runs
from warmeter.core.presence.share_interval import Z_95, share_interval
from warmeter.core.units import MIN_PER_DAY

Minutes = tuple[tuple[float, float], ...]
SLACK = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class UsedDay:
    """A local day: weekday (0 Monday), and stretches of local minutes in which the room was used, and was known."""

    weekday: int
    used_min: Minutes
    known_min: Minutes


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileSettings:
    """How a profile is counted and when a block is proposed; slots and range in local minutes."""

    range_min: tuple[int, int] = (0, MIN_PER_DAY)
    slot_min: int = 15
    use_share: float = 0.34
    z: float = Z_95
    min_days: int = 4
    lower_least: float = 0.3
    fill_slots: int = 1
    least_slots: int = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class UsageProfile:
    """A group's slots: days on which it was used, days that count, share with its 95 % ends (NaN without days), blocks."""

    used_days: Ints
    days: Ints
    share: Floats
    low: Floats
    high: Floats
    blocks_min: tuple[tuple[int, int], ...]


def usage_profile(
    days: Sequence[UsedDay], groups: Mapping[str, Sequence[int]], settings: ProfileSettings
) -> dict[str, UsageProfile]:
    """Return the profile of each group of weekdays.

    Parameters
    ----------
    days : sequence of UsedDay
        Stretches of a day do not overlap; missing minutes of a clock change are not known.
    groups : mapping of str to weekdays
        Monday 0.

    References
    ----------
    docs/methods N4.
    """
    begin, end = settings.range_min
    edges = np.arange(begin, end, settings.slot_min)
    slots = [(float(edge), min(float(edge) + settings.slot_min, float(end))) for edge in edges]
    weekday = np.array([day.weekday for day in days], dtype=np.int64)
    known = np.array([[_overlap(day.known_min, slot) for slot in slots] for day in days]).reshape(-1, len(slots))
    used = np.array([[_both(day, slot) for slot in slots] for day in days]).reshape(-1, len(slots))
    counts = 2 * known >= np.array([until - start for start, until in slots])
    is_used = counts & (used + SLACK >= settings.use_share * known)
    found = {}
    for name, weekdays in groups.items():
        mine = np.isin(weekday, list(weekdays))
        n, k = counts[mine].sum(axis=0), is_used[mine].sum(axis=0)
        share = np.array([a / b if b else np.nan for a, b in zip(k, n, strict=True)])
        ends = [share_interval(s, int(b), settings.z) if b else (np.nan, np.nan) for s, b in zip(share, n, strict=True)]
        low = np.array([end[0] for end in ends])
        blocks = _blocks(n >= settings.min_days, low + SLACK >= settings.lower_least, settings)
        found[name] = UsageProfile(
            used_days=k, days=n, share=share, low=low, high=np.array([end[1] for end in ends]), blocks_min=blocks
        )
    return found


def _overlap(stretches: Minutes, slot: tuple[float, float]) -> float:
    return sum(max(0.0, min(until, slot[1]) - max(begin, slot[0])) for begin, until in stretches)


def _both(day: UsedDay, slot: tuple[float, float]) -> float:
    """Return the minutes of a slot that were used and known."""
    cut = [(max(begin, slot[0]), min(until, slot[1])) for begin, until in day.known_min]
    return sum(_overlap(day.used_min, each) for each in cut if each[0] < each[1])


def _blocks(has_days: Flags, is_likely: Flags, settings: ProfileSettings) -> tuple[tuple[int, int], ...]:
    """Return runs of likely slots as [from, to) in minutes, small gaps filled, short ones dropped."""
    marked = has_days & is_likely
    places = np.flatnonzero(marked)
    for one, other in pairwise(places):
        if other - one - 1 <= settings.fill_slots and has_days[one:other].all():
            marked[one:other] = True
    begin, end = settings.range_min
    return tuple(
        (begin + settings.slot_min * int(first), min(begin + settings.slot_min * int(last), end))
        for first, last in zip(*true_runs(marked), strict=True)
        if last - first >= settings.least_slots
    )
