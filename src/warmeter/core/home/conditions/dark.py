"""Dark or light."""

from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from warmeter.core.home.conditions.condition import Evaluator, SunDeg, Watcher
from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import FieldPlace, Phrase, SubjectPlace, yes_no
from warmeter.core.truth.calendar_times import Pairs
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.sun_states import dark_stretches
from warmeter.core.truth.truth import TRUE, Truth
from warmeter.core.truth.watchers import Look

SUNSET_DEG = -0.833


@dataclass(frozen=True, slots=True, kw_only=True)
class Dark(InStretches):
    """The sun's height below an angle [°], or not."""

    SUBJECT: ClassVar[str] = "dark"
    LIST_PLACE: ClassVar[int] = 8
    NAME: ClassVar[str] = "dark or light"

    is_dark: bool = True
    below_deg: SunDeg = SUNSET_DEG
    kind: Literal["dark"] = "dark"

    @property
    def opposite(self) -> "Dark":
        """Light where it is dark."""
        return replace(self, is_dark=not self.is_dark)

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(text="it"),
            yes_no("is_dark", "dark or light", "is dark", "is light", "how"),
            "(sun under",
            FieldPlace("below_deg", "height of the sun"),
            ")",
        )

    def stretches(self, scope: Scope) -> Pairs:
        """Return the dark stretches (J14)."""
        begin, until = dark_stretches(
            latitude_deg=scope.latitude_deg,
            longitude_deg=scope.longitude_deg,
            below_deg=self.below_deg,
            start_ms=scope.start_ms,
            end_ms=scope.end_ms,
        )
        return list(zip(begin.tolist(), until.tolist(), strict=True))

    def evaluate(self, on: Evaluator, stale_s: int) -> Truth:
        """Return when it is dark, or when it is not."""
        if self.is_dark:
            return InStretches.evaluate(self, on, stale_s)
        return on.truth(replace(self, is_dark=True), stale_s).negated

    def watched(self, by: Watcher) -> Look:
        """Look whether one of the dark stretches holds now."""
        dark, is_dark = InStretches.watched(self, by), self.is_dark
        return lambda now: dark(now) if is_dark else TRUE - dark(now)
