"""What a rule looks at, over arrays: each condition once, as truth over time."""

from bisect import bisect_left, bisect_right
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import inf

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.home.machines import ToldSetting
from warmeter.core.home.rule_conditions import (
    AtLevel,
    AtTime,
    Clauses,
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
    Single,
    signals_of,
)
from warmeter.core.rule.calendar_times import clock_moments, date_stretches, hour_stretches, midnights
from warmeter.core.rule.dark import dark_stretches, evening_stretches
from warmeter.core.rule.day_fact import Run, reached_ms, resets_ms
from warmeter.core.rule.scope import NO_MARKS, Scope
from warmeter.core.rule.sequence import Letter, sequences
from warmeter.core.rule.track import Track, compared, difference, heard, in_state, moving, silent
from warmeter.core.rule.truth import (
    FALSE,
    TRUE,
    UNKNOWN,
    Truth,
    all_of,
    any_of,
    constant,
    from_changes,
    from_stretches,
    held,
    moments,
)

MS_PER_S = 1000
_BY_CLOCK = (Hours, AtTime, Dates, Dark, Evening, Happens, Fact, AtLevel)


def bounds(condition: Compared) -> tuple[float, float]:
    """Return the lowest and highest value at which a comparison begins to hold."""
    if condition.how == "over":
        return condition.value, inf
    if condition.how == "under":
        return -inf, condition.value
    return condition.value, inf if condition.high is None else condition.high


