"""A setting that tells the end of a run: proposed, judged, and how far it is from failing (H12)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import NotKnowable
from warmeter.core.signature.cycles import Activity, MachineRun, OnOffSetting, on_off_events

Floats = NDArray[np.float64]
START_S = 60.0  # docs/methods H2: a machine runs when it has drawn power for a minute
DWELL_MARGIN = 1.25  # docs/methods H12: the longest pause seen and a quarter


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuning:
    """F1 for each grid value, the widest best stretch and its middle [W]."""

    f1: tuple[float, ...]
    best_f1: float
    plateau_w: tuple[float, float]
    threshold_w: float


def tune_threshold(power_w: Floats, is_on: NDArray[np.bool_], grid_w: Sequence[float]) -> Tuning:
    """Return the threshold in the middle of the longest run of best F1 (first on ties).

    Parameters
    ----------
    power_w : (sample,) float array
        Powers [W].
    is_on : (sample,) bool array
        Whether the machine ran.
    grid_w : sequence of float
        Thresholds tried, rising [W]; on means P at or above.

    Raises
    ------
    NotKnowable
        If the grid is empty.

    Notes
    -----
    docs/methods H12: the widest safe gap, not its edge.
    """
    if not len(grid_w):
        raise NotKnowable("No threshold was given to try.", "Give at least one.")
    scores = []
    for threshold in grid_w:
        told = power_w >= threshold
        hits = int((told & is_on).sum())
        wrong = int((told & ~is_on).sum()) + int((~told & is_on).sum())
        scores.append(2 * hits / (2 * hits + wrong) if hits + wrong else 0.0)
    best = max(scores)
    runs, start = [], None
    for i, score in enumerate([*scores, -1.0]):
        if abs(score - best) <= 1e-12:
            start = i if start is None else start
        elif start is not None:
            runs.append((start, i - 1))
            start = None
    first, last = max(runs, key=lambda run: (run[1] - run[0], -run[0]))
    low, high = float(grid_w[first]), float(grid_w[last])
    return Tuning(f1=tuple(scores), best_f1=best, plateau_w=(low, high), threshold_w=(low + high) / 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class FinishSetting:
    """What a user types: finished when at or below ``threshold_w`` for ``wait_s``."""

    threshold_w: float
    wait_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What a setting would have told over a log.

    Parameters
    ----------
    runs : int
        Whole runs in the log.
    missed : int
        Runs whose end was never told before the next began.
    false : int
        Ends told while the machine still ran, or told again.
    late_s : float or None
        Middle of the delays between end and telling [s]; None where nothing was told.
    false_at, told_at, missed_runs : tuple of int
        Steps of each telling; indices of the runs missed.
    """

    runs: int
    missed: int
    false: int
    late_s: float | None
    false_at: tuple[int, ...]
    told_at: tuple[int, ...]
    missed_runs: tuple[int, ...]


def judge(power_w: Floats, step_s: float, found: Activity, setting: FinishSetting) -> Verdict:
    """Return what a finish setting would have told, against the runs found without one."""
    whole = [run for run in found.runs if run.is_whole]
    events = on_off_events(
        power_w,
        step_s,
        OnOffSetting(
            on_w=setting.threshold_w + 1e-6, off_w=setting.threshold_w, dwell_on_s=START_S, dwell_off_s=setting.wait_s
        ),
    )
    tolds = [event.told for event in events if event.told is not None]
    false_at, told_at, delays, missed = [], [], [], []
    for index, run in enumerate(whole):
        until = _next_start(found.runs, run, power_w.size)
        false_at += [t for t in tolds if run.start < t < run.end]
        after = [t for t in tolds if run.end <= t <= until]
        if after:
            told_at.append(after[0])
            false_at += after[1:]
            delays.append((after[0] - run.end) * step_s)
        else:
            missed.append(index)
    return Verdict(
        runs=len(whole),
        missed=len(missed),
        false=len(false_at),
        late_s=float(np.median(delays)) if delays else None,
        false_at=tuple(false_at),
        told_at=tuple(told_at),
        missed_runs=tuple(missed),
    )


def _next_start(runs: Sequence[MachineRun], run: MachineRun, size: int) -> int:
    return min((other.start for other in runs if other.start >= run.end), default=size)


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """A finish setting with how far it is from failing.

    Parameters
    ----------
    setting : FinishSetting
        Proposed, unrounded.
    rest_w, work_w : float
        Highest power of rest, and lowest that the end of a run is known by [W]: the threshold stands
        between them.
    longest_pause_s, shortest_rest_s : float
        The waiting time stands between these [s].
    verdict : Verdict
        Over the log it was learnt from.
    safe_w : tuple of float
        Thresholds, lowest and highest, that make no error with the proposed wait [W].
    safe_s : tuple of float
        Waits, shortest and longest tried, that make no error with the proposed threshold [s].
    """

    setting: FinishSetting
    rest_w: float
    work_w: float
    longest_pause_s: float
    shortest_rest_s: float
    verdict: Verdict
    safe_w: tuple[float, float]
    safe_s: tuple[float, float]


