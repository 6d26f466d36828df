"""A rule's life over arrays: when it fires, what holds it back, when and why it ends.

The same life is told plainly, instant by instant, in ``interpreter``; both must agree.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Flags, Ints
from warmeter.core.home.rules import Rule
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.truth.calendar_times import clock_moments
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth, all_of, held
from warmeter.core.units import MS_PER_DAY, MS_PER_S

REFIRE_MS = 60_000
NEVER = np.iinfo(np.int64).max // 4
HELD_WHY = (
    "suspended",
    "locked",
    "cool_off",
    "most_a_day",
    "as_long_as",
    "only_while",
    "too_soon",
    "chatter",
    "min_off",
)
END_WHY = ("as_long_as", "stale", "when", "after", "at", "done", "restarted")


@dataclass(frozen=True, slots=True)
class Firing:
    """A firing and its end [ms UTC]; an end of None lies beyond what was looked at, ``why`` is empty then."""

    at_ms: int
    end_ms: int | None
    why: str = ""


@dataclass(frozen=True, slots=True)
class HeldBack:
    """Where it would have fired [ms UTC], and what held it back (a key of ``HELD_WHY``)."""

    at_ms: int
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleRun:
    """What became of a rule over a stretch.

    Parameters
    ----------
    firings : tuple of Firing
        In order of time.
    held_back : tuple of HeldBack
        Likewise.
    ignored_ms : tuple of int
        When its watch came true again while it held [ms UTC].
    """

    firings: tuple[Firing, ...] = ()
    held_back: tuple[HeldBack, ...] = ()
    ignored_ms: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleMemory:
    """What a rule that is followed live brings along: from when on it is looked at, and what it did before that.

    Parameters
    ----------
    start_ms : int
        It is looked at from here on: it was written or edited then, or what lies before is not read again [ms UTC].
    before : tuple of Firing
        Its firings before that, in order; the last may still hold.
    """

    start_ms: int
    before: tuple[Firing, ...] = ()


def last_step_ms(rule: Rule) -> int:
    """Return how long after firing its last step comes, hard stops of timed runs included [ms]."""
    at, last = 0, 0
    for step in rule.then:
        at += step.wait_s
        last = max(last, at + (step.for_s if step.kind == "timed_run" else 0))
    return last * MS_PER_S


def locks(rule: Rule) -> bool:
    """Return whether too many starts lock it; a safety rule is never locked."""
    return rule.kind != "safety"


@dataclass(frozen=True, slots=True)
class Inputs:
    """What a rule's life follows from: the truths of its parts."""

    watch: Truth
    only_while: Truth
    as_long_as: Truth
    put_back: Truth
    lost: Truth


def inputs_of(rule: Rule, evaluator: ConditionEvaluator) -> Inputs:
    """Return the truths of a rule's parts; ``lost`` where watch or put back are not known."""
    stale = rule.limits.stale_s
    watch = evaluator.clauses(rule.watch, stale)
    when = rule.put_back.when if rule.put_back else ()
    put_back = evaluator.clauses(when, stale)
    unknown = [_where_unknown(watch)] + ([_where_unknown(put_back)] if when else [])
    known = [truth.negated for truth in unknown]
    return Inputs(
        watch=watch,
        only_while=evaluator.clauses(rule.only_while, stale),
        as_long_as=evaluator.clauses(rule.as_long_as, stale),
        put_back=put_back,
        lost=all_of(known).negated,
    )


def _where_unknown(truth: Truth) -> Truth:
    value = np.where(truth.value == UNKNOWN, TRUE, FALSE).astype(np.int8)
    changed = np.append(True, value[1:] != value[:-1])
    return Truth(truth.at_ms[changed], value[changed], truth.end_ms)


