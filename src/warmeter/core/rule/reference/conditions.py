"""What a rule looks at, told plainly: each condition watched from instant to instant, as a device would.

The reference for ``evaluator``: it remembers states and asks to be woken, and uses none of the array arithmetic.
"""

from collections.abc import Callable
from math import isnan, nan

from warmeter.core.home.rule_conditions import (
    AtLevel,
    AtTime,
    Compared,
    Condition,
    Dark,
    Dates,
    Evening,
    Fact,
    Happens,
    Hours,
    InState,
    MachineDoes,
    Moving,
    RanToday,
    Sequence,
    Signal,
    Silent,
)
from warmeter.core.rule.calendar_times import clock_moments, date_stretches, hour_stretches
from warmeter.core.rule.dark import dark_stretches, evening_stretches
from warmeter.core.rule.day_fact import resets_ms
from warmeter.core.rule.scope import NO_MARKS, Scope
from warmeter.core.rule.truth import FALSE, MOMENT_MS, TRUE, UNKNOWN

Wake = Callable[[int], None]
_MS = 1000


def opposite(value: int) -> int:
    """Return not; what is not known stays so."""
    return TRUE - value


class Reports:
    """A signal's reports as they come in: the last value, until it has not been heard for too long."""

    def __init__(self, scope: Scope, signal: Signal, stale_s: int, wake: Wake) -> None:
        track = scope.track(signal)
        self.stale_ms = scope.stale_ms(signal, stale_s)
        self.waiting = [(int(t), float(v)) for t, v in zip(track.at_ms, track.value, strict=True) if not isnan(v)]
        self.waiting.reverse()
        for at, _ in self.waiting:
            wake(at)
            wake(at + self.stale_ms)
        self.last_ms: int | None = None
        self.value = nan

    def hear(self, now: int) -> list[tuple[int, float]]:
        """Take the reports up to now; return those that were new."""
        fresh: list[tuple[int, float]] = []
        while self.waiting and self.waiting[-1][0] <= now:
            self.last_ms, self.value = self.waiting.pop()
            if fresh and fresh[-1][0] == self.last_ms:
                fresh.pop()
            fresh.append((self.last_ms, self.value))
        return fresh

    def known(self, now: int) -> float:
        """Return the value that still speaks; NaN where nothing does."""
        if self.last_ms is None or now - self.last_ms >= self.stale_ms:
            return nan
        return self.value


class ComparisonState:
    """A quantity, or a difference of two, against values with hysteresis; it remembers reports from before the start."""

    def __init__(
        self, low: float, high: float, hysteresis: float, of: Reports, minus: Reports | None, start_ms: int
    ) -> None:
        self.low, self.high, self.hysteresis = low, high, hysteresis
        self.of, self.minus = of, minus
        self.is_on = False
        for at in sorted({at for r in (of, minus) if r is not None for at, _ in r.waiting if at < start_ms}):
            self.look(at)

    def look(self, now: int) -> int:
        """Return whether it holds now."""
        heard = self.of.hear(now)
        if self.minus is not None:
            heard = heard + self.minus.hear(now)
        value = self.of.known(now) - (0.0 if self.minus is None else self.minus.known(now))
        if isnan(value):
            return UNKNOWN
        if heard:
            if self.low <= value <= self.high:
                self.is_on = True
            elif self.hysteresis <= 0 or value <= self.low - self.hysteresis or value >= self.high + self.hysteresis:
                self.is_on = False
        return TRUE if self.is_on else FALSE


