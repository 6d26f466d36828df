"""Dates of the year."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Ge, Le

from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import DatePlace, Phrase, SubjectPlace
from warmeter.core.truth.calendar_times import Pairs, date_stretches
from warmeter.core.truth.scope import Scope

Month = Annotated[int, Ge(1), Le(12)]
DayOfMonth = Annotated[int, Ge(1), Le(31)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Dates(InStretches):
    """Calendar dates of every year, both ends included, over the new year where the end is earlier."""

    SUBJECT: ClassVar[str] = "dates"
    LIST_PLACE: ClassVar[int] = 7
    NAME: ClassVar[str] = "dates of the year"
    USUAL: ClassVar[Mapping[str, Any]] = {"from_month": 10, "from_day": 1, "until_month": 4, "until_day": 30}

    from_month: Month
    from_day: DayOfMonth
    until_month: Month
    until_day: DayOfMonth
    kind: Literal["dates"] = "dates"

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(text="the date"),
            "lies from",
            DatePlace("first", "from_day", "from_month"),
            "to",
            DatePlace("last", "until_day", "until_month"),
        )

    def stretches(self, scope: Scope) -> Pairs:
        """Return the days of the dates."""
        first, last = (self.from_month, self.from_day), (self.until_month, self.until_day)
        return date_stretches(scope.clock, first, last, scope.start_ms, scope.end_ms)