def rule_run_of(
    rule: Rule, evaluator: ConditionEvaluator, inputs: Inputs | None = None, before: Sequence[Firing] = ()
) -> RuleRun:
    """Return what becomes of a rule over its scope; ``before`` are its firings before the scope begins, told again.

    Notes
    -----
    The order in which things are looked at: ends first, then whether it fires. Only while and as long as count
    when it fires; as long as, silence and put back from then on. Within a minute of a firing it does not fire
    again, and after too many starts it is locked, so that no rule can run in circles.

    References
    ----------
    docs/methods, life of a rule; J2, J3, J6.
    """
    parts = inputs_of(rule, evaluator) if inputs is None else inputs
    start, end = evaluator.scope.start_ms, evaluator.scope.end_ms
    waited = held(parts.watch, rule.for_s * MS_PER_S)
    begin, until = waited.stretches()
    crosses = _crossed(parts.watch, rule.for_s * MS_PER_S)
    crosses = crosses[np.searchsorted(parts.watch.stretches()[0], begin, side="right") - 1]
    allowed = all_of([parts.only_while, parts.as_long_as])
    clock_times = np.zeros(0, dtype=np.int64)
    if rule.put_back is not None and rule.put_back.at_min is not None:
        clock, at_min = evaluator.scope.clock, rule.put_back.at_min
        clock_times = clock_moments(clock, at_min, (), start, end + 2 * MS_PER_DAY)
    capacity = len(before) + begin.size + int((end - start) // REFIRE_MS) + 2
    fired, ended, why = (np.empty(capacity, dtype=np.int64) for _ in range(3))
    held_at, held_why = (np.empty(2 * capacity, dtype=np.int64) for _ in range(2))
    ignored = np.empty(begin.size, dtype=np.int64)
    for k, firing in enumerate(before):
        fired[k], why[k] = firing.at_ms, END_WHY.index(firing.why) if firing.why in END_WHY else 0
        ended[k] = NEVER if firing.end_ms is None else firing.end_ms
    counts = _live(
        begin,
        until,
        crosses,
        *allowed.stretches(),
        *parts.as_long_as.stretches(),
        *parts.as_long_as.stretches(FALSE),
        *parts.put_back.stretches(),
        *parts.lost.stretches(),
        clock_times,
        evaluator.days_ms,
        _numbers(rule, end),
        fired,
        ended,
        why,
        held_at,
        held_why,
        ignored,
        len(before),
    )
    return RuleRun(
        firings=tuple(
            Firing(f, None if e >= end else e, "" if e >= end else END_WHY[w])
            for f, e, w in zip(*(row[: counts[0]].tolist() for row in (fired, ended, why)), strict=True)
        ),
        held_back=tuple(
            HeldBack(t, HELD_WHY[w])
            for t, w in zip(held_at[: counts[1]].tolist(), held_why[: counts[1]].tolist(), strict=True)
        ),
        ignored_ms=tuple(ignored[: counts[2]].tolist()),
    )


def _numbers(rule: Rule, end_ms: int) -> Ints:
    """Return a rule's numbers as the walk takes them, in the order of their places below."""
    limits, back = rule.limits, rule.put_back
    suspended = rule.suspended
    return np.array(
        [
            rule.reading == "becomes",
            rule.is_restarted,
            locks(rule),
            -1 if suspended is None else suspended.from_ms,
            NEVER if suspended is None or suspended.until_ms is None else suspended.until_ms,
            limits.cool_off_s * MS_PER_S,
            -1 if limits.most_a_day is None else limits.most_a_day,
            limits.min_off_s * MS_PER_S,
            limits.min_on_s * MS_PER_S,
            limits.lock_starts,
            limits.lock_window_s * MS_PER_S,
            limits.lock_for_s * MS_PER_S,
            last_step_ms(rule),
            back is not None or bool(rule.as_long_as),
            bool(rule.as_long_as),
            limits.when_stale == "put_back",
            back is not None and bool(back.when),
            0 if back is None else back.for_s * MS_PER_S,
            -1 if back is None or back.after_s is None else back.after_s * MS_PER_S,
            any(c.is_moment for clause in (back.when if back else ()) for c in clause),
            end_ms,
        ],
        dtype=np.int64,
    )


def _crossed(watch: Truth, for_ms: int) -> Flags:
    """Return of each true stretch of a watch whether it came by a crossing.

    What was true, fell silent before its wait was over, and is true again is still the same crossing.
    """
    begin, until = watch.stretches()
    crosses = watch.crosses
    places = np.flatnonzero(watch.value == TRUE)
    # Two true stretches that are neighbours but for what is not known stand two changes apart.
    linked = (np.diff(places) == 2) & (watch.value[places[1:] - 1] == UNKNOWN)
    for k in (np.flatnonzero(linked) + 1).tolist():
        crosses[k] = crosses[k - 1] and until[k - 1] - begin[k - 1] <= for_ms
    return crosses


# Places in the numbers of a rule.
_BECOMES, _RESTARTS, _LOCKS, _SUSPENDED, _SUSPENDED_TO, _COOL, _MOST, _MIN_OFF, _MIN_ON = range(9)
_STARTS, _WINDOW, _LOCK_FOR, _LAST_STEP, _HAS_END, _HAS_LONG, _STALE, _HAS_WHEN, _BACK_FOR = range(9, 18)
_AFTER, _LATCHES, _END = range(18, 21)


@njit(cache=True, nogil=True)
def _holds(begin, until, at):  # type: ignore[no-untyped-def]
    """Return whether an instant lies in one of the stretches."""
    k = np.searchsorted(begin, at, side="right") - 1
    return k >= 0 and at < until[k]


@njit(cache=True, nogil=True)
def _first_from(begin, until, least, wait, latest_from):  # type: ignore[no-untyped-def]
    """Return the first instant from ``least`` on at which a stretch has lasted ``wait``, or latched after ``latest_from``."""
    k = max(np.searchsorted(begin, min(least, latest_from), side="right") - 1, 0)
    while k < begin.shape[0]:
        at = max(begin[k] + wait, least)
        if at < until[k] or begin[k] >= latest_from:
            return at
        k += 1
    return NEVER


@njit(cache=True, nogil=True)
def _end_of(fire, long_no, long_no_to, back, back_to, lost, lost_to, clock_times, n):  # type: ignore[no-untyped-def]
    """Return when a firing ends, and why."""
    if not n[_HAS_END]:
        return fire + n[_LAST_STEP], 5
    end, why = NEVER, 0
    least = fire + max(1000, n[_MIN_ON])
    if n[_HAS_LONG]:
        end = _first_from(long_no, long_no_to, least, 0, NEVER)
    if n[_STALE]:
        at = _first_from(lost, lost_to, least, 0, NEVER)
        if at < end:
            end, why = at, 1
    if n[_HAS_WHEN]:
        latest = fire + 1000 if n[_LATCHES] else NEVER
        at = _first_from(back, back_to, fire + max(1000, n[_BACK_FOR], n[_MIN_ON]), n[_BACK_FOR], latest)
        if at < end:
            end, why = at, 2
    if n[_AFTER] >= 0 and fire + max(n[_AFTER], n[_MIN_ON]) < end:
        end, why = fire + max(n[_AFTER], n[_MIN_ON]), 3
    k = np.searchsorted(clock_times, fire, side="right")
    if k < clock_times.shape[0] and max(clock_times[k], fire + n[_MIN_ON]) < end:
        end, why = max(clock_times[k], fire + n[_MIN_ON]), 4
    return end, why


@njit(cache=True, nogil=True)
def _refusal(at, fired, found, last_end, locked_to, ok, ok_to, long, long_to, days, n):  # type: ignore[no-untyped-def]
    """Return what holds a firing back (its place in ``HELD_WHY``, −1 for nothing) and when to ask again."""
    if n[_SUSPENDED] >= 0 and n[_SUSPENDED] <= at < n[_SUSPENDED_TO]:
        return 0, n[_SUSPENDED_TO]
    if at < locked_to:
        return 1, locked_to
    if found and at < last_end + n[_COOL]:
        return 2, last_end + n[_COOL]
    if n[_MOST] >= 0:
        day = np.searchsorted(days, at, side="right") - 1
        first = found - n[_MOST]
        if first >= 0 and fired[first] >= days[day]:
            return 3, days[day + 1] if day + 1 < days.shape[0] else NEVER
    if not _holds(ok, ok_to, at):
        k = np.searchsorted(ok, at, side="right")
        then = ok[k] if k < ok.shape[0] else NEVER
        return 5 if _holds(long, long_to, at) else 4, then
    if found and at < fired[found - 1] + REFIRE_MS:
        return 6, fired[found - 1] + REFIRE_MS
    if n[_LOCKS] and found >= n[_STARTS] and at - fired[found - n[_STARTS]] < n[_WINDOW]:
        return 7, max(at + n[_LOCK_FOR], fired[found - n[_STARTS]] + n[_WINDOW] if n[_LOCK_FOR] == 0 else 0)
    if found and at < last_end + n[_MIN_OFF]:
        return 8, last_end + n[_MIN_OFF]
    return -1, at


@njit(cache=True, nogil=True)
def _live(  # type: ignore[no-untyped-def]
    begin, until, crosses, ok, ok_to, long, long_to, long_no, long_no_to, back, back_to, lost, lost_to,
    clock_times, days, n, fired, ended, why, held_at, held_why, ignored, found,
):  # fmt: skip
    """Walk the stretches in which the watch has held long enough; fill firings after those found, held back, ignored."""
    held_count, ignored_count = 0, 0
    last_end, locked_to = -NEVER, -NEVER
    if found:
        if ended[found - 1] == NEVER:
            ended[found - 1], why[found - 1] = _end_of(
                fired[found - 1], long_no, long_no_to, back, back_to, lost, lost_to, clock_times, n
            )
        last_end = ended[found - 1]
    for k in range(begin.shape[0]):
        at = begin[k]
        is_new = True  # nothing held back was told in this stretch since the last firing
        if n[_BECOMES] and not crosses[k]:
            continue
        if found and last_end > at:
            if n[_RESTARTS] and _holds(ok, ok_to, at):
                ended[found - 1], why[found - 1] = at, 6
                fired[found] = at
                ended[found], why[found] = _end_of(
                    at, long_no, long_no_to, back, back_to, lost, lost_to, clock_times, n
                )
                last_end = ended[found]
                found += 1
            else:
                ignored[ignored_count] = at
                ignored_count += 1
            if n[_BECOMES]:
                continue
            at = max(last_end, at + 1000)
        asked = at
        while at < until[k] and at < n[_END]:
            reason, then = _refusal(at, fired, found, last_end, locked_to, ok, ok_to, long, long_to, days, n)
            if reason == 7:
                locked_to = at + n[_LOCK_FOR]
            if reason < 0:
                fired[found] = at
                ended[found], why[found] = _end_of(
                    at, long_no, long_no_to, back, back_to, lost, lost_to, clock_times, n
                )
                last_end = ended[found]
                found += 1
                is_new = True
                if n[_BECOMES]:
                    break
                at = max(last_end, at + 1000)
                continue
            if n[_BECOMES]:
                if reason == 8 and then < until[k]:
                    at = then
                    continue
                held_at[held_count], held_why[held_count] = at if reason != 8 else asked, reason
                held_count += 1
                break
            if is_new:
                held_at[held_count], held_why[held_count] = at, reason
                held_count += 1
                is_new = False
            at = then
    return found, held_count, ignored_count
