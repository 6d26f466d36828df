"""A quantity rising or falling."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le

from warmeter.core.home.conditions.condition import WEEK_S, Evaluator, Signal, Watcher
from warmeter.core.home.conditions.of_signal import OfSignal
from warmeter.core.home.conditions.phrase import FieldPlace, MinusPlace, Phrase, ValuePlace, VerbPlace
from warmeter.core.home.part import Unit
from warmeter.core.truth.track import moving
from warmeter.core.truth.truth import Truth
from warmeter.core.truth.watchers import Look, Movement
from warmeter.core.units import MS_PER_S


@dataclass(frozen=True, slots=True, kw_only=True)
class Moving(OfSignal):
    """A quantity, or its difference from another, rising or falling by so much within so long [s]."""

    how: Literal["rising", "falling"]
    by: Annotated[float, Gt(0), Le(1e6)]
    within_s: Annotated[int, Ge(1), Le(WEEK_S), Unit("s")]
    minus: Signal | None = None
    kind: Literal["moving"] = "moving"

    @property
    def signals(self) -> tuple[Signal, ...]:
        """The signal, and what is taken away from it."""
        return (self.of,) if self.minus is None else (self.of, self.minus)

    def phrase(self) -> Phrase:
        """Return its words."""
        less = ("less", MinusPlace()) if self.minus is not None else ()
        return (
            self.looked_at,
            *less,
            VerbPlace(self.how),
            ValuePlace("by", "by how much", is_difference=True, low=1e-6),
            "within",
            FieldPlace("within_s", "within how long"),
        )

    def evaluate(self, on: Evaluator, stale_s: int) -> Truth:
        """Return when it has moved so far (J13)."""
        return moving(
            on.heard(self.of, stale_s, self.minus),
            by=self.by,
            within_ms=self.within_s * MS_PER_S,
            is_rising=self.how == "rising",
            start_ms=on.scope.start_ms,
            end_ms=on.scope.end_ms,
        )

    def watched(self, by: Watcher) -> Look:
        """Remember the reports of its window."""
        minus = None if self.minus is None else by.reports(self.minus)
        window_ms, is_rising = self.within_s * MS_PER_S, self.how == "rising"
        return Movement(self.by, window_ms, by.reports(self.of), minus, by.scope.start_ms, is_rising=is_rising).look
