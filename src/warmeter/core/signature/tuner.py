"""Settings that tell what a machine does: every threshold and waiting time tried over a log (H12).

A question is what somebody wants to be told; a setting is a threshold, a waiting time and a hysteresis; the
map says for each setting how often the answer was missed, false, and how late it came.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable, within
from warmeter.core.signature.cycles import Activity, Cycle
from warmeter.core.signature.detector import steps_of
from warmeter.core.units import S_PER_DAY

Question = Literal["finished", "started", "idle", "left_on", "ran_today"]
START_S = 60.0  # docs/methods H2: a machine runs when it has drawn power for a minute
LEFT_ON = 1.5  # longer than the longest usual cycle by this factor, a machine was left on


@dataclass(frozen=True, slots=True, kw_only=True)
class Expected:
    """What there was to tell, in steps of the log.

    Parameters
    ----------
    question : str
        What somebody wants to be told.
    since, moment, until : (item,) int arrays
        A telling of an item lies in [since, until]; before ``moment`` it is false, the first from it on is right.
    label : (item,) int array
        Index of the cycle, or the day, that an item is.
    unsure : (stretch, 2) int array
        Stretches [first, last] of cut cycles and of what was not heard: nothing told in them counts.
    day : (step,) int array
        Local day of each step, from 0.
    start_s, wait_s : float
        Working for the first begins a cycle and quiet for the second ends it, for questions whose own
        waiting time is another [s].
    """

    question: Question
    since: Ints
    moment: Ints
    until: Ints
    label: Ints
    unsure: Ints
    day: Ints
    start_s: float
    wait_s: float


def asked_of(question: Question, found: Activity, day: Ints, power_w: Floats, step_s: float) -> Expected:
    """Return what there was to tell, from cycles found or corrected.

    Parameters
    ----------
    question : str
        Finished, started, idle, left on, or ran today.
    found : Activity
        The log's cycles.
    day : (step,) int array
        Local day of each step, rising from 0.
    power_w : (step,) float array
        NaN where not heard [W].
    step_s : float
        Length of a step [s].

    Notes
    -----
    The end of a cycle may be told until the next begins; its start until its end. A machine was left on where a
    cycle lasted half as long again as nine in ten of its cycles. It ran on each day into which a cycle reaches.
    """
    cycles = found.cycles
    start = np.array([c.start for c in cycles], dtype=np.int64)
    end = np.array([c.end for c in cycles], dtype=np.int64)
    following = np.append(start[1:], power_w.size)
    kept = np.array([c.is_whole for c in cycles], dtype=bool)
    shortest_s = float((end - start)[kept].min(initial=np.iinfo(np.int64).max)) * step_s
    since, moment, until, label = start, end, following, np.arange(start.size)
    if question == "started":
        moment, until = start, end
    elif question == "left_on":
        kept &= end - start > LEFT_ON * _usual_steps((end - start)[kept])
        moment = start
    elif question == "ran_today":
        since, until, label = _days_run(start, end, day)
        moment, kept = since, np.ones(since.size, dtype=bool)
    return Expected(
        question=question,
        since=since[kept],
        moment=moment[kept],
        until=until[kept],
        label=label[kept],
        unsure=_unsure(cycles, following, power_w),
        day=day,
        start_s=min(START_S, 0.5 * shortest_s),
        wait_s=found.learnt.setting.wait_s,
    )


def _usual_steps(length: Ints) -> float:
    return float(np.quantile(length, 0.9)) if length.size else np.inf


def _days_run(start: Ints, end: Ints, day: Ints) -> tuple[Ints, Ints, Ints]:
    """Return for each day with a cycle the first step of it in that day, the day's last step, and the day."""
    first: dict[int, int] = {}
    for a, b in zip(start.tolist(), end.tolist(), strict=True):
        for each in range(int(day[a]), int(day[min(b, day.size) - 1]) + 1):
            first.setdefault(each, max(a, int(np.searchsorted(day, each))))
    days = np.array(sorted(first), dtype=np.int64)
    since = np.array([first[int(d)] for d in days], dtype=np.int64)
    return since, np.searchsorted(day, days, side="right") - 1, days