def propose(power_w: Floats, step_s: float, found: Activity) -> Proposal:
    """Propose threshold and waiting time from a log's runs.

    Raises
    ------
    NotKnowable
        If the log holds fewer than two whole runs.

    Notes
    -----
    Every threshold between rest and work is tried with the wait it needs (the longest stretch that any
    run spends at or below it, and a quarter). Kept are those without error that stand clear of rest
    (2 W and 1.3 times); of them the shortest wait, then the widest gap on a logarithmic scale.
    """
    whole = [run for run in found.runs if run.is_whole]
    if len(whole) < 2:
        raise NotKnowable(
            f"This log holds {len(whole)} whole run{'s' if len(whole) != 1 else ''}; one run proves no setting.",
            "Record two or more whole runs, with the rest after them.",
        )
    rest = _rest_level(power_w, found)
    candidates = _candidates(power_w, step_s, found, whole, rest)
    setting = min(candidates, key=lambda c: c[0])[1]
    verdict = judge(power_w, step_s, found, setting)
    return Proposal(
        setting=setting,
        rest_w=rest,
        work_w=_lowest_work(power_w, step_s, whole, setting),
        longest_pause_s=_longest_below(power_w, whole, setting.threshold_w) * step_s,
        shortest_rest_s=found.shortest_rest_s,
        verdict=verdict,
        safe_w=_safe_thresholds(power_w, step_s, found, setting),
        safe_s=_safe_waits(power_w, step_s, found, setting),
    )


def _rest_level(power_w: Floats, found: Activity) -> float:
    """Return what rest stays at or below for 99 % of the time [W]."""
    resting = ~np.isnan(power_w)
    for run in found.runs:
        resting[run.start : run.end] = False
    rest = power_w[resting]
    rest = rest[rest <= found.rest_high_w]
    return float(np.quantile(rest, 0.99)) if rest.size else found.standby.mode_w


def _candidates(
    power_w: Floats, step_s: float, found: Activity, whole: Sequence[MachineRun], rest_w: float
) -> list[tuple[tuple[int, int, float], FinishSetting]]:
    low = max(rest_w + 2.0, 1.3 * rest_w)
    grid = np.geomspace(low, max(8 * low, 4 * found.rest_high_w), 25)
    scored = []
    for threshold in grid:
        pause = _longest_below(power_w, whole, float(threshold)) * step_s
        setting = FinishSetting(threshold_w=float(threshold), wait_s=max(DWELL_MARGIN * pause, step_s, 60.0))
        verdict = judge(power_w, step_s, found, setting)
        errors = verdict.missed + verdict.false
        centre = abs(float(np.log(threshold / np.sqrt(low * grid[-1]))))
        # A wait shorter by less than half a minute is worth less than a threshold that stands clear.
        scored.append(((errors, round(setting.wait_s / 30), centre), setting))
    return scored


def _longest_below(power_w: Floats, whole: Sequence[MachineRun], threshold_w: float) -> int:
    """Return the most steps in a row that any run spends at or below a threshold."""
    longest = 0
    for run in whole:
        below = power_w[run.start : run.end] <= threshold_w
        edges = np.flatnonzero(np.diff(np.concatenate([[False], below, [False]]).astype(np.int8)))
        if edges.size:
            longest = max(longest, int((edges[1::2] - edges[::2]).max()))
    return longest


def _lowest_work(power_w: Floats, step_s: float, whole: Sequence[MachineRun], setting: FinishSetting) -> float:
    """Return the highest threshold at which no run would seem over before its end [W]."""
    steps = max(1, int(np.ceil(setting.wait_s / step_s)))
    lowest = np.inf
    for run in whole:
        inside = power_w[run.start : run.end]
        if inside.size > steps:
            windows = np.lib.stride_tricks.sliding_window_view(inside, steps).max(axis=1)
            lowest = min(lowest, float(windows.min()))
        else:
            lowest = min(lowest, float(inside.max()))
    return lowest


def _errors(power_w: Floats, step_s: float, found: Activity, threshold_w: float, wait_s: float) -> int:
    verdict = judge(power_w, step_s, found, FinishSetting(threshold_w=threshold_w, wait_s=wait_s))
    return verdict.missed + verdict.false


def _safe_thresholds(power_w: Floats, step_s: float, found: Activity, setting: FinishSetting) -> tuple[float, float]:
    grid = np.geomspace(max(found.standby.mode_w, 0.5), 20 * setting.threshold_w, 60)
    return _safe_around(
        np.sort(np.append(grid, setting.threshold_w)),
        setting.threshold_w,
        lambda threshold: _errors(power_w, step_s, found, threshold, setting.wait_s),
    )


def _safe_waits(power_w: Floats, step_s: float, found: Activity, setting: FinishSetting) -> tuple[float, float]:
    grid = np.unique(np.round(np.geomspace(max(step_s, 10.0), 7200.0, 60) / step_s)) * step_s
    return _safe_around(
        np.sort(np.append(grid, setting.wait_s)),
        setting.wait_s,
        lambda wait: _errors(power_w, step_s, found, setting.threshold_w, wait),
    )


def _safe_around(grid: Floats, at: float, errors) -> tuple[float, float]:  # type: ignore[no-untyped-def]
    """Return the ends of the stretch of no more errors than at ``at`` that holds it."""
    allowed = errors(at)
    here = int(np.argmin(np.abs(grid - at)))
    low = high = here
    while low > 0 and errors(float(grid[low - 1])) <= allowed:
        low -= 1
    while high < grid.size - 1 and errors(float(grid[high + 1])) <= allowed:
        high += 1
    return float(grid[low]), float(grid[high])
