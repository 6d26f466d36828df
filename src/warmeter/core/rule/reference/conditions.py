"""What a rule looks at, told plainly: each condition watched from instant to instant, as a device would.

The reference for the evaluator over arrays: it remembers states and asks to be woken.
"""

from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.truth import TRUE
from warmeter.core.truth.watchers import Look, Reports, Wake


class ReferenceEvaluator:
    """Every condition of a rule, looked at at the same instants.

    Parameters
    ----------
    wake : callable
        Called with instants at which something may change.
    """

    def __init__(self, scope: Scope, stale_s: int, wake: Wake) -> None:
        self.scope, self.stale_s, self.wake = scope, stale_s, wake
        self.evaluators: dict[Condition, Look] = {}
        self.now, self.told = scope.start_ms, dict[Condition, int]()

    def watch(self, condition: Condition) -> None:
        """Begin to look at a condition."""
        if condition not in self.evaluators:
            self.evaluators[condition] = condition.watched(self)

    def look(self, now: int) -> None:
        """Look at every condition once."""
        self.now = now
        self.told = {condition: evaluate(now) for condition, evaluate in self.evaluators.items()}

    def clauses(self, clauses: tuple[tuple[Condition, ...], ...]) -> int:
        """Return whether every clause holds, by one of its conditions."""
        return min((max(self.told[c] for c in clause) for clause in clauses), default=TRUE)

    def reports(self, signal: Signal) -> Reports:
        """Return a signal's reports as they come in."""
        return Reports(self.scope, signal, self.stale_s, self.wake)
