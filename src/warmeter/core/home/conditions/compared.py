"""A quantity over, under or between values."""

from dataclasses import dataclass, replace
from math import inf
from typing import Annotated, Literal

from annotated_types import Ge, Le

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Amount, Evaluator, Signal, Watcher
from warmeter.core.home.conditions.of_signal import OfSignal
from warmeter.core.home.conditions.phrase import MinusPlace, Phrase, ValuePlace, VerbPlace
from warmeter.core.truth.track import compared
from warmeter.core.truth.truth import Truth
from warmeter.core.truth.watchers import ComparisonState, Look

How = Literal["over", "under", "between"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared(OfSignal):
    """A quantity, or its difference from another, over, under or between values.

    It begins at the value, inclusive, and ends ``hysteresis`` beyond it; ``high`` only counts for between. Values
    and hysteresis in the quantity's stored unit.
    """

    how: How
    value: Amount
    high: Amount | None = None
    hysteresis: Annotated[float, Ge(0), Le(1e6)] = 0.0
    minus: Signal | None = None
    kind: Literal["compared"] = "compared"

    def __post_init__(self) -> None:
        if self.how == "between" and (self.high is None or self.high < self.value):
            raise HomeError("between needs a lower and a higher value")

    @property
    def bounds(self) -> tuple[float, float]:
        """The lowest and highest value at which it begins to hold."""
        if self.how == "over":
            return self.value, inf
        if self.how == "under":
            return -inf, self.value
        return self.value, inf if self.high is None else self.high

    @property
    def signals(self) -> tuple[Signal, ...]:
        """The signal, and what is taken away from it."""
        return (self.of,) if self.minus is None else (self.of, self.minus)

    @property
    def opposite(self) -> "Compared | None":
        """On the other side, beyond the hysteresis; none of between."""
        if self.how == "between":
            return None
        if self.how == "over":
            return replace(self, how="under", value=self.value - self.hysteresis, hysteresis=0.0)
        return replace(self, how="over", value=self.value + self.hysteresis, hysteresis=0.0)

    def phrase(self) -> Phrase:
        """Return its words."""
        is_difference = self.minus is not None
        less = ("less", MinusPlace()) if is_difference else ()
        high = ("and", ValuePlace("high", "the upper value", is_difference)) if self.how == "between" else ()
        words = "with no hysteresis", "with {} of hysteresis"
        return (
            self.looked_at,
            *less,
            VerbPlace(self.how),
            ValuePlace("value", "the value", is_difference),
            *high,
            ValuePlace("hysteresis", "the hysteresis", is_difference=True, low=0.0, words=words),
        )

    def evaluate(self, on: Evaluator, stale_s: int) -> Truth:
        """Return when it lies within its bounds, with hysteresis (J1)."""
        low, high = self.bounds
        track = on.heard(self.of, stale_s, self.minus)
        return compared(
            track, low=low, high=high, hysteresis=self.hysteresis, start_ms=on.scope.start_ms, end_ms=on.scope.end_ms
        )

    def watched(self, by: Watcher) -> Look:
        """Remember whether it holds from report to report."""
        low, high = self.bounds
        minus = None if self.minus is None else by.reports(self.minus)
        return ComparisonState(low, high, self.hysteresis, by.reports(self.of), minus, by.scope.start_ms).look
