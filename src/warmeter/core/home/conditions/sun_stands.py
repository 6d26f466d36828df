"""The sun stands before a side of the home."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Ge, Le

from warmeter.core.home.conditions.condition import SunDeg
from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import FieldPlace, Phrase, SubjectPlace
from warmeter.core.home.part import Unit
from warmeter.core.truth.calendar_times import Pairs
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.sun_states import bearing_stretches

BearingDeg = Annotated[float, Ge(0), Le(360), Unit("°")]


@dataclass(frozen=True, slots=True, kw_only=True)
class SunStands(InStretches):
    """The sun's bearing from north clockwise lies between two, over them through north, and it is high enough [°]."""

    SUBJECT: ClassVar[str] = "sun_stands"
    LIST_PLACE: ClassVar[int] = 9
    NAME: ClassVar[str] = "sun before a side"
    USUAL: ClassVar[Mapping[str, Any]] = {"from_deg": 185.0, "until_deg": 355.0}

    from_deg: BearingDeg
    until_deg: BearingDeg
    over_deg: SunDeg = 5.0
    kind: Literal["sun_stands"] = "sun_stands"

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(text="the sun"),
            "stands between",
            FieldPlace("from_deg", "bearing from which on", "from"),
            "and",
            FieldPlace("until_deg", "bearing until which", "until"),
            "from north clockwise, over",
            FieldPlace("over_deg", "height of the sun", "over"),
        )

    def stretches(self, scope: Scope) -> Pairs:
        """Return when the sun stands there (G1)."""
        begin, until = bearing_stretches(
            latitude_deg=scope.latitude_deg,
            longitude_deg=scope.longitude_deg,
            from_deg=self.from_deg,
            until_deg=self.until_deg,
            over_deg=self.over_deg,
            start_ms=scope.start_ms,
            end_ms=scope.end_ms,
        )
        return list(zip(begin.tolist(), until.tolist(), strict=True))