class Movement:
    """A quantity, or a difference of two, rising or falling within a window of its reports."""

    def __init__(self, c: Moving, of: Reports, minus: Reports | None, start_ms: int) -> None:
        self.c, self.of, self.minus, self.start_ms = c, of, minus, start_ms
        self.seen: list[tuple[int, float]] = []
        self.is_moving = False

    def look(self, now: int) -> int:
        """Return whether it moves, as of the last report."""
        heard = self.of.hear(now)
        if self.minus is not None:
            heard = heard + self.minus.hear(now)
        value = self.of.known(now) - (0.0 if self.minus is None else self.minus.known(now))
        if isnan(value):
            return UNKNOWN
        if heard and heard[-1][0] >= self.start_ms:
            self.seen.append((now, value))
            window = [v for at, v in self.seen if now - at <= self.c.within_s * _MS]
            gone = value - min(window) if self.c.how == "rising" else max(window) - value
            self.is_moving = gone >= self.c.by - 1e-9
        if not self.seen:
            return UNKNOWN
        return TRUE if self.is_moving else FALSE


class Wait:
    """What has held all through for so long; what begins to hold is woken for its due time."""

    def __init__(self, for_ms: int, wake: Wake) -> None:
        self.for_ms, self.wake = for_ms, wake
        self.since: int | None = None

    def look(self, now: int, value: int) -> int:
        """Take what holds now; return whether it has held long enough."""
        if value != TRUE:
            self.since = None
            return value
        if self.since is None:
            self.since = now
            self.wake(now + self.for_ms)
        return TRUE if now >= self.since + self.for_ms else FALSE


class Machine:
    """Whether a machine works and runs: it runs from its first work until it has been quiet for the wait."""

    def __init__(
        self, threshold_w: float, hysteresis_w: float, wait_ms: int, power: Reports, wake: Wake, start_ms: int
    ) -> None:
        self.work = ComparisonState(threshold_w, float("inf"), hysteresis_w, power, None, start_ms)
        self.quiet = Wait(wait_ms, wake)
        self.long = Wait(wait_ms, wake)
        self.has_worked = False
        self.works = self.runs = self.works_long = UNKNOWN

    def look(self, now: int) -> None:
        """Take what it draws now."""
        self.works = self.work.look(now)
        self.works_long = self.long.look(now, self.works)
        quiet = self.quiet.look(now, opposite(self.works))
        if self.works == TRUE:
            self.has_worked = True
        elif self.works == UNKNOWN or quiet == TRUE:
            self.has_worked = False
        self.runs = UNKNOWN if self.works == UNKNOWN else TRUE if self.has_worked else FALSE


class Edge:
    """Tells when something comes true that was last known to be false."""

    def __init__(self) -> None:
        self.last_known: int | None = None
        self.value = UNKNOWN

    def look(self, value: int) -> bool:
        """Take what holds now; return whether it has just begun."""
        begins = value == TRUE and self.value != TRUE and self.last_known == FALSE
        self.value = value
        if value != UNKNOWN:
            self.last_known = value
        return begins


