"""Two blanks of a rule swept over a log: what each setting would have missed and told for nothing, and a point in the middle."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numba import njit

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.conditions.silent import Silent
from warmeter.core.home.rules import Rule
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.parts import ConditionPlace, conditions_of, with_values
from warmeter.core.rule.run import RuleRun, rule_run_of
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import TRUE, Truth
from warmeter.core.units import MS_PER_DAY, MS_PER_S

Progress = Callable[[int, int], bool]
KnobKind = Literal["time", "value", "difference"]
TIMES_S = (0, 30, 60, 120, 180, 240, 300, 480, 600, 900, 1200, 1800, 2700, 3600, 5400, 7200)
WEEK_DAYS = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class Knob:
    """A number of a rule that can be swept.

    Parameters
    ----------
    key : str
        Its name in the sentence.
    path, field : str
        The part of the rule that it stands in, and its name there.
    name, kind, quantity : str
        In words; whether it is a time [s], a value or a difference of a quantity in its stored unit.
    now : float
        What stands in it.
    """

    key: str
    path: str
    field: str
    name: str
    kind: KnobKind
    quantity: str
    now: float

    def set_in(self, rule: Rule, value: float) -> Rule:
        """Return a rule with another number in it."""
        number = max(1 if self.field == "after_s" else 0, round(value)) if self.kind == "time" else value
        return with_values(rule, self.path, {self.field: number})


@dataclass(frozen=True, slots=True, kw_only=True)
class Events:
    """What a rule should catch: stretches [begin, until) in order of time, in ms UTC."""

    begin_ms: Ints
    until_ms: Ints

    @property
    def count(self) -> int:
        """How many."""
        return int(self.begin_ms.size)


@dataclass(frozen=True, slots=True, kw_only=True)
class Score:
    """What a life came to: events missed, firings at none, the middle delay of the others [s]."""

    missed: int
    needless: int
    late_s: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepMap:
    """Every setting of two blanks.

    Parameters
    ----------
    up, across : Knob
        The two blanks.
    up_values, across_values : (u,), (a,) float arrays
        Rising.
    missed, needless : (u, a) int arrays
        Events missed, firings at no event.
    late_s : (u, a) float array
        Middle delay of those caught, NaN where none was.
    events : int
        How many there were to catch.
    weeks : float
        Length of the log.
    is_whole : bool
        Whether it was not stopped.
    """

    up: Knob
    across: Knob
    up_values: Floats
    across_values: Floats
    missed: Ints
    needless: Ints
    late_s: Floats
    events: int
    weeks: float
    is_whole: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Middle:
    """A setting in the middle of the good region: its place, and how many steps it stands from every bad one."""

    up: int
    across: int
    steps: int


def knobs_of(rule: Rule) -> list[Knob]:
    """Return the numbers of a rule that can be swept."""
    back, found = rule.put_back, [_time_knob("for", "", "for_s", "waits", rule.for_s)]
    for part in ("watch", "when"):
        for place, c in conditions_of(rule, part):
            found += _condition_knobs(place, c)
    if back is not None and back.when:
        found.append(_time_knob("back_for", "put_back", "for_s", "put back after", back.for_s))
    if back is not None and back.after_s is not None:
        found.append(_time_knob("back_after", "put_back", "after_s", "put back at the latest after", back.after_s))
    found.append(_time_knob("cool_off_s", "limits", "cool_off_s", "cools off", rule.limits.cool_off_s))
    return found


def _time_knob(key: str, path: str, field: str, name: str, now: float) -> Knob:
    return Knob(key=key, path=path, field=field, name=name, kind="time", quantity="", now=now)


def _condition_knobs(place: ConditionPlace, c: Condition) -> list[Knob]:
    """Return the numbers of a condition that can be swept."""

    def knob(field: str, key: str, name: str, kind: KnobKind, quantity: str) -> Knob:
        return Knob(
            key=f"{place.path}.{key}",
            path=place.path,
            field=field,
            name=name,
            kind=kind,
            quantity=quantity,
            now=float(getattr(c, field)),
        )

    if isinstance(c, Compared):
        quantity = c.of.quantity
        word = "begins at" if place.part == "watch" else "put back at"
        return [
            knob("value", "value", word, "value" if c.minus is None else "difference", quantity),
            knob("hysteresis", "hysteresis", "hysteresis", "difference", quantity),
        ]
    if isinstance(c, Moving):
        return [
            knob("by", "by", f"{c.how} by", "difference", c.of.quantity),
            knob("within_s", "within", "within", "time", ""),
        ]
    return [knob("for_s", "for", "silent for", "time", "")] if isinstance(c, Silent) else []


def values_around(knob: Knob, count: int, *, low: float | None = None, high: float | None = None) -> Floats:
    """Return values to try for a blank, rising, what stands in it among them.

    Parameters
    ----------
    count : int
        About how many.
    low, high : float or None
        Ends of what the log holds, for a value.
    """
    if knob.kind == "time":
        tried = sorted({*(s for s in TIMES_S if s or knob.key != "back_after"), round(knob.now)})
        at = tried.index(round(knob.now))
        first = min(max(0, at - count // 2), max(0, len(tried) - count))
        least = 1.0 if ".within" in knob.key or knob.key == "back_after" else 0.0
        return np.array([max(float(s), least) for s in tried[first : first + count]])
    if knob.kind == "difference":
        top = max(3 * knob.now, 1e-3)
        values = np.linspace(top / count, top, count) if ".hysteresis" not in knob.key else np.linspace(0, top, count)
        return np.unique(np.round(np.append(values, knob.now), 4))
    spread = 3.0 if low is None or high is None else max((high - low) / 4, 1e-3)
    values = np.linspace(knob.now - spread, knob.now + spread, count)
    return np.unique(np.round(np.append(values, knob.now), 2))


def judged(rule_run: RuleRun, events: Events) -> Score:
    """Return what a life missed and fired at for nothing.

    An event is caught by a firing within it; a firing outside every event is needless.
    """
    fired = np.array([f.at_ms for f in rule_run.firings], dtype=np.int64)
    place = np.searchsorted(events.begin_ms, fired, side="right") - 1
    inside = (
        (place >= 0) & (fired < events.until_ms[np.maximum(place, 0)]) if events.count else np.zeros(fired.size, bool)
    )
    caught, first = np.unique(place[inside], return_index=True)
    late = (fired[inside][first] - events.begin_ms[caught]) / MS_PER_S
    return Score(
        missed=events.count - int(caught.size),
        needless=int((~inside).sum()),
        late_s=float(np.median(late)) if late.size else None,
    )


def lasting(truth: Truth, least_s: float) -> Events:
    """Return the stretches of a truth that last at least so long: what should be caught."""
    begin, until = truth.stretches(TRUE)
    kept = until - begin >= least_s * MS_PER_S
    return Events(begin_ms=begin[kept], until_ms=until[kept])


def sweep(
    rule: Rule,
    evaluator: ConditionEvaluator,
    up: Knob,
    across: Knob,
    up_values: Floats,
    across_values: Floats,
    events: Events,
    *,
    progress: Progress | None = None,
) -> SweepMap:
    """Return every setting of two blanks of a whole rule over a log.

    Parameters
    ----------
    progress : callable or None
        Told how many of how many settings are done; returns whether to go on.

    Raises
    ------
    NotKnowable
        If there is no event to catch, or both blanks are the same.
    """
    if not events.count:
        raise NotKnowable(
            "This stretch holds nothing that the rule should catch.", "Take a longer stretch, or mark some events."
        )
    if up.key == across.key:
        raise NotKnowable("Both blanks are the same.", "Choose two different ones.")
    shape = up_values.size, across_values.size
    missed, needless, late = np.zeros(shape, np.int64), np.zeros(shape, np.int64), np.full(shape, np.nan)
    done = 0
    for u, value in enumerate(up_values.tolist()):
        for a, other in enumerate(across_values.tolist()):
            changed = across.set_in(up.set_in(rule, value), other)
            score = judged(rule_run_of(changed, evaluator), events)
            missed[u, a], needless[u, a] = score.missed, score.needless
            late[u, a] = np.nan if score.late_s is None else score.late_s
            done += 1
        if progress is not None and not progress(done, shape[0] * shape[1]):
            break
    scope = evaluator.scope
    return SweepMap(
        up=up,
        across=across,
        up_values=up_values[: done // shape[1]],
        across_values=across_values,
        missed=missed[: done // shape[1]],
        needless=needless[: done // shape[1]],
        late_s=late[: done // shape[1]],
        events=events.count,
        weeks=(scope.end_ms - scope.start_ms) / MS_PER_DAY / WEEK_DAYS,
        is_whole=done == shape[0] * shape[1],
    )


def place_of_now(tried: SweepMap) -> tuple[int, int]:
    """Return the place of what stands in both blanks, the nearest that was tried."""
    return (
        int(np.argmin(np.abs(tried.up_values - tried.up.now))),
        int(np.argmin(np.abs(tried.across_values - tried.across.now))),
    )


def good(tried: SweepMap, *, most_missed: int = 0, needless_a_week: float = 1.0) -> Flags:
    """Return which settings meet the goals."""
    return np.asarray(
        (tried.missed <= most_missed) & (tried.needless <= needless_a_week * tried.weeks + 1e-9), dtype=np.bool_
    )


def middle(is_good: Flags, near: tuple[int, int]) -> Middle | None:
    """Return the good setting farthest from every bad one, of equals the one nearest to what stands now; None if none is.

    Distance is in steps of either blank, the larger of both; beyond the map's edge nothing is known to be good.
    """
    depth = np.zeros(is_good.shape, dtype=np.int64)
    layer = is_good.copy()
    while layer.any():
        depth += layer
        around = np.pad(layer, 1)
        rows, columns = layer.shape
        layer = np.logical_and.reduce([around[i : i + rows, j : j + columns] for i in range(3) for j in range(3)])
    if not depth.any():
        return None
    deepest = np.argwhere(depth == depth.max())
    up, across = (int(k) for k in deepest[int(np.argmin(np.abs(deepest - np.array(near)).sum(axis=1)))])
    return Middle(up=up, across=across, steps=int(depth[up, across]))


BLOCK = 64


@njit(cache=True, nogil=True)
def _blocks(value):  # type: ignore[no-untyped-def]
    """Return the least and greatest of each block of values; NaN makes a block that must be walked."""
    count = (value.shape[0] + BLOCK - 1) // BLOCK
    low, high = np.empty(count), np.empty(count)
    for b in range(count):
        low[b], high[b] = np.inf, -np.inf
        for i in range(b * BLOCK, min((b + 1) * BLOCK, value.shape[0])):
            v = value[i]
            if np.isnan(v):
                low[b], high[b] = -np.inf, np.inf
                break
            low[b], high[b] = min(low[b], v), max(high[b], v)
    return low, high


@njit(cache=True, nogil=True)
def _sweep_watch(at, value, low, high, on, widths, waits, begin, until, end, missed, needless):  # type: ignore[no-untyped-def]
    """Fill misses and needless firings of a watch that is over a threshold, by threshold, hysteresis and wait."""
    n = value.shape[0]
    start_of, end_of = np.empty(n + 1, dtype=np.int64), np.empty(n + 1, dtype=np.int64)
    for t in range(on.shape[0]):
        for h in range(widths.shape[0]):
            off = on[t] - widths[h]
            found, state, i = 0, False, 0
            while i < n:
                if i % BLOCK == 0:
                    b = i // BLOCK
                    if (not state and high[b] < on[t]) or (state and low[b] > off):
                        i += BLOCK
                        continue
                v = value[i]
                if np.isnan(v):
                    if state:
                        end_of[found] = at[i]
                        found += 1
                    state = False
                elif not state and v >= on[t]:
                    state = True
                    start_of[found] = at[i]
                elif state and (v <= off if widths[h] > 0 else v < on[t]):
                    state = False
                    end_of[found] = at[i]
                    found += 1
                i += 1
            if state:
                end_of[found] = end
                found += 1
            for w in range(waits.shape[0]):
                caught, c, last = 0, 0, -1
                for k in range(found):
                    fired = start_of[k] + waits[w]
                    if fired >= end_of[k] or fired >= end:
                        continue
                    while c < begin.shape[0] and until[c] <= fired:
                        c += 1
                    if c < begin.shape[0] and begin[c] <= fired:
                        if last != c:
                            caught += 1
                            last = c
                    else:
                        needless[t, h, w] += 1
                missed[t, h, w] = begin.shape[0] - caught


def sweep_watch(
    track: Track,
    thresholds: Sequence[float],
    widths: Sequence[float],
    waits_s: Sequence[float],
    events: Events,
    *,
    end_ms: int,
    is_over: bool = True,
) -> tuple[Ints, Ints]:
    """Return misses and needless firings of one watch, by threshold, hysteresis and wait, shapes (t, h, w).

    Parameters
    ----------
    track : Track
        Heard reports.
    widths : sequence of float
        Hystereses, from 0 on, in the stored unit.
    is_over : bool
        Whether over the threshold is meant, else under it.

    Notes
    -----
    What falls silent ends; a value within the hysteresis after silence does not go on as before, unlike in a whole
    rule. Blocks of reports that cannot change the state are passed over whole.
    """
    sign = 1.0 if is_over else -1.0
    value = np.ascontiguousarray(sign * track.value)
    shape = len(thresholds), len(widths), len(waits_s)
    missed, needless = np.zeros(shape, dtype=np.int64), np.zeros(shape, dtype=np.int64)
    low, high = _blocks(value)
    _sweep_watch(
        track.at_ms,
        value,
        low,
        high,
        sign * np.asarray(thresholds, dtype=np.float64),
        np.asarray(widths, dtype=np.float64),
        np.asarray([round(1000 * w) for w in waits_s], dtype=np.int64),
        events.begin_ms,
        events.until_ms,
        end_ms,
        missed,
        needless,
    )
    return missed, needless
