"""Timetables of a zone: change points by day, kinds of day, and which timetable holds on which date."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name, SetpointC, Text
from warmeter.core.sentence import celsius, sentence

WEEKDAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
DayKey = Annotated[str, Len(1, 24)]
Weekday = Annotated[int, Ge(0), Le(6)]
Fan = Literal["auto", "low", "medium", "high", "off"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePoint(Document):
    """From this minute of the day on: a level, or a setpoint or a cooling limit of the block's own [°C].

    A pre-heat (``is_preheat``) begins with its block, without a warm-up before it, and people do not ask for it: what
    they ask is what its level asks.
    """

    start_min: Annotated[int, Ge(0), Le(1439)]
    level_id: Id
    own_setpoint_c: SetpointC | None = None
    own_cooling_c: SetpointC | None = None
    is_preheat: bool = False


Points = tuple[ChangePoint, ...]


def check_points(points: Points, whose: str) -> None:
    """Raise ``HomeError`` unless the times of a day rise."""
    starts = [point.start_min for point in points]
    if starts != sorted(set(starts)):
        raise HomeError(f"the times of {whose} must rise, each standing once")


@dataclass(frozen=True, slots=True, kw_only=True)
class DayProfile(Document):
    """A day written apart: ``of`` is a weekday (mon to sun), the id of a kind of day, or a date (2026-01-20).

    Before its first point the block of the day before goes on; without points it goes on all day.
    """

    of: DayKey
    points: Points


@dataclass(frozen=True, slots=True, kw_only=True)
class Timetable(Document):
    """A named timetable: its usual day, and days written apart."""

    id: Id
    name: Name
    usual: Points
    days: Annotated[tuple[DayProfile, ...], Len(0, 400)] = ()

    def __post_init__(self) -> None:
        if not self.usual:
            raise HomeError(f"the usual day of {self.name!r} needs one change point at least")
        check_points(self.usual, f"the usual day of {self.name!r}")
        for profile in self.days:
            check_points(profile.points, f"{profile.of!r} of {self.name!r}")
        keys = [profile.of for profile in self.days]
        if len(set(keys)) != len(keys):
            raise HomeError(f"a day of {self.name!r} is written twice")

    def profile(self, key: str) -> DayProfile | None:
        """Return a day written apart, None if it is not."""
        return next((profile for profile in self.days if profile.of == key), None)

    @property
    def all_points(self) -> Points:
        """Every change point, of the usual day first."""
        return (*self.usual, *(point for profile in self.days for point in profile.points))


def every_day(timetable_id: str, *points: ChangePoint, name: str = "Every day") -> tuple[Timetable, ...]:
    """Return the timetables of a zone that has one day for all days."""
    return (Timetable(id=timetable_id, name=name, usual=points),)


@dataclass(frozen=True, slots=True, kw_only=True)
class Period(Document):
    """Dates [from, to] on which a timetable holds; None is an open end, ``every_year`` leaves the year out."""

    timetable_id: Id
    from_date: date | None = None
    to_date: date | None = None
    every_year: bool = False
    is_switch: bool = False

    def __post_init__(self) -> None:
        if self.every_year and (self.from_date is None or self.to_date is None):
            raise HomeError("dates that come every year need both ends")
        if not self.every_year and self.from_date and self.to_date and self.to_date < self.from_date:
            raise HomeError(f"a stretch of dates must not end before it begins ({self.from_date} to {self.to_date})")

    def holds_on(self, on: date) -> bool:
        """Return whether a date lies in it; a yearly stretch may run over the new year."""
        if not self.every_year:
            return (self.from_date is None or self.from_date <= on) and (self.to_date is None or on <= self.to_date)
        assert self.from_date is not None and self.to_date is not None  # refused without
        begin, end, day = ((d.month, d.day) for d in (self.from_date, self.to_date, on))
        return begin <= day <= end if begin <= end else day >= begin or day <= end


@dataclass(frozen=True, slots=True, kw_only=True)
class DayKind(Document):
    """A kind of day, with the weekdays (Monday 0) that are of it."""

    id: Id
    name: Name
    weekdays: Annotated[tuple[Weekday, ...], Len(0, 7)] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class SpecialDay(Document):
    """A date that is of another kind than its weekday."""

    on: date
    kind_id: Id
    note: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class HandRule(Document):
    """What a change by hand may be: range [°C], step [K] and longest length [h].

    ``empty_min`` ends it when its room has been empty for so long; None never does.
    """

    low_c: SetpointC | None = None
    high_c: SetpointC | None = None
    step_k: Annotated[float, Gt(0), Le(10)] = 1.0
    longest_h: Annotated[float, Gt(0), Le(720)] = 12.0
    empty_min: Annotated[int, Ge(1), Le(1440)] | None = None

    def __post_init__(self) -> None:
        if self.low_c is not None and self.high_c is not None and not self.low_c < self.high_c:
            raise HomeError(sentence("the range by hand must rise (got {})", celsius(self.low_c, until=self.high_c)))
