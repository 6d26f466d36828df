"""Days that differ: public holidays, school days, guests, times away, work at home, collections, upkeep."""

from calendar import monthrange
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Literal

from annotated_types import Ge, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name
from warmeter.core.home.timetables import Weekday
from warmeter.core.units import MIN_PER_DAY

OccasionKind = Literal["holidays", "school", "guests", "away", "work_at_home", "collection", "upkeep", "other"]
OCCASION_LABEL: dict[OccasionKind, str] = {
    "holidays": "public holidays",
    "school": "school",
    "guests": "guests",
    "away": "away",
    "work_at_home": "work at home",
    "collection": "collection",
    "upkeep": "battery, filter, upkeep",
    "other": "something else",
}
MONTHS_A_YEAR = 12
ClockMinute = Annotated[int, Ge(0), Le(MIN_PER_DAY - 1)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Occasion(Document):
    """Days that differ, all at once: single dates, or those of a stretch from a date to a date.

    Of a stretch only some ``weekdays`` (Monday 0; none means all), only every so many weeks, counted from its first
    date, or one day every so many months, as a birthday is; never the days of those in ``except_ids``.
    ``kind_id`` is the kind of day that they are of; None leaves them as their weekday, for rules to look at.
    On the first day of a stretch it begins at ``leave_min``, on the last it ends at ``back_min``: before and after,
    the day is written as if it were not. ``about_id`` is the device that upkeep is of.
    """

    id: Id
    name: Name
    kind: OccasionKind = "other"
    dates: Annotated[tuple[date, ...], Len(0, 200)] = ()
    from_date: date | None = None
    to_date: date | None = None
    weekdays: Annotated[tuple[Weekday, ...], Len(0, 7)] = ()
    every_weeks: Annotated[int, Ge(1), Le(52)] = 1
    every_months: Annotated[int, Ge(1), Le(120)] | None = None
    except_ids: Annotated[tuple[Id, ...], Len(0, 10)] = ()
    leave_min: ClockMinute | None = None
    back_min: ClockMinute | None = None
    about_id: Id | None = None
    kind_id: Id | None = None

    def __post_init__(self) -> None:
        if self.from_date and self.to_date and self.to_date < self.from_date:
            raise HomeError(f"{self.name!r} must not end before it begins ({self.from_date} to {self.to_date})")
        if self.every_weeks > 1 and self.from_date is None:
            raise HomeError(f"{self.name!r} comes every {self.every_weeks} weeks: from which date on?")
        if self.every_months is not None and (self.from_date is None or self.weekdays or self.every_weeks > 1):
            raise HomeError(
                f"{self.name!r} comes every {self.every_months} months: give its first date, and no weekdays or weeks"
            )
        if not (self.dates or self.from_date or self.to_date or self.weekdays):
            raise HomeError(f"{self.name!r} has no day: give dates, a stretch of dates or weekdays")

        if self.dates and (self.from_date or self.to_date or self.weekdays):
            raise HomeError(
                f"{self.name!r} has dates and a stretch of days: give one of both, and the other by another name"
            )
        if (self.leave_min is not None and self.from_date is None) or (self.back_min is not None and not self.to_date):
            raise HomeError(f"{self.name!r} has a time of leaving or coming back: on which date?")
        is_one_day = self.from_date is not None and self.from_date == self.to_date
        if is_one_day and self.leave_min is not None and self.back_min is not None and self.back_min <= self.leave_min:
            raise HomeError(f"{self.name!r} must come back after it leaves on {self.to_date}")

    def holds_on(self, on: date) -> bool:
        """Return whether a date is one of its days, those that others take out of it left aside."""
        if self.dates:
            return on in self.dates
        if (self.from_date is not None and on < self.from_date) or (self.to_date is not None and on > self.to_date):
            return False
        if self.every_months is not None and self.from_date is not None:
            return _is_birthday(self.from_date, on, self.every_months)
        if self.weekdays and on.weekday() not in self.weekdays:
            return False
        if self.every_weeks == 1 or self.from_date is None:
            return bool(self.weekdays) or self.from_date is not None or self.to_date is not None
        first = self.from_date - timedelta(days=self.from_date.weekday())
        due = (on - first).days // 7 % self.every_weeks == 0
        return due and (bool(self.weekdays) or on.weekday() == self.from_date.weekday())


def _is_birthday(first: date, on: date, every_months: int) -> bool:
    """Return whether a date is so many months, or a multiple, after a first one; the month's last day if it is short."""
    months = (on.year - first.year) * MONTHS_A_YEAR + on.month - first.month
    return months % every_months == 0 and on.day == min(first.day, monthrange(on.year, on.month)[1])


def occasion_holds(occasions: Sequence[Occasion], occasion: Occasion, on: date) -> bool:
    """Return whether a date is one of an occasion's days: what it leaves out may leave out days itself."""
    if not occasion.holds_on(on):
        return False
    taken = [other for other in occasions if other.id in occasion.except_ids]
    return not any(occasion_holds(occasions, other, on) for other in taken)


def occasion_days(occasions: Sequence[Occasion], occasion: Occasion, first: date, last: date) -> list[date]:
    """Return an occasion's days from a date to a date, both included, rising."""
    days = (first + timedelta(days=k) for k in range((last - first).days + 1))
    return [on for on in days if occasion_holds(occasions, occasion, on)]


def check_exceptions(occasions: Sequence[Occasion]) -> None:
    """Raise ``HomeError`` where an occasion leaves out one that is not there, or in the end itself."""
    by_id = {occasion.id: occasion for occasion in occasions}
    for occasion in occasions:
        seen, waiting = {occasion.id}, list(occasion.except_ids)
        while waiting:
            other = by_id.get(waiting.pop())
            if other is None:
                raise HomeError(f"{occasion.name!r} leaves out days that are not there")
            if other.id == occasion.id:
                raise HomeError(f"{occasion.name!r} leaves out itself")
            if other.id not in seen:
                seen.add(other.id)
                waiting += other.except_ids
