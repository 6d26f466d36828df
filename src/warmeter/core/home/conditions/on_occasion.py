"""A day that differs: today, or tomorrow."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import ClassVar, Literal

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import HomeParts
from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import ChoicePlace, Phrase, SubjectPlace, yes_no
from warmeter.core.home.part import Id
from warmeter.core.truth.calendar_times import Pairs, dates_between
from warmeter.core.truth.scope import Scope


@dataclass(frozen=True, slots=True, kw_only=True)
class OnOccasion(InStretches):
    """Today, or tomorrow, is one of the days of an occasion of the home, or is not."""

    SUBJECT: ClassVar[str] = "occasion"
    LIST_PLACE: ClassVar[int] = 6

    occasion_id: Id
    day: Literal["today", "tomorrow"] = "today"
    is_so: bool = True
    kind: Literal["occasion"] = "occasion"

    @property
    def opposite(self) -> "OnOccasion":
        """Not on such a day where it is."""
        return replace(self, is_so=not self.is_so)

    @property
    def subject(self) -> str:
        """The key of the occasion."""
        return f"occasion:{self.occasion_id}"

    @classmethod
    def subjects(cls, home: HomeParts) -> Mapping[str, str]:
        """Return the occasions."""
        return {f"occasion:{each.id}": each.name for each in home.occasions}

    @classmethod
    def usual(cls, home: HomeParts, rest: str) -> "OnOccasion":
        """Return it today; ``HomeError`` if the home has no such days."""
        if all(each.id != rest for each in home.occasions):
            raise HomeError("these days are not there any more")
        return cls(occasion_id=rest)

    def on_other(self, subject_id: str) -> "OnOccasion":
        """Return it of another occasion."""
        return replace(self, occasion_id=subject_id)

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(part_id=self.occasion_id),
            yes_no("is_so", "is or is not", "is", "is not"),
            ChoicePlace("day", "which day", {"today": "today", "tomorrow": "tomorrow"}, "day"),
        )

    def stretches(self, scope: Scope) -> Pairs:
        """Return the local days on which it is so; none where the occasion is gone."""
        days = scope.occasions.get(self.occasion_id)
        if days is None:
            return []
        ahead = timedelta(days=1 if self.day == "tomorrow" else 0)
        return [
            (scope.clock.instant(on, 0), scope.clock.instant(on + timedelta(days=1), 0))
            for on in dates_between(scope.clock, scope.start_ms, scope.end_ms)
            if ((on + ahead) in days) == self.is_so
        ]
