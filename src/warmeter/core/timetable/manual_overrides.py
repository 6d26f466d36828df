"""Changes by hand: how far they may go, when they end, and those that come again and again."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from warmeter.core.claims.timeline import HAND, TimelineEvent
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, sentence
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import kind_on
from warmeter.core.timetable.day import blocks_between
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_H, MS_PER_MIN

EndKind = Literal["for", "until", "next", "empty"]
HABIT_WINDOW_MIN, HABIT_LEAST, HABIT_DAYS = 30, 3, 28


@dataclass(frozen=True, slots=True, kw_only=True)
class HandEnd:
    """When a change by hand shall end: after minutes, at an instant, at the next change point, or when empty."""

    kind: EndKind
    minutes: int = 0
    at_ms: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class HandChange:
    """A change by hand of a zone's heating setpoint, or with ``is_release`` its end before its term.

    Parameters
    ----------
    value_c : float
        Setpoint asked [°C].
    until_ms, empty_ms : int or None
        Its term, and how long its room may be empty before it ends [ms].
    by, reason : str
        Who or what made it, and why.
    was_c : float or None
        What was asked before it [°C].
    """

    zone_id: str
    at_ms: int
    value_c: float = 0.0
    until_ms: int | None = None
    empty_ms: int | None = None
    by: str = ""
    reason: str = ""
    was_c: float | None = None
    is_release: bool = False

    def happening(self) -> TimelineEvent:
        """Return it as the arbiter takes it."""
        if self.is_release:
            return TimelineEvent(at_ms=self.at_ms, do="release", id=HAND, by=self.by)
        return TimelineEvent(
            at_ms=self.at_ms,
            do="person",
            value=self.value_c,
            until_ms=self.until_ms,
            empty_ms=self.empty_ms,
            by=self.by,
            reason=self.reason,
        )


def hand_range_c(home: Home, zone: Zone) -> tuple[float, float]:
    """Return the range that a change by hand may lie in: its rule's, else the zone's, within the guard [°C]."""
    guard = home.guard_of(zone)
    low = next(v for v in (zone.hand.low_c, zone.low_c, guard.low_c) if v is not None)
    high = next(v for v in (zone.hand.high_c, zone.high_c, guard.high_c) if v is not None)
    return max(low, guard.low_c), min(high, guard.high_c)


def stepped_c(home: Home, zone: Zone, asked_c: float, steps: int) -> float:
    """Return a setpoint so many steps warmer (or, below zero, cooler), never beyond the range [°C]."""
    low, high = hand_range_c(home, zone)
    return min(max(asked_c + steps * zone.hand.step_k, low), high)


def next_change_ms(home: Home, zone: Zone, clock: LocalClock, at_ms: int) -> int | None:
    """Return when the timetable next asks something else, within eight days; None if it does not [ms UTC]."""
    blocks = blocks_between(home, zone, clock, at_ms, at_ms + 8 * MS_PER_DAY)
    now = next(block for block in blocks if block.from_ms <= at_ms < block.until_ms)
    later = (
        b.from_ms for b in blocks if b.from_ms > at_ms and (b.level_id, b.setpoint_c) != (now.level_id, now.setpoint_c)
    )
    return next(later, None)


def hand_change(
    home: Home,
    zone: Zone,
    clock: LocalClock,
    *,
    at_ms: int,
    value_c: float,
    end: HandEnd,
    was_c: float | None = None,
    by: str = "",
    reason: str = "",
) -> HandChange:
    """Return a change by hand with its term, no longer than its zone's longest length.

    Raises
    ------
    HomeError
        If the setpoint lies outside the range by hand, or the change would end before it begins.
    """
    low, high = hand_range_c(home, zone)
    if not low - 1e-9 <= value_c <= high + 1e-9:
        raise HomeError(sentence("by hand {} may ask {}", zone.name, celsius(low, until=high)))
    longest = at_ms + round(zone.hand.longest_h * MS_PER_H)
    until: int | None = longest
    if end.kind == "for":
        until = at_ms + end.minutes * MS_PER_MIN
    elif end.kind == "until":
        until = end.at_ms
    elif end.kind == "next":
        until = next_change_ms(home, zone, clock, at_ms)
    until = longest if until is None else min(until, longest)
    if until <= at_ms:
        raise HomeError("a change by hand must end after it begins")
    empty = zone.hand.empty_min if end.kind != "empty" else max(1, end.minutes)
    return HandChange(
        zone_id=zone.id,
        at_ms=at_ms,
        value_c=value_c,
        until_ms=until,
        empty_ms=None if empty is None else empty * MS_PER_MIN,
        by=by,
        reason=reason,
        was_c=was_c,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Habit:
    """The same change at about the same hour on days of one kind: proposed for the timetable.

    Parameters
    ----------
    kind_id : str
        Kind of day, "" where days have none.
    start_min, end_min : int
        Middle of the beginnings and of the ends [min of day]; an end at or before the start is next day's.
    setpoint_c : float
        Middle of what was asked [°C].
    changes : tuple of HandChange
        The evidence.
    days_seen : int
        Days of that kind in the weeks looked at.
    """

    zone_id: str
    kind_id: str
    start_min: int
    end_min: int
    setpoint_c: float
    changes: tuple[HandChange, ...]
    days_seen: int


def habits_of(home: Home, clock: LocalClock, changes: Sequence[HandChange], as_of_ms: int) -> list[Habit]:
    """Return changes that came on three days or more of a kind within four weeks, warmer or cooler alike in sense.

    Changes count as the same when they begin within half an hour of the middle of their group and go the same way.
    """
    since = as_of_ms - HABIT_DAYS * MS_PER_DAY
    recent = [c for c in changes if not c.is_release and since <= c.at_ms <= as_of_ms]
    days = [clock.local(since + k * MS_PER_DAY).date() for k in range(1, HABIT_DAYS + 1)]
    groups: dict[tuple[str, str, bool], list[HandChange]] = {}
    for change in recent:
        way = change.was_c is None or change.value_c > change.was_c
        groups.setdefault((change.zone_id, _kind(home, clock.local(change.at_ms).date()), way), []).append(change)
    found = []
    for (zone_id, kind_id, _), group in groups.items():
        group.sort(key=lambda c: _minute(clock, c.at_ms))
        while group:
            middle = _minute(clock, group[len(group) // 2].at_ms)
            near = [c for c in group if abs(_minute(clock, c.at_ms) - middle) <= HABIT_WINDOW_MIN]
            group = [c for c in group if c not in near]
            if len({clock.local(c.at_ms).date() for c in near}) >= HABIT_LEAST:
                ends = [_minute(clock, c.until_ms) for c in near if c.until_ms is not None]
                found.append(
                    Habit(
                        zone_id=zone_id,
                        kind_id=kind_id,
                        start_min=_rounded(middle),
                        end_min=_rounded(_middle(ends)) if ends else 0,
                        setpoint_c=_middle([round(c.value_c * 10) for c in near]) / 10,
                        changes=tuple(sorted(near, key=lambda c: c.at_ms)),
                        days_seen=sum(_kind(home, on) == kind_id for on in days),
                    )
                )
    return found


def _kind(home: Home, on: date) -> str:
    kind = kind_on(home, on)
    return kind.id if kind else ""


def _minute(clock: LocalClock, at_ms: int) -> int:
    local = clock.local(at_ms)
    return local.hour * 60 + local.minute


def _middle(values: list[int]) -> int:
    return sorted(values)[len(values) // 2]


def _rounded(minute: int) -> int:
    return round(minute / 5) * 5 % MIN_PER_DAY


LONGEST_MS = 31 * MS_PER_DAY
