"""Days that differ: public holidays, school days, guests, times away, work at home, collections."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Literal

from annotated_types import Ge, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name
from warmeter.core.home.timetables import Weekday

OccasionKind = Literal["holidays", "school", "guests", "away", "work_at_home", "collection", "other"]
OCCASION_LABEL: dict[OccasionKind, str] = {
    "holidays": "public holidays",
    "school": "school",
    "guests": "guests",
    "away": "away",
    "work_at_home": "work at home",
    "collection": "collection",
    "other": "something else",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Occasion(Document):
    """Days that differ, all at once: single dates, or those of a stretch from a date to a date.

    Of a stretch only some ``weekdays`` (Monday 0; none means all), and only every so many weeks, counted from its first
    date.
    ``kind_id`` is the kind of day that they are of; None leaves them as their weekday, for rules to look at.
    """

    id: Id
    name: Name
    kind: OccasionKind = "other"
    dates: Annotated[tuple[date, ...], Len(0, 200)] = ()
    from_date: date | None = None
    to_date: date | None = None
    weekdays: Annotated[tuple[Weekday, ...], Len(0, 7)] = ()
    every_weeks: Annotated[int, Ge(1), Le(52)] = 1
    kind_id: Id | None = None

    def __post_init__(self) -> None:
        if self.from_date and self.to_date and self.to_date < self.from_date:
            raise HomeError(f"{self.name!r} must not end before it begins ({self.from_date} to {self.to_date})")
        if self.every_weeks > 1 and self.from_date is None:
            raise HomeError(f"{self.name!r} comes every {self.every_weeks} weeks: from which date on?")
        if not (self.dates or self.from_date or self.to_date or self.weekdays):
            raise HomeError(f"{self.name!r} has no day: give dates, a stretch of dates or weekdays")

        if self.dates and (self.from_date or self.to_date or self.weekdays):
            raise HomeError(
                f"{self.name!r} has dates and a stretch of days: give one of both, and the other by another name"
            )

    def holds_on(self, on: date) -> bool:
        """Return whether a date is one of its days."""
        if self.dates:
            return on in self.dates
        if (self.from_date is not None and on < self.from_date) or (self.to_date is not None and on > self.to_date):
            return False
        if self.weekdays and on.weekday() not in self.weekdays:
            return False
        if self.every_weeks == 1 or self.from_date is None:
            return bool(self.weekdays) or self.from_date is not None or self.to_date is not None
        first = self.from_date - timedelta(days=self.from_date.weekday())
        due = (on - first).days // 7 % self.every_weeks == 0
        return due and (bool(self.weekdays) or on.weekday() == self.from_date.weekday())

    def days_between(self, first: date, last: date) -> list[date]:
        """Return its days from a date to a date, both included, rising."""
        days = (first + timedelta(days=k) for k in range((last - first).days + 1))
        return [on for on in days if self.holds_on(on)]
