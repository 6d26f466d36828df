"""Nothing was heard for long."""

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from annotated_types import Ge, Le

from warmeter.core.home.conditions.condition import WEEK_S, Condition, Evaluator, Signal, Watcher
from warmeter.core.home.conditions.of_signal import OfSignal
from warmeter.core.home.conditions.phrase import FieldPlace, Phrase, VerbPlace
from warmeter.core.home.part import Unit
from warmeter.core.truth.track import silent
from warmeter.core.truth.truth import FALSE, TRUE, Truth
from warmeter.core.truth.watchers import Look
from warmeter.core.units import MS_PER_S


@dataclass(frozen=True, slots=True, kw_only=True)
class Silent(OfSignal):
    """Nothing was heard of a signal for so long [s]."""

    for_s: Annotated[int, Ge(1), Le(WEEK_S), Unit("s")]
    kind: Literal["silent"] = "silent"

    def on_signal(self, signal: Signal) -> Condition | None:
        """Return it on another signal."""
        return replace(self, of=signal)

    def phrase(self) -> Phrase:
        """Return its words."""
        return self.looked_at, VerbPlace("silent"), FieldPlace("for_s", "how long it is silent")

    def evaluate(self, on: Evaluator, _stale_s: int) -> Truth:
        """Return when no report has come for so long (J13)."""
        return silent(on.scope.track(self.of), self.for_s * MS_PER_S, on.scope.start_ms, on.scope.end_ms)

    def watched(self, by: Watcher) -> Look:
        """Remember the last report; the start counts as one."""
        reports, last, for_ms = by.reports(self.of), by.scope.start_ms, self.for_s * MS_PER_S
        by.wake(last + for_ms)
        for at, _ in reports.waiting:
            by.wake(at + for_ms)

        def look(now: int) -> int:
            nonlocal last
            for at, _ in reports.hear(now):
                last = max(last, at)
            return TRUE if now >= last + for_ms else FALSE

        return look
