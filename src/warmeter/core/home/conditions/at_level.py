"""The level of a zone's timetable."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, ClassVar, Literal

import numpy as np
from annotated_types import Len

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Condition, Evaluator, HomeParts, Watcher
from warmeter.core.home.conditions.phrase import LevelsPlace, Phrase, SubjectPlace, yes_no
from warmeter.core.home.part import Id
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth, constant, from_changes
from warmeter.core.truth.watchers import Look


@dataclass(frozen=True, slots=True, kw_only=True)
class AtLevel(Condition):
    """A zone's timetable is at one of some levels, or at none of them."""

    SUBJECT: ClassVar[str] = "level"
    LIST_PLACE: ClassVar[int] = 4

    zone_id: Id
    level_ids: Annotated[tuple[Id, ...], Len(1, 30)]
    is_at: bool = True
    kind: Literal["level"] = "level"

    @property
    def opposite(self) -> "AtLevel":
        """Not at them where it is."""
        return replace(self, is_at=not self.is_at)

    @property
    def subject(self) -> str:
        """The key of the zone."""
        return f"level:{self.zone_id}"

    @classmethod
    def subjects(cls, home: HomeParts) -> Mapping[str, str]:
        """Return the zones."""
        return {f"level:{zone.id}": f"level of {zone.name}" for zone in home.zones}

    @classmethod
    def usual(cls, home: HomeParts, rest: str) -> "AtLevel":
        """Return it at the first level; ``HomeError`` if the home has none."""
        zone = home.zone_of_id(rest)
        if not home.levels:
            raise HomeError("this home has no levels yet")
        return cls(zone_id=zone.id, level_ids=(home.levels[0].id,))

    def on_other(self, subject_id: str) -> "AtLevel":
        """Return it of another zone."""
        return replace(self, zone_id=subject_id)

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(part_id=self.zone_id),
            yes_no("is_at", "at or not", "is at", "is not at"),
            LevelsPlace("level_ids"),
        )

    def evaluate(self, on: Evaluator, _stale_s: int) -> Truth:
        """Return when the timetable says so."""
        line = on.scope.levels.get(self.zone_id)
        if line is None:
            return constant(UNKNOWN, on.scope.start_ms, on.scope.end_ms)
        value = np.array(
            [TRUE if (i in self.level_ids) == self.is_at else FALSE for i in line.level_ids], dtype=np.int8
        )
        return from_changes(line.at_ms, value, on.scope.start_ms, on.scope.end_ms)

    def watched(self, by: Watcher) -> Look:
        """Look at the level that holds now."""
        line = by.scope.levels.get(self.zone_id)
        if line is None:
            return lambda _: UNKNOWN
        rows = list(zip(line.at_ms.tolist(), line.level_ids, strict=True))
        for at, _ in rows:
            by.wake(at)

        def look(now: int) -> int:
            held = [level for at, level in rows if at <= now]
            return UNKNOWN if not held else TRUE if (held[-1] in self.level_ids) == self.is_at else FALSE

        return look
