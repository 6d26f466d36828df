"""What the reference remembers of reports, from instant to instant, as a device would; no array arithmetic."""

from collections.abc import Callable
from math import isnan, nan

from warmeter.core.truth.scope import HasSubject, MachineSetting, Scope
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.units import MS_PER_S

Wake = Callable[[int], None]
Look = Callable[[int], int]


class Reports:
    """A signal's reports as they come in: the last value, until it has not been heard for too long."""

    def __init__(self, scope: Scope, signal: HasSubject, stale_s: int, wake: Wake) -> None:
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

    def __init__(
        self, by: float, within_ms: int, of: Reports, minus: Reports | None, start_ms: int, *, is_rising: bool
    ) -> None:
        self.by, self.within_ms, self.is_rising = by, within_ms, is_rising
        self.of, self.minus, self.start_ms = of, minus, start_ms
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
            window = [v for at, v in self.seen if now - at <= self.within_ms]
            gone = value - min(window) if self.is_rising else max(window) - value
            self.is_moving = gone >= self.by - 1e-9
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
    """Whether a machine works and runs: from work that lasts for its start until it has been quiet for the wait."""

    def __init__(self, setting: MachineSetting, power: Reports, wake: Wake, start_ms: int) -> None:
        self.work = ComparisonState(setting.threshold_w, float("inf"), setting.hysteresis_w, power, None, start_ms)
        wait_ms = round(setting.wait_s * MS_PER_S)
        self.quiet = Wait(wait_ms, wake)
        self.begun = Wait(round(setting.start_s * MS_PER_S), wake)
        self.long = Wait(wait_ms, wake)
        self.has_worked = False
        self.works = self.runs = self.works_long = UNKNOWN

    def look(self, now: int) -> None:
        """Take what it draws now."""
        self.works = self.work.look(now)
        self.works_long = self.long.look(now, self.works)
        quiet = self.quiet.look(now, TRUE - self.works)
        if self.begun.look(now, self.works) == TRUE:
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
