"""Hours of the day."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from warmeter.core.home.conditions.condition import Minute, Weekdays
from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import FieldPlace, Phrase, SubjectPlace
from warmeter.core.truth.calendar_times import Pairs, hour_stretches
from warmeter.core.truth.scope import Scope


@dataclass(frozen=True, slots=True, kw_only=True)
class Hours(InStretches):
    """Clock times [from, until) by the home's clock, over midnight where until is not later; equal is all day.

    ``weekdays`` are those on which the stretch begins, 0 Monday; none means all.
    """

    SUBJECT: ClassVar[str] = "hours"
    LIST_PLACE: ClassVar[int] = 5
    NAME: ClassVar[str] = "hours of the day"
    USUAL: ClassVar[Mapping[str, Any]] = {"from_min": 420, "until_min": 1320}

    from_min: Minute
    until_min: Minute
    weekdays: Weekdays = ()
    kind: Literal["hours"] = "hours"

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(text="the clock"),
            "shows",
            FieldPlace("from_min", "from when"),
            "to",
            FieldPlace("until_min", "until when"),
            FieldPlace("weekdays", "on which days", "days"),
        )

    def stretches(self, scope: Scope) -> Pairs:
        """Return the hours of each date."""
        return hour_stretches(scope.clock, self.from_min, self.until_min, self.weekdays, scope.start_ms, scope.end_ms)