def _unsure(cycles: Sequence[Cycle], following: Ints, power_w: Floats) -> Ints:
    cut = [(c.start, int(until)) for c, until in zip(cycles, following, strict=True) if not c.is_whole]
    gap = np.isnan(np.concatenate([[0.0], power_w, [0.0]]))
    edges = np.flatnonzero(gap[1:] != gap[:-1])
    holes = [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    merged: list[tuple[int, int]] = []
    for low, high in sorted([*cut, *holes]):
        if merged and low <= merged[-1][1]:
            merged[-1] = merged[-1][0], max(high, merged[-1][1])
        else:
            merged.append((low, high))
    return np.array(merged, dtype=np.int64).reshape(-1, 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """What somebody types: at or below (for a start: above) ``threshold_w`` for ``wait_s``.

    ``hysteresis_w`` is how far the power must rise above the threshold to count as on again [W].
    """

    threshold_w: float
    wait_s: float
    hysteresis_w: float = 0.0

    def __post_init__(self) -> None:
        within("threshold", self.threshold_w, 0.0, 1e5, "W")
        within("waiting time", self.wait_s, 0.0, 7 * S_PER_DAY, "s")
        within("hysteresis", self.hysteresis_w, 0.0, 1e5, "W")


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What a setting would have told over a log.

    Parameters
    ----------
    asked : int
        How often there was something to tell.
    missed, false : int
        Not told in time; told without reason, or told again.
    late_s : float or None
        Middle of the delays [s]; None where nothing was told rightly.
    told_at, false_at : tuple of int
        Steps of each telling, right and false.
    missed_at : tuple of int
        Indices of the cycles (for a day: the days) that were missed.
    """

    asked: int
    missed: int
    false: int
    late_s: float | None
    told_at: tuple[int, ...]
    false_at: tuple[int, ...]
    missed_at: tuple[int, ...]

    @property
    def errors(self) -> int:
        """Missed and false together."""
        return self.missed + self.false


@dataclass(frozen=True, slots=True, kw_only=True)
class ErrorMap:
    """Missed, false and mean delay [s] of every threshold (rows) and waiting time (columns)."""

    question: Question
    thresholds_w: Floats
    waits_s: Floats
    hysteresis_w: float
    asked: int
    missed: Ints
    false: Ints
    late_s: Floats

    @property
    def errors(self) -> Ints:
        """Missed and false together, shape (threshold, wait)."""
        return self.missed + self.false


@njit(cache=True, nogil=True)
def _stretches(power, edges):  # type: ignore[no-untyped-def]
    """Return stretches of one level, shape (stretch, 2): how many edges lie below the power (-1 a gap), and length.

    At rest a log stays at one level for hours: a month of seconds is some ten thousand stretches.
    """
    room, found = 1024, 0
    out = np.zeros((room, 2), dtype=np.int64)
    low_edge, high_edge, level = np.inf, -np.inf, -2
    for k in range(power.shape[0]):
        p = power[k]
        if np.isnan(p):
            new = -1
        elif level >= 0 and low_edge < p <= high_edge:
            new = level
        else:
            new = np.searchsorted(edges, p, side="left")
        if new != level:
            level = new
            low_edge = edges[level - 1] if level > 0 else -np.inf
            high_edge = edges[level] if 0 <= level < edges.shape[0] else np.inf
            if found == room:
                wider = np.zeros((2 * room, 2), dtype=np.int64)
                wider[:room] = out
                out, room = wider, 2 * room
            out[found, 0] = level
            found += 1
        out[found - 1, 1] += 1
    return out[:found]


@njit(cache=True, nogil=True)
def _runs(stretches, above, below, need_on, least_off):  # type: ignore[no-untyped-def]
    """Return runs that can change the state, in order: start, length, 1 for high and 0 for low.

    A level above ``above`` is high, one of at most ``below`` is low.
    """
    out = np.zeros((stretches.shape[0] + 1, 3), dtype=np.int64)
    found, at, high, low = 0, 0, 0, 0
    for k in range(stretches.shape[0] + 1):
        level = stretches[k, 0] if k < stretches.shape[0] else -1
        is_high, is_low = level > above, 0 <= level <= below
        if high > 0 and not is_high:
            if high >= need_on:
                out[found, 0], out[found, 1], out[found, 2] = at - high, high, 1
                found += 1
            high = 0
        if low > 0 and not is_low:
            if low >= least_off:
                out[found, 0], out[found, 1], out[found, 2] = at - low, low, 0
                found += 1
            low = 0
        if k < stretches.shape[0]:
            length = stretches[k, 1]
            if is_high:
                high += length
            if is_low:
                low += length
            at += length
    return out[:found]


@njit(cache=True, nogil=True)
def _is_unsure(unsure, at):  # type: ignore[no-untyped-def]
    low = np.searchsorted(unsure[:, 0], at, side="right") - 1
    return low >= 0 and at <= unsure[low, 1]


@njit(cache=True, nogil=True)
def _tell(runs, mode, need_on, need_off, need_long, day, out):  # type: ignore[no-untyped-def]
    """Fill in when something is told [step]; return how often.

    Modes: 0 each end, 1 each start, 2 each time it has been on for ``need_long``, 3 the first start of a day.
    """
    is_on, n, since, last_day = False, 0, 0, -1
    for i in range(runs.shape[0]):
        if runs[i, 2] == 1:
            if not is_on and runs[i, 1] >= need_on:
                is_on, since = True, runs[i, 0]
                at = since + need_on
                if mode == 1:
                    out[n] = at
                    n += 1
                elif mode == 3:
                    today = day[min(at, day.shape[0] - 1)]
                    if today != last_day:
                        out[n] = at
                        n += 1
                        last_day = today
        elif is_on and runs[i, 1] >= need_off:
            is_on = False
            if mode == 0:
                out[n] = runs[i, 0] + need_off
                n += 1
            elif mode == 2 and since + need_long < runs[i, 0] + need_off:
                out[n] = since + need_long
                n += 1
    if mode == 2 and is_on and since + need_long <= day.shape[0]:
        out[n] = since + need_long
        n += 1
    return n


@njit(cache=True, nogil=True)
def _judge(told, n, since, moment, until, unsure, repeats, mark, hit):  # type: ignore[no-untyped-def]
    """Judge tellings: ``mark`` 1 right, 2 false, 0 not counted; ``hit`` the telling of each item or -1."""
    for c in range(since.shape[0]):
        hit[c] = -1
    c = 0
    for i in range(n):
        at = told[i]
        while c < since.shape[0] and until[c] < at:
            c += 1
        if c < since.shape[0] and since[c] <= at:
            if at >= moment[c] and hit[c] < 0:
                mark[i] = 1
                hit[c] = at
            elif at >= moment[c] and repeats:
                mark[i] = 0
            else:
                mark[i] = 2
        else:
            mark[i] = 0 if _is_unsure(unsure, at) else 2


@njit(cache=True, nogil=True)
def _map(stretches, above, below, needs, mode, fixed, since, moment, until, unsure, repeats, day, missed, false, late):  # type: ignore[no-untyped-def]
    hit = np.zeros(since.shape[0], dtype=np.int64)
    for t in range(above.shape[0]):
        least_on = needs[0] if mode == 1 or mode == 3 else fixed[0]
        least_off = needs[0] if mode == 0 else fixed[1]
        runs = _runs(stretches, above[t], below[t], least_on, least_off)
        told = np.zeros(runs.shape[0] + 1, dtype=np.int64)
        mark = np.zeros(runs.shape[0] + 1, dtype=np.int64)
        for w in range(needs.shape[0]):
            need_on = needs[w] if mode == 1 or mode == 3 else fixed[0]
            need_off = needs[w] if mode == 0 else fixed[1]
            n = _tell(runs, mode, need_on, need_off, needs[w], day, told)
            _judge(told, n, since, moment, until, unsure, repeats, mark, hit)
            total, hits = 0.0, 0
            for c in range(since.shape[0]):
                if hit[c] < 0:
                    missed[t, w] += 1
                else:
                    total += hit[c] - moment[c]
                    hits += 1
            for i in range(n):
                if mark[i] == 2:
                    false[t, w] += 1
            late[t, w] = total / hits if hits > 0 else np.nan


MODES: dict[Question, int] = {"finished": 0, "idle": 0, "started": 1, "left_on": 2, "ran_today": 3}


def _numbers(asked: Expected, step_s: float) -> tuple[int, bool, Ints]:
    """Return the mode, whether telling again is right, and the fixed needs of the question."""
    fixed = np.array([steps_of(asked.start_s, step_s), steps_of(asked.wait_s, step_s)], dtype=np.int64)
    return MODES[asked.question], asked.question in ("idle", "ran_today"), fixed


def judge(power_w: Floats, step_s: float, asked: Expected, setting: Setting) -> Verdict:
    """Return what a setting would have told over a log.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power by step, NaN where not heard; or 0 and 1 of a witness that is on or off, with a threshold
        between them [W].
    step_s : float
        Length of a step [s].
    """
    mode, repeats, fixed = _numbers(asked, step_s)
    need = steps_of(setting.wait_s, step_s)
    need_on, need_off = (need if mode in (1, 3) else int(fixed[0])), (need if mode == 0 else int(fixed[1]))
    stretches, above, below = _levels(power_w, np.array([setting.threshold_w]), setting.hysteresis_w)
    runs = _runs(stretches, above[0], below[0], need_on, need_off)
    told, mark = np.zeros(len(runs) + 1, dtype=np.int64), np.zeros(len(runs) + 1, dtype=np.int64)
    hit = np.zeros(asked.since.size, dtype=np.int64)
    n = _tell(runs, mode, need_on, need_off, need, asked.day, told)
    _judge(told, n, asked.since, asked.moment, asked.until, asked.unsure, repeats, mark, hit)
    late = (hit - asked.moment)[hit >= 0] * step_s
    false = told[:n][mark[:n] == 2]
    return Verdict(
        asked=asked.since.size,
        missed=int((hit < 0).sum()),
        false=int(false.size),
        late_s=float(np.median(late)) if late.size else None,
        told_at=tuple(hit[hit >= 0].tolist()),
        false_at=tuple(false.tolist()),
        missed_at=tuple(asked.label[hit < 0].tolist()),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class HandedOver:
    """The sentence that is typed: a setting, how long the power must stand above it first, and what it would have told.

    ``start_s`` is 0 where the sentence has no start duration [s]; ``without_start`` judges it without one.
    """

    setting: Setting
    start_s: float
    verdict: Verdict
    without_start: Verdict


def handed_over(power_w: Floats, step_s: float, asked: Expected, setting: Setting) -> HandedOver:
    """Return the shortest sentence with which a setting tells what there was to tell, judged as it is typed.

    A start duration stands in it only where the setting errs more often without one: ticks and blips would begin a run.
    """
    with_start = judge(power_w, step_s, asked, setting)
    without = judge(power_w, step_s, replace(asked, start_s=step_s), setting)
    if asked.question not in ("finished", "idle") or without.errors <= with_start.errors:
        return HandedOver(setting=setting, start_s=0.0, verdict=without, without_start=without)
    return HandedOver(setting=setting, start_s=asked.start_s, verdict=with_start, without_start=without)


def _levels(power_w: Floats, thresholds_w: Floats, hysteresis_w: float) -> tuple[Ints, Ints, Ints]:
    """Return the log as stretches of levels, and for each threshold above and at most which level it is on and off."""
    edges = np.unique(np.concatenate([thresholds_w, thresholds_w + hysteresis_w]))
    stretches = _stretches(np.ascontiguousarray(power_w, dtype=np.float64), edges)
    return stretches, np.searchsorted(edges, thresholds_w + hysteresis_w), np.searchsorted(edges, thresholds_w)


def error_map(
    power_w: Floats, step_s: float, asked: Expected, thresholds_w: Floats, waits_s: Floats, hysteresis_w: float = 0.0
) -> ErrorMap:
    """Return every setting's errors over a log.

    Parameters
    ----------
    power_w : (step,) float array
        As for ``judge`` [W].
    thresholds_w, waits_s : float arrays
        Rising [W, s].

    Raises
    ------
    NotKnowable
        If there is no threshold or no waiting time.
    """
    if not thresholds_w.size or not waits_s.size:
        raise NotKnowable("No setting was given to try.", "Give at least one threshold and one waiting time.")
    mode, repeats, fixed = _numbers(asked, step_s)
    shape = thresholds_w.size, waits_s.size
    missed, false, late = np.zeros(shape, np.int64), np.zeros(shape, np.int64), np.full(shape, np.nan)
    needs = np.array([steps_of(w, step_s) for w in waits_s], dtype=np.int64)
    stretches, above, below = _levels(power_w, thresholds_w.astype(np.float64), hysteresis_w)
    _map(
        stretches,
        above,
        below,
        needs,
        mode,
        fixed,
        asked.since,
        asked.moment,
        asked.until,
        asked.unsure,
        repeats,
        asked.day,
        missed,
        false,
        late,
    )
    return ErrorMap(
        question=asked.question,
        thresholds_w=thresholds_w,
        waits_s=waits_s,
        hysteresis_w=hysteresis_w,
        asked=asked.since.size,
        missed=missed,
        false=false,
        late_s=late * step_s,
    )