def begins(truth: Truth) -> Ints:
    """Return when it came true, having last been known to be false [ms UTC]."""
    return truth.stretches()[0][truth.crosses]


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
        kept = {key: truth for key, truth in self._kept.items() if not _hangs_on_facts(key)}
        return ConditionEvaluator(scope, kept, self._tracks, self._instants)

    def with_tracks(self, tracks: Mapping[Signal, Track], holds_s: Mapping[Signal, int]) -> "ConditionEvaluator":
        """Return conditions over a scope with more signals; what was worked out without them is kept."""
        scope = replace(self.scope, tracks={**self.scope.tracks, **tracks}, holds_s={**self.scope.holds_s, **holds_s})
        kept = {key: truth for key, truth in self._kept.copy().items() if tracks.keys().isdisjoint(signals_of(key[0]))}
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
        key = condition, 0 if isinstance(condition, _BY_CLOCK) else stale_s
        if key not in self._kept:
            if isinstance(condition, Sequence):
                self._kept[key] = self._sequence(condition, stale_s)
            elif isinstance(condition, Dark) and not condition.is_dark:
                self._kept[key] = self.truth(replace(condition, is_dark=True), stale_s).negated
            else:
                self._kept[key] = self._single(condition, stale_s)
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

    def _single(self, c: Single, stale_s: int) -> Truth:
        start, end, clock = self.scope.start_ms, self.scope.end_ms, self.scope.clock
        if isinstance(c, Compared):
            low, high = bounds(c)
            track = self.heard(c.of, stale_s, c.minus)
            return compared(track, low=low, high=high, hysteresis=c.hysteresis, start_ms=start, end_ms=end)
        if isinstance(c, Moving):
            return moving(
                self.heard(c.of, stale_s, c.minus),
                by=c.by,
                within_ms=c.within_s * MS_PER_S,
                is_rising=c.how == "rising",
                start_ms=start,
                end_ms=end,
            )
        if isinstance(c, InState):
            return in_state(self.heard(c.of, stale_s), c.is_on, start, end)
        if isinstance(c, Silent):
            return silent(self.scope.track(c.of), c.for_s * MS_PER_S, start, end)
        if isinstance(c, Hours):
            return _of_pairs(hour_stretches(clock, c, start, end), start, end)
        if isinstance(c, Dates):
            return _of_pairs(date_stretches(clock, c, start, end), start, end)
        if isinstance(c, AtTime):
            return moments(clock_moments(clock, c, start, end), start, end)
        if isinstance(c, Happens):
            return moments(self.scope.happened(c), start, end)
        if isinstance(c, MachineDoes):
            return self._machine(c, stale_s)
        if isinstance(c, RanToday):
            return self._ran_today(c, stale_s)
        if isinstance(c, Fact):
            return self._fact(c)
        if isinstance(c, AtLevel):
            return self._at_level(c)
        return self._sky(c)

    def _sky(self, c: Dark | Evening) -> Truth:
        scope = self.scope
        if isinstance(c, Dark):
            begin, until = dark_stretches(
                latitude_deg=scope.latitude_deg,
                longitude_deg=scope.longitude_deg,
                below_deg=c.below_deg,
                start_ms=scope.start_ms,
                end_ms=scope.end_ms,
            )
            return from_stretches(begin, until, scope.start_ms, scope.end_ms)
        begin, until = evening_stretches(
            scope.clock,
            latitude_deg=scope.latitude_deg,
            longitude_deg=scope.longitude_deg,
            below_deg=c.below_deg,
            which=c.which,
            clock_min=c.clock_min,
            until_min=c.until_min,
            start_ms=scope.start_ms,
            end_ms=scope.end_ms,
        )
        return from_stretches(begin, until, scope.start_ms, scope.end_ms)

    def _sequence(self, c: Sequence, stale_s: int) -> Truth:
        parts: tuple[tuple[Letter, Single | None], ...] = (("A", c.first), ("B", c.then), ("C", c.unless))
        events = [
            (int(at), letter) for letter, part in parts if part is not None for at in begins(self.truth(part, stale_s))
        ]
        found = sequences(
            sorted(events),
            within_ms=c.within_s * MS_PER_S,
            cancel_ms=None if c.cancel_s is None else c.cancel_s * MS_PER_S,
            is_first=c.repeat == "first",
            end_ms=self.scope.end_ms,
        )
        return moments(
            np.array([pair.at_ms for pair in found.told], dtype=np.int64), self.scope.start_ms, self.scope.end_ms
        )

    def _works(self, appliance_id: str, setting: ToldSetting, stale_s: int) -> Truth:
        """Return whether a machine draws its setting's threshold or more."""
        power = self.heard(Signal(quantity="electric_w", subject_id=appliance_id), stale_s)
        return compared(
            power,
            low=setting.threshold_w,
            high=inf,
            hysteresis=setting.hysteresis_w,
            start_ms=self.scope.start_ms,
            end_ms=self.scope.end_ms,
        )

    def _runs(self, appliance_id: str, setting: ToldSetting, stale_s: int) -> Truth:
        """Return whether a machine runs: its pauses shorter than the setting's wait are part of it."""
        works = self._works(appliance_id, setting, stale_s)
        return _since_it_worked(held(works.negated, round(setting.wait_s * MS_PER_S)).negated, works)

    def _machine(self, c: MachineDoes, stale_s: int) -> Truth:
        start, end = self.scope.start_ms, self.scope.end_ms
        setting = self.scope.setting(c.appliance_id, c.does)
        if setting is None:
            return constant(UNKNOWN, start, end)
        if c.does == "left_on":
            return held(self._works(c.appliance_id, setting, stale_s), round(setting.wait_s * MS_PER_S))
        runs = self._runs(c.appliance_id, setting, stale_s)
        if c.does == "finished":
            return moments(begins(runs.negated), start, end)
        return runs if c.does == "runs" else runs.negated

    def _ran_today(self, c: RanToday, stale_s: int) -> Truth:
        start, end = self.scope.start_ms, self.scope.end_ms
        setting = self.scope.setting(c.appliance_id, "ran_today")
        if setting is None:
            return constant(UNKNOWN, start, end)
        runs = self._runs(c.appliance_id, setting, stale_s)
        begin, until = (edge.tolist() for edge in runs.stretches())
        known: list[Run] = [(b, None if u >= end else u) for b, u in zip(begin, until, strict=True)]
        if c.counts == "ended":
            # Where it fell silent at work, nobody knows when it ended.
            known = [run for run, after in zip(known, _following(runs), strict=True) if after == FALSE]
        starts = [run[0] for run in known]
        lost = runs.stretches(UNKNOWN)[0]
        resets = resets_ms(self.scope.clock, start, end, c.reset_min)
        at, value = [], []
        for day, following in zip(resets, [*resets[1:], end], strict=True):
            at.append(day)
            value.append(FALSE)
            near = known[max(bisect_right(starts, day) - 1, 0) : bisect_left(starts, following)]
            reached = reached_ms(near, counts=c.counts, least_s=c.least_s, begin_ms=day, until_ms=following)
            # What was not heard may have been a run: until it is certain that it has, it is not known.
            first = int(np.searchsorted(lost, day))
            blind = int(lost[first]) if first < lost.size else None
            was_blind = runs.at(np.array([max(day, start)]))[0] == UNKNOWN
            blind = max(day, start) if was_blind else blind
            if blind is not None and blind < following and (reached is None or blind < reached):
                at.append(blind)
                value.append(UNKNOWN)
            if reached is not None:
                at.append(reached)
                value.append(TRUE)
        truth = from_changes(np.array(at, dtype=np.int64), np.array(value, dtype=np.int8), start, end)
        return truth if c.has else truth.negated

    def _fact(self, c: Fact) -> Truth:
        start, end = self.scope.start_ms, self.scope.end_ms
        marks = self.scope.marks.get(c.word, NO_MARKS)
        at, value = marks.at_ms, np.where(marks.is_true, TRUE, FALSE).astype(np.int8)
        if c.reset_min is not None:
            resets = np.array(resets_ms(self.scope.clock, start, end, c.reset_min), dtype=np.int64)
            # A mark in the very second of the reset belongs to the new day.
            at, value = np.concatenate([resets, at]), np.concatenate([np.full(resets.size, FALSE), value])
            order = np.argsort(at, kind="stable")
            at, value = at[order], value[order].astype(np.int8)
        truth = from_changes(at, value, start, end, FALSE)
        return truth if c.is_true else truth.negated

    def _at_level(self, c: AtLevel) -> Truth:
        line = self.scope.levels.get(c.zone_id)
        if line is None:
            return constant(UNKNOWN, self.scope.start_ms, self.scope.end_ms)
        value = np.array([TRUE if (i in c.level_ids) == c.is_at else FALSE for i in line.level_ids], dtype=np.int8)
        return from_changes(line.at_ms, value, self.scope.start_ms, self.scope.end_ms)


