"""What a rule looks at, over arrays: each condition once, as truth over time."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from warmeter.core.arrays import Ints
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.truth.calendar_times import midnights
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.track import Track, difference, heard
from warmeter.core.truth.truth import TRUE, Truth, all_of, any_of, constant


@dataclass(frozen=True, slots=True)
class ConditionEvaluator:
    """Conditions over a scope; each is worked out once and kept.

    Raises nothing: what is not there is not known.
    """

    scope: Scope
    _kept: dict[tuple[Condition, int], Truth] = field(default_factory=dict)
    _tracks: dict[tuple[Signal, Signal | None, int], Track] = field(default_factory=dict)
    _instants: dict[str, Ints] = field(default_factory=dict)

    def with_scope(self, scope: Scope) -> "ConditionEvaluator":
        """Return conditions over a scope that differs in its marks only: what hangs on no fact is kept."""
        kept = {key: truth for key, truth in self._kept.items() if not key[0].facts}
        return ConditionEvaluator(scope, kept, self._tracks, self._instants)

    def with_tracks(self, tracks: Mapping[Signal, Track], holds_s: Mapping[Signal, int]) -> "ConditionEvaluator":
        """Return conditions over a scope with more signals; what was worked out without them is kept."""
        scope = replace(self.scope, tracks={**self.scope.tracks, **tracks}, holds_s={**self.scope.holds_s, **holds_s})
        kept = {key: truth for key, truth in self._kept.copy().items() if tracks.keys().isdisjoint(key[0].signals)}
        heard = {key: track for key, track in self._tracks.copy().items() if tracks.keys().isdisjoint(key[:2])}
        return ConditionEvaluator(scope, kept, heard, self._instants)

    def clauses(self, clauses: Clauses, stale_s: int) -> Truth:
        """Return whether every clause holds, a clause by one of its conditions; no clause at all holds."""
        if not clauses:
            return constant(TRUE, self.scope.start_ms, self.scope.end_ms)
        return all_of([any_of([self.truth(c, stale_s) for c in clause]) for clause in clauses])

    def truth(self, condition: Condition, stale_s: int) -> Truth:
        """Return when a condition holds; a value not heard for ``stale_s`` is not known."""
        # What no report is looked at for is the same at any time of silence.
        key = condition, stale_s if condition.hears_reports else 0
        if key not in self._kept:
            self._kept[key] = condition.evaluate(self, stale_s)
        return self._kept[key]

    @property
    def days_ms(self) -> Ints:
        """The beginnings of the local days of the scope, rising [ms UTC]."""
        if "days" not in self._instants:
            self._instants["days"] = midnights(self.scope.clock, self.scope.start_ms, self.scope.end_ms)
        return self._instants["days"]

    def heard(self, signal: Signal, stale_s: int, minus: Signal | None = None) -> Track:
        """Return a signal, or its difference from another, not known where not heard for so long."""
        key = signal, minus, stale_s
        if key not in self._tracks:
            track = heard(self.scope.track(signal), self.scope.stale_ms(signal, stale_s))
            if minus is not None:
                track = difference(track, self.heard(minus, stale_s))
            self._tracks[key] = track
        return self._tracks[key]
