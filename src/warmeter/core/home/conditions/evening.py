"""The evening."""

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from annotated_types import Ge, Le

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import SunDeg
from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import ChoicePlace, FieldPlace, Phrase, SubjectPlace
from warmeter.core.home.part import Unit
from warmeter.core.truth.calendar_times import Pairs
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.sun_states import NOON_MIN, evening_stretches

Which = Literal["dark", "clock", "first", "last"]
USUAL_MIN = 1260
_WORDS: dict[Which, str] = {
    "dark": "dark",
    "clock": "the clock",
    "first": "the first of dark and clock",
    "last": "the last of dark and clock",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Evening(InStretches):
    """From dark, a clock time, or the first or last of both, until a clock time of the next date."""

    SUBJECT: ClassVar[str] = "evening"
    LIST_PLACE: ClassVar[int] = 9
    NAME: ClassVar[str] = "the evening"

    which: Which = "dark"
    clock_min: Annotated[int, Ge(NOON_MIN), Le(1439), Unit("time of day")] | None = None
    until_min: Annotated[int, Ge(0), Le(NOON_MIN), Unit("time of day")] = 390
    below_deg: SunDeg = -0.833
    kind: Literal["evening"] = "evening"

    def __post_init__(self) -> None:
        if self.which != "dark" and self.clock_min is None:
            raise HomeError("an evening by the clock needs a clock time")

    def phrase(self) -> Phrase:
        """Return its words."""
        clock_min = self.clock_min or USUAL_MIN
        sets = {which: {"clock_min": None if which == "dark" else clock_min} for which in _WORDS}
        at = ("at", FieldPlace("clock_min", "clock time of its beginning", low=NOON_MIN))
        return (
            SubjectPlace(text="the evening"),
            "has begun, by",
            ChoicePlace("which", "when it begins", _WORDS, sets=sets),
            *(at if self.which != "dark" else ()),
            "until",
            FieldPlace("until_min", "its end", high=NOON_MIN),
        )

    def stretches(self, scope: Scope) -> Pairs:
        """Return the evenings (J14)."""
        begin, until = evening_stretches(
            scope.clock,
            latitude_deg=scope.latitude_deg,
            longitude_deg=scope.longitude_deg,
            below_deg=self.below_deg,
            which=self.which,
            clock_min=self.clock_min,
            until_min=self.until_min,
            start_ms=scope.start_ms,
            end_ms=scope.end_ms,
        )
        return list(zip(begin.tolist(), until.tolist(), strict=True))