def _hangs_on_facts(key: tuple[Condition, int]) -> bool:
    condition = key[0]
    parts = (condition.first, condition.then, condition.unless) if isinstance(condition, Sequence) else (condition,)
    return any(isinstance(part, Fact) for part in parts)


def _following(truth: Truth) -> list[int]:
    """Return what follows each true stretch; not known at the end."""
    after: list[int] = np.append(truth.value[1:], UNKNOWN)[truth.value == TRUE].tolist()
    return after


def _of_pairs(pairs: list[tuple[int, int]], start_ms: int, end_ms: int) -> Truth:
    both = np.array(pairs, dtype=np.int64).reshape(-1, 2)
    return from_stretches(both[:, 0], both[:, 1], start_ms, end_ms)


def _since_it_worked(runs: Truth, works: Truth) -> Truth:
    """Return runs without the wait at the very beginning, or after silence, in which nothing had worked yet."""
    begin, until = runs.stretches()
    active = np.append(works.stretches()[0], runs.end_ms)
    first = np.minimum(active[np.searchsorted(active, begin, side="left")], until)
    late = first > begin
    at = np.concatenate([runs.at_ms, first[late & (first < until)]])
    value = runs.value.copy()
    value[np.flatnonzero(runs.value == TRUE)[late]] = FALSE
    value = np.concatenate([value, np.full(at.size - value.size, TRUE, dtype=np.int8)])
    order = np.argsort(at, kind="stable")
    return from_changes(at[order], value[order], int(runs.at_ms[0]), runs.end_ms)
