"""Timetables written as blocks from, to and level, as files bring them: the level in force (O1), hours (O2)."""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

from warmeter.core.home.timetables import WEEKDAYS
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_H

DAY_MIN = 1440
LOOK_AHEAD_DAYS = 8


@dataclass(frozen=True, slots=True)
class FromTo:
    """A block of a day [min]; one that ends at or before its start ends on the next date."""

    from_min: int
    to_min: int
    level: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenTimetable:
    """Blocks by day key (mon to sun, or a kind of day) and the level where none holds."""

    else_level: str
    days: Mapping[str, Sequence[FromTo]]


@dataclass(frozen=True, slots=True)
class Span:
    """A block on its date in real time [from, until) [ms UTC]; ``place`` is its place among that date's."""

    from_ms: int
    until_ms: int
    level: str
    place: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """What is in force: level, beginning of its block and next change [ms UTC], None where there is none."""

    level: str
    block_start_ms: int | None
    next_ms: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenCalendar:
    """Named timetables with the dates on which they hold, the last entry first, and dates of another kind."""

    clock: LocalClock
    timetables: Mapping[str, WrittenTimetable]
    default: str
    periods: Sequence[tuple[str, date, date]] = ()
    kinds: Mapping[date, str] = field(default_factory=dict)

    def timetable_on(self, on: date) -> WrittenTimetable:
        """Return the timetable of a local date."""
        held = [name for name, begin, end in self.periods if begin <= on <= end]
        return self.timetables[held[-1] if held else self.default]

    def blocks_on(self, on: date) -> Sequence[FromTo]:
        """Return the blocks that begin on a date: of its kind if that is written, else of its weekday."""
        days = self.timetable_on(on).days
        kind = self.kinds.get(on)
        key = kind if kind is not None and kind in days else WEEKDAYS[on.weekday()]
        return days.get(key, ())

    def spans_on(self, on: date) -> list[Span]:
        """Return a date's blocks in real time; one that the clock skips whole has no span."""
        found = []
        for place, block in enumerate(self.blocks_on(on)):
            ends_on = on if block.to_min > block.from_min else on + timedelta(days=1)
            begin, end = self.clock.instant(on, block.from_min), self.clock.instant(ends_on, block.to_min)
            if end > begin:
                found.append(Span(begin, end, block.level, place))
        return found

    def spans_between(self, start_ms: int, end_ms: int) -> list[Span]:
        """Return the spans of every date that can touch [start, end)."""
        first = self.clock.local(start_ms).date() - timedelta(days=2)
        last = self.clock.local(end_ms).date() + timedelta(days=1)
        return [s for k in range((last - first).days + 1) for s in self.spans_on(first + timedelta(days=k))]

    def level_at(self, spans: Sequence[Span], at_ms: int) -> tuple[str, int | None]:
        """Return the level in force and when its block began: the latest start, of equal ones the later written."""
        held = [s for s in spans if s.from_ms <= at_ms < s.until_ms]
        if held:
            winner = max(held, key=lambda s: (s.from_ms, s.place))
            return winner.level, winner.from_ms
        return self.timetable_on(self.clock.local(at_ms).date()).else_level, None

    def edges(self, spans: Sequence[Span], start_ms: int, end_ms: int) -> list[int]:
        """Return the instants strictly inside (start, end) at which the level may change, midnights among them."""
        midnights = {day.start_ms for day in self.clock.days(start_ms, end_ms)}
        ends = {at for s in spans for at in (s.from_ms, s.until_ms)}
        return sorted(at for at in ends | midnights if start_ms < at < end_ms)


def held_at(calendar: WrittenCalendar, at_ms: int) -> Held:
    """Return what is in force at an instant, and what comes within eight days (docs/methods O1)."""
    end = at_ms + LOOK_AHEAD_DAYS * MS_PER_DAY + 1
    spans = calendar.spans_between(at_ms, end)
    level, since = calendar.level_at(spans, at_ms)
    following = next((at for at in calendar.edges(spans, at_ms, end) if calendar.level_at(spans, at)[0] != level), None)
    return Held(level=level, block_start_ms=since, next_ms=following)


@dataclass(frozen=True, slots=True, kw_only=True)
class WeekHours:
    """Hours by level of a week, all of them, and how often the level changes inside it (docs/methods O2)."""

    hours: Mapping[str, float]
    total_h: float
    changes: int


def week_hours(calendar: WrittenCalendar, week_start: date) -> WeekHours:
    """Return the hours of each level over seven local days."""
    start = calendar.clock.instant(week_start, 0)
    end = calendar.clock.instant(week_start + timedelta(days=7), 0)
    spans = calendar.spans_between(start, end)
    cuts = [start, *calendar.edges(spans, start, end), end]
    levels = [calendar.level_at(spans, at)[0] for at in cuts[:-1]]
    hours: dict[str, float] = {}
    for level, begin, until in zip(levels, cuts[:-1], cuts[1:], strict=True):
        hours[level] = hours.get(level, 0.0) + (until - begin) / MS_PER_H
    changes = sum(a != b for a, b in itertools.pairwise(levels))
    return WeekHours(hours=hours, total_h=(end - start) / MS_PER_H, changes=changes)
