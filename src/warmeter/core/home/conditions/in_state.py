"""A sensor of two states."""

from dataclasses import dataclass, replace
from math import isnan
from typing import Literal

from warmeter.core.home.conditions.condition import Condition, Evaluator, Signal, Watcher
from warmeter.core.home.conditions.of_signal import OfSignal, is_two_states
from warmeter.core.home.conditions.phrase import Phrase, VerbPlace
from warmeter.core.truth.track import in_state
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth
from warmeter.core.truth.watchers import Look


@dataclass(frozen=True, slots=True, kw_only=True)
class InState(OfSignal):
    """A contact, motion, leak or presence sensor that says yes (open, moving, wet, in) or no."""

    is_on: bool = True
    kind: Literal["state"] = "state"

    @property
    def opposite(self) -> "InState":
        """The other state."""
        return replace(self, is_on=not self.is_on)

    def on_signal(self, signal: Signal) -> Condition | None:
        """Return it on another signal of two states."""
        return replace(self, of=signal) if is_two_states(signal) else None

    def phrase(self) -> Phrase:
        """Return its words."""
        return self.looked_at, VerbPlace("on" if self.is_on else "off")

    def evaluate(self, on: Evaluator, stale_s: int) -> Truth:
        """Return when the sensor says so."""
        return in_state(on.heard(self.of, stale_s), self.is_on, on.scope.start_ms, on.scope.end_ms)

    def watched(self, by: Watcher) -> Look:
        """Look at the last report."""
        reports = by.reports(self.of)

        def look(now: int) -> int:
            reports.hear(now)
            value = reports.known(now)
            return UNKNOWN if isnan(value) else TRUE if (value >= 0.5) == self.is_on else FALSE

        return look
