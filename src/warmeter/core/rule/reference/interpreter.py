"""A rule's life told plainly, instant by instant: the reference for ``rule_run``."""

from heapq import heappop, heappush

from warmeter.core.home.rules import Rule
from warmeter.core.rule.reference.conditions import ReferenceEvaluator
from warmeter.core.rule.run import REFIRE_MS, Firing, HeldBack, RuleRun, last_step_ms, locks
from warmeter.core.truth.calendar_times import clock_moments, midnights
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.truth.watchers import Edge
from warmeter.core.units import MS_PER_DAY

_MS = 1000


def interpret(rule: Rule, scope: Scope) -> RuleRun:
    """Return what becomes of a rule over a scope, walked from instant to instant."""
    return _Interpreter(rule, scope).run()


class _Interpreter:
    """One rule at work."""

    def __init__(self, rule: Rule, scope: Scope) -> None:
        self.rule, self.scope, self.limits = rule, scope, rule.limits
        self.heap: list[int] = []
        self.evaluator = ReferenceEvaluator(scope, rule.limits.stale_s, self.wake)
        for condition in rule.conditions:
            self.evaluator.watch(condition)
        self.days = midnights(scope.clock, scope.start_ms, scope.end_ms).tolist()
        self.back_times: list[int] = []
        if rule.put_back is not None and rule.put_back.at_min is not None:
            at_min = rule.put_back.at_min
            end = scope.end_ms + 2 * MS_PER_DAY
            self.back_times = clock_moments(scope.clock, at_min, (), scope.start_ms, end).tolist()
        for instant in (*self.days, *self.back_times):
            self.wake(instant)
        if rule.suspended is not None and rule.suspended.until_ms is not None:
            self.wake(rule.suspended.until_ms)

        self.firings: list[Firing] = []
        self.held_back: list[HeldBack] = []
        self.ignored: list[int] = []
        self.edge = Edge()
        self.true_since: int | None = None
        self.is_crossing = False
        self.back_since: int | None = None
        self.latched_ms: list[int] = []
        self.locked_to: int | None = None
        self.asked: int | None = None  # a firing that waits for the minimum time off
        self.has_told = False

    def wake(self, at_ms: int) -> None:
        """Have a look at an instant."""
        heappush(self.heap, at_ms)

    def run(self) -> RuleRun:
        """Walk from instant to instant."""
        now, end = self.scope.start_ms, self.scope.end_ms
        while now < end:
            self.step(now)
            while self.heap and self.heap[0] <= now:
                heappop(self.heap)
            now = self.heap[0] if self.heap else end
        self.drop_asked()
        order = sorted(self.held_back, key=lambda held: held.at_ms)
        return RuleRun(firings=tuple(self.firings), held_back=tuple(order), ignored_ms=tuple(self.ignored))

    @property
    def is_running(self) -> bool:
        """Whether its last firing has not ended."""
        return bool(self.firings) and self.firings[-1].end_ms is None

    def step(self, now: int) -> None:
        """Look at everything once: first whether it ends, then whether it fires."""
        self.evaluator.look(now)
        watch = self.evaluator.clauses(self.rule.watch)
        began = self.edge.look(watch)
        if watch != TRUE:
            # Fallen silent before its wait was over: what is true again then is still the same crossing.
            was_due = self.true_since is not None and now > self.true_since + self.rule.for_s * _MS
            self.is_crossing = self.is_crossing and watch == UNKNOWN and not was_due
            self.true_since = None
            self.drop_asked()
        elif self.true_since is None:
            self.true_since, self.has_told = now, False
            self.is_crossing = self.is_crossing or began
            self.wake(now + self.rule.for_s * _MS)
        self.end_if_over(now, watch)
        due = None if self.true_since is None else self.true_since + self.rule.for_s * _MS
        if due is None or now < due:
            return
        if now == due:
            self.has_come(now)
        elif (self.rule.reading == "is" and not self.is_running) or (
            self.asked is not None and now == self.due_after_rest()
        ):
            self.ask(now)

    def has_come(self, now: int) -> None:
        """Its watch has just held long enough."""
        if self.rule.reading == "becomes" and not self.is_crossing:
            return
        if not self.is_running:
            self.ask(now)
        elif self.rule.is_restarted and self.is_allowed():
            self.firings[-1] = Firing(self.firings[-1].at_ms, now, "restarted")
            self.fire(now)
        else:
            self.ignored.append(now)

    def is_allowed(self) -> bool:
        """Whether only while and as long as hold."""
        evaluator, rule = self.evaluator, self.rule
        return evaluator.clauses(rule.only_while) == evaluator.clauses(rule.as_long_as) == TRUE

    def ask(self, now: int) -> None:
        """Fire, unless something holds it back."""
        why = self.refusal(now)
        if why == "chatter":
            self.locked_to = now + self.limits.lock_for_s * _MS
            self.wake(self.locked_to)
        if why is None:
            self.asked = None
            self.fire(now)
        elif self.rule.reading == "is":
            if not self.has_told:
                self.held_back.append(HeldBack(now, why))
                self.has_told = True
        elif why == "min_off":
            self.asked = now
        else:
            self.asked = None
            self.held_back.append(HeldBack(now, why))

    def drop_asked(self) -> None:
        """Its watch did not hold until the minimum time off was over."""
        if self.asked is not None:
            self.held_back.append(HeldBack(self.asked, "min_off"))
            self.asked = None

    def last_end(self) -> int | None:
        """Return the end of its last firing."""
        return self.firings[-1].end_ms if self.firings else None

    def due_after_rest(self) -> int:
        """Return when the minimum time off is over."""
        return (self.last_end() or 0) + self.limits.min_off_s * _MS

    def refusal(self, now: int) -> str | None:
        """Return what holds a firing back."""
        limits, fired, ended = self.limits, [f.at_ms for f in self.firings], self.last_end()
        suspended = self.rule.suspended
        if suspended and suspended.from_ms <= now and (suspended.until_ms is None or now < suspended.until_ms):
            return "suspended"
        if self.locked_to is not None and now < self.locked_to:
            return "locked"
        if ended is not None and now < ended + limits.cool_off_s * _MS:
            return "cool_off"
        today = max(day for day in self.days if day <= now)
        if limits.most_a_day is not None and sum(at >= today for at in fired) >= limits.most_a_day:
            return "most_a_day"
        if self.evaluator.clauses(self.rule.as_long_as) != TRUE:
            return "as_long_as"
        if self.evaluator.clauses(self.rule.only_while) != TRUE:
            return "only_while"
        if fired and now < fired[-1] + REFIRE_MS:
            return "too_soon"
        recent = [at for at in fired if now - at < limits.lock_window_s * _MS]
        if locks(self.rule) and len(recent) >= limits.lock_starts:
            return "chatter"
        if ended is not None and now < self.due_after_rest():
            return "min_off"
        return None

    def fire(self, now: int) -> None:
        """Begin Then, and ask to be woken at everything that may follow."""
        self.firings.append(Firing(now, None))
        self.has_told = False
        self.latched_ms = []
        limits, back = self.limits, self.rule.put_back
        after_s = 0 if back is None or back.after_s is None else back.after_s
        waits = {1, limits.min_on_s, after_s, 0 if back is None else back.for_s}
        for wait in waits:
            self.wake(now + wait * _MS)
        self.wake(now + last_step_ms(self.rule))
        self.wake(now + REFIRE_MS)
        for at in [f.at_ms for f in self.firings[-limits.lock_starts :]]:
            self.wake(at + limits.lock_window_s * _MS)
        if back is None and not self.rule.as_long_as and last_step_ms(self.rule) == 0:
            self.end(now, "done")

    def end(self, now: int, why: str) -> None:
        """End the firing: its claims are released."""
        self.firings[-1] = Firing(self.firings[-1].at_ms, now, why)
        self.wake(now + self.limits.cool_off_s * _MS)
        self.wake(now + self.limits.min_off_s * _MS)

    def end_if_over(self, now: int, watch: int) -> None:
        """End the firing if anything says so; count how long put back has held."""
        rule, evaluator, back = self.rule, self.evaluator, self.rule.put_back
        put_back = evaluator.clauses(back.when) if back is not None and back.when else FALSE
        was = self.back_since
        self.back_since = None if put_back != TRUE else now if was is None else was
        if back is not None and self.back_since is not None and was is None:
            self.wake(now + back.for_s * _MS)
            if self.is_running and now >= self.firings[-1].at_ms + _MS and self.latches():
                self.latched_ms.append(now)
        if not self.is_running:
            return
        fired = self.firings[-1].at_ms
        if back is None and not rule.as_long_as:
            if now >= fired + last_step_ms(rule):
                self.end(now, "done")
            return
        least = fired + max(1, self.limits.min_on_s) * _MS
        lost = UNKNOWN in (watch, put_back if back is not None and back.when else FALSE)
        if now >= least and evaluator.clauses(rule.as_long_as) == FALSE:
            self.end(now, "as_long_as")
        elif now >= least and lost and self.limits.when_stale == "put_back":
            self.end(now, "stale")
        elif back is not None and self.is_put_back(now, fired, least):
            self.end(now, "when")
        elif (
            back is not None
            and back.after_s is not None
            and now >= fired + max(back.after_s, self.limits.min_on_s) * _MS
        ):
            self.end(now, "after")
        elif any(fired < at <= now for at in self.back_times) and now >= fired + self.limits.min_on_s * _MS:
            self.end(now, "at")

    def latches(self) -> bool:
        """Whether put back hangs on a moment: it counts, even if the claim may not end yet."""
        back = self.rule.put_back
        return back is not None and any(c.is_moment for clause in back.when for c in clause)

    def is_put_back(self, now: int, fired: int, least: int) -> bool:
        """Whether what puts it back has held long enough since it fired, or did while it might not end."""
        back = self.rule.put_back
        assert back is not None  # asked of rules that put back only
        wait = back.for_s * _MS
        since = [] if self.back_since is None else [self.back_since]
        return any(now >= max(at + wait, fired + wait, least) for at in [*since, *self.latched_ms])