class ReferenceEvaluator:
    """Every condition of a rule, looked at at the same instants.

    Parameters
    ----------
    wake : callable
        Called with instants at which something may change.
    """

    def __init__(self, scope: Scope, stale_s: int, wake: Wake) -> None:
        self.scope, self.stale_s, self.wake = scope, stale_s, wake
        self.evaluators: dict[Condition, Callable[[int], int]] = {}
        self.now, self.told = scope.start_ms, dict[Condition, int]()

    def watch(self, condition: Condition) -> None:
        """Begin to look at a condition."""
        if condition not in self.evaluators:
            self.evaluators[condition] = self._evaluator_of(condition)

    def look(self, now: int) -> None:
        """Look at every condition once."""
        self.now = now
        self.told = {condition: evaluate(now) for condition, evaluate in self.evaluators.items()}

    def clauses(self, clauses: tuple[tuple[Condition, ...], ...]) -> int:
        """Return whether every clause holds, by one of its conditions."""
        return min((max(self.told[c] for c in clause) for clause in clauses), default=TRUE)

    def _reports(self, signal: Signal) -> Reports:
        return Reports(self.scope, signal, self.stale_s, self.wake)

    def _evaluator_of(self, c: Condition) -> Callable[[int], int]:
        if isinstance(c, Compared):
            low = c.value if c.how != "under" else -float("inf")
            high = {"over": float("inf"), "under": c.value, "between": c.high}[c.how]
            assert high is not None  # between has both values
            minus = None if c.minus is None else self._reports(c.minus)
            return ComparisonState(low, high, c.hysteresis, self._reports(c.of), minus, self.scope.start_ms).look
        if isinstance(c, Moving):
            minus = None if c.minus is None else self._reports(c.minus)
            return Movement(c, self._reports(c.of), minus, self.scope.start_ms).look
        if isinstance(c, InState):
            return self._state(c)
        if isinstance(c, Silent):
            return self._silence(c)
        if isinstance(c, Sequence):
            return self._sequence(c)
        if isinstance(c, MachineDoes):
            return self._machine(c)
        if isinstance(c, RanToday):
            return self._ran_today(c)
        if isinstance(c, Fact):
            return self._fact(c)
        if isinstance(c, AtLevel):
            return self._level(c)
        return self._inside(self._stretches(c), is_on=not (isinstance(c, Dark) and not c.is_dark))

    def _stretches(self, c: Hours | AtTime | Dates | Dark | Evening | Happens) -> list[tuple[int, int]]:
        scope, start, end = self.scope, self.scope.start_ms, self.scope.end_ms
        if isinstance(c, Hours):
            return hour_stretches(scope.clock, c, start, end)
        if isinstance(c, Dates):
            return date_stretches(scope.clock, c, start, end)
        if isinstance(c, AtTime):
            return [(at, at + MOMENT_MS) for at in clock_moments(scope.clock, c, start, end).tolist()]
        if isinstance(c, Happens):
            return [(at, at + MOMENT_MS) for at in scope.happened(c).tolist()]
        sky = {"latitude_deg": scope.latitude_deg, "longitude_deg": scope.longitude_deg, "below_deg": c.below_deg}
        if isinstance(c, Dark):
            begin, until = dark_stretches(**sky, start_ms=start, end_ms=end)
        else:
            begin, until = evening_stretches(
                scope.clock,
                **sky,
                which=c.which,
                clock_min=c.clock_min,
                until_min=c.until_min,
                start_ms=start,
                end_ms=end,
            )
        return list(zip(begin.tolist(), until.tolist(), strict=True))

    def _inside(self, stretches: list[tuple[int, int]], *, is_on: bool) -> Callable[[int], int]:
        for begin, until in stretches:
            self.wake(begin)
            self.wake(until)

        def look(now: int) -> int:
            return TRUE if any(begin <= now < until for begin, until in stretches) == is_on else FALSE

        return look

    def _state(self, c: InState) -> Callable[[int], int]:
        reports = self._reports(c.of)

        def look(now: int) -> int:
            reports.hear(now)
            value = reports.known(now)
            return UNKNOWN if isnan(value) else TRUE if (value >= 0.5) == c.is_on else FALSE

        return look

    def _silence(self, c: Silent) -> Callable[[int], int]:
        reports = self._reports(c.of)
        last = self.scope.start_ms
        self.wake(last + c.for_s * _MS)
        for at, _ in reports.waiting:
            self.wake(at + c.for_s * _MS)

        def look(now: int) -> int:
            nonlocal last
            for at, _ in reports.hear(now):
                last = max(last, at)
            return TRUE if now >= last + c.for_s * _MS else FALSE

        return look

    def _sequence(self, c: Sequence) -> Callable[[int], int]:
        parts = [
            (letter, self._evaluator_of(part), Edge())
            for letter, part in zip("ABC", (c.first, c.then, c.unless), strict=True)
            if part is not None
        ]
        armed: int | None = None
        waiting: list[int] = []
        told_until = 0

        def look(now: int) -> int:
            nonlocal armed, waiting, told_until
            for letter, evaluate, edge in parts:
                if not edge.look(evaluate(now)):
                    continue
                if letter == "A" and not (
                    c.repeat == "first" and armed is not None and now - armed <= c.within_s * _MS
                ):
                    armed = now
                elif letter == "B" and armed is not None and now - armed <= c.within_s * _MS:
                    armed = None
                    due = now + (c.cancel_s or 0) * _MS
                    waiting.append(due)
                    self.wake(due)
                elif letter == "C" and c.cancel_s is not None:
                    waiting = []
            if any(due <= now for due in waiting):
                told_until = now + MOMENT_MS
                self.wake(told_until)
            waiting = [due for due in waiting if due > now]
            return TRUE if now < told_until else FALSE

        return look

    def _power(self, appliance_id: str, does: str) -> Machine | None:
        setting = self.scope.setting(appliance_id, does)
        if setting is None:
            return None
        power = self._reports(Signal(quantity="electric_w", subject_id=appliance_id))
        return Machine(
            setting.threshold_w,
            setting.hysteresis_w,
            round(setting.wait_s * _MS),
            power,
            self.wake,
            self.scope.start_ms,
        )

    def _machine(self, c: MachineDoes) -> Callable[[int], int]:
        machine = self._power(c.appliance_id, c.does)
        if machine is None:
            return lambda _: UNKNOWN
        stop, finished_until = Edge(), 0

        def look(now: int) -> int:
            nonlocal finished_until
            machine.look(now)
            if c.does == "left_on":
                return machine.works_long
            if c.does == "runs":
                return machine.runs
            if c.does == "idle":
                return opposite(machine.runs)
            if stop.look(opposite(machine.runs)):
                finished_until = now + MOMENT_MS
                self.wake(finished_until)
            return TRUE if now < finished_until else FALSE

        return look

    def _ran_today(self, c: RanToday) -> Callable[[int], int]:
        machine = self._power(c.appliance_id, "ran_today")
        if machine is None:
            return lambda _: UNKNOWN
        resets = resets_ms(self.scope.clock, self.scope.start_ms, self.scope.end_ms, c.reset_min)
        for at in resets:
            self.wake(at)
        need = max(1, c.least_s) * _MS
        ran, has, is_blind, before, last = 0, False, False, FALSE, self.scope.start_ms

        def look(now: int) -> int:
            nonlocal ran, has, is_blind, before, last
            machine.look(now)
            if before == TRUE:
                ran += now - last
                has = has or (c.counts == "ran" and ran >= need)
            if now in resets:
                ran, has, is_blind = 0, False, False
            runs = machine.runs
            if runs == TRUE:
                if before != TRUE and c.counts == "started":
                    has = True
                self.wake(now + max(need - ran, 0))
            if before == TRUE and runs == FALSE and c.counts == "ended":
                has = True
            is_blind = is_blind or runs == UNKNOWN
            before, last = runs, now
            value = TRUE if has else UNKNOWN if is_blind else FALSE
            return value if c.has else opposite(value)

        return look

    def _fact(self, c: Fact) -> Callable[[int], int]:
        marks = self.scope.marks.get(c.word, NO_MARKS)
        changes = list(zip(marks.at_ms.tolist(), marks.is_true.tolist(), strict=True))
        if c.reset_min is not None:
            resets = resets_ms(self.scope.clock, self.scope.start_ms, self.scope.end_ms, c.reset_min)
            changes = [(at, False) for at in resets] + changes
        changes.sort(key=lambda change: change[0])
        for at, _ in changes:
            self.wake(at)

        def look(now: int) -> int:
            said = [is_true for at, is_true in changes if at <= now]
            return TRUE if (bool(said) and said[-1]) == c.is_true else FALSE

        return look

    def _level(self, c: AtLevel) -> Callable[[int], int]:
        line = self.scope.levels.get(c.zone_id)
        if line is None:
            return lambda _: UNKNOWN
        rows = list(zip(line.at_ms.tolist(), line.level_ids, strict=True))
        for at, _ in rows:
            self.wake(at)

        def look(now: int) -> int:
            held = [level for at, level in rows if at <= now]
            return UNKNOWN if not held else TRUE if (held[-1] in c.level_ids) == c.is_at else FALSE

        return look
