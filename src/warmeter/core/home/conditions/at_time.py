"""A time of day."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from warmeter.core.home.conditions.condition import Minute, Weekdays
from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import FieldPlace, Phrase, SubjectPlace
from warmeter.core.truth.calendar_times import Pairs, clock_moments
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.truth import MOMENT_MS


@dataclass(frozen=True, slots=True, kw_only=True)
class AtTime(InStretches):
    """A moment of the day by the home's clock."""

    SUBJECT: ClassVar[str] = "at_time"
    LIST_PLACE: ClassVar[int] = 6
    NAME: ClassVar[str] = "a time of day"
    USUAL: ClassVar[Mapping[str, Any]] = {"at_min": 1320}

    at_min: Minute
    weekdays: Weekdays = ()
    kind: Literal["at_time"] = "at_time"

    @property
    def is_moment(self) -> bool:
        """It is one."""
        return True

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(text="the clock"),
            "strikes",
            FieldPlace("at_min", "when"),
            FieldPlace("weekdays", "on which days", "days"),
        )

    def stretches(self, scope: Scope) -> Pairs:
        """Return its second on each date."""
        found = clock_moments(scope.clock, self.at_min, self.weekdays, scope.start_ms, scope.end_ms)
        return [(at, at + MOMENT_MS) for at in found.tolist()]
