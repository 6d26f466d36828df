"""Conditions that clock, calendar and sun decide: they hold within stretches that are known beforehand."""

from abc import abstractmethod
from dataclasses import dataclass

import numpy as np

from warmeter.core.home.conditions.condition import Condition, Evaluator, Watcher
from warmeter.core.truth.calendar_times import Pairs
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.truth import FALSE, TRUE, Truth, from_stretches
from warmeter.core.truth.watchers import Look


@dataclass(frozen=True, slots=True, kw_only=True)
class InStretches(Condition):
    """A condition that holds within stretches [begin, until) of a scope [ms UTC]."""

    @abstractmethod
    def stretches(self, scope: Scope) -> Pairs:
        """Return the stretches; they may reach beyond the scope."""

    def evaluate(self, on: Evaluator, _stale_s: int) -> Truth:
        """Return the stretches as truth."""
        pairs = np.array(self.stretches(on.scope), dtype=np.int64).reshape(-1, 2)
        return from_stretches(pairs[:, 0], pairs[:, 1], on.scope.start_ms, on.scope.end_ms)

    def watched(self, by: Watcher) -> Look:
        """Look whether one of the stretches holds now."""
        stretches = self.stretches(by.scope)
        for begin, until in stretches:
            by.wake(begin)
            by.wake(until)
        return lambda now: TRUE if any(begin <= now < until for begin, until in stretches) else FALSE
