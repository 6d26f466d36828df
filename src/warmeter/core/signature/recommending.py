"""The setting in the middle of the safe region, how late it tells, and how far the machine may change."""

from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.signature.cycles import Activity
from warmeter.core.signature.tuner import ErrorMap, Expected, Question, Setting, Verdict, asked_of, error_map, judge

THRESHOLDS, WAITS = 50, 40
UNIT_W, UNIT_S = 1.3, 1.25  # a threshold off by a third and a wait off by a quarter count as equally far
ENOUGH = 2.0  # so many units from every error is far enough: beyond, the shorter wait is better
NEARLY = 0.95
LONGEST_WAIT_S = 7200.0
PROMPT_S = 90.0  # the mean telling may come so long after the wait
FEW_SHARE = 0.02  # of the cycles: a threshold may miss so many more starts than the best
CLEAR_W, CLEAR_SHARE = 2.0, 1.3  # docs/methods H2: a threshold stands clear of rest


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingProposal:
    """A setting with how far it is from failing.

    Parameters
    ----------
    question : str
        What it tells.
    setting : Setting
        Proposed, unrounded.
    verdict : Verdict
        Over the log it was learnt from.
    safe_w : tuple of float
        Thresholds, lowest and highest, that make no more errors with the proposed wait [W].
    safe_s : tuple of float
        Waits, shortest and longest tried, that make no more errors with the proposed threshold [s].
    map : ErrorMap
        Everything that was tried.
    """

    question: Question
    setting: Setting
    verdict: Verdict
    safe_w: tuple[float, float]
    safe_s: tuple[float, float]
    map: ErrorMap

    def margins(self, setting: Setting) -> tuple[float, float, float]:
        """Return by which factors powers may rise, powers may fall and pauses may lengthen before a setting fails.

        ``setting`` is the proposed one, or the same in the steps of a plug.
        """
        return (
            setting.threshold_w / self.safe_w[0],
            setting.threshold_w / self.safe_w[1],
            setting.wait_s / self.safe_s[0],
        )


def grids(found: Activity, question: Question, step_s: float) -> tuple[Floats, Floats]:
    """Return the thresholds [W] and waiting times [s] that a question is tried with, on even logarithmic steps."""
    learnt = found.learnt
    low_w = max(0.5 * learnt.rest.level_w, 0.3)
    length = np.array([c.end - c.start for c in found.whole] or [1]) * step_s
    first, last = step_s, LONGEST_WAIT_S
    if question == "started":
        last = max(min(600.0, 0.9 * float(length.min())), 2 * step_s)
    elif question == "ran_today":
        last = max(0.9 * float(length.min()), 2 * step_s)
    elif question == "left_on":
        first, last = 0.3 * float(np.median(length)), 8 * float(length.max())
    return np.geomspace(low_w, max(20 * learnt.work_w, 20 * low_w), THRESHOLDS), np.geomspace(first, last, WAITS)


def propose(
    power_w: Floats,
    step_s: float,
    found: Activity,
    day: Ints,
    question: Question = "finished",
    hysteresis_w: float = 0.0,
) -> SettingProposal:
    """Return the setting that answers a question best over a log.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power by step, NaN where not heard [W].
    found : Activity
        Its cycles.
    day : (step,) int array
        Local day of each step.

    Raises
    ------
    NotKnowable
        If the log holds fewer than two whole cycles, no threshold stands clear of rest, or every one misses every run.
    """
    whole = len(found.whole)
    if whole < 2:
        raise NotKnowable(
            f"This log holds {whole} whole run{'s' if whole != 1 else ''}; one run proves no setting.",
            "Record two or more whole runs, with the rest after them.",
        )
    thresholds, waits = grids(found, question, step_s)
    asked = asked_of(question, found, day, power_w, step_s)
    tried = error_map(power_w, step_s, asked, thresholds, waits, hysteresis_w)
    proposal = middle_of(power_w, step_s, asked, tried, _sees_cycles(power_w, step_s, found, day, thresholds))
    if asked.since.size and proposal.verdict.missed == asked.since.size:
        raise NotKnowable(
            "Every setting that stands clear of rest misses every run of this log.",
            "Record at a finer step, or with a plug that reads smaller powers.",
        )
    return proposal


def _sees_cycles(power_w: Floats, step_s: float, found: Activity, day: Ints, thresholds: Floats) -> Flags:
    """Return which thresholds stand clear of rest and see every cycle begin, shape (threshold,)."""
    is_clear = thresholds >= least_threshold_w(found)
    if not is_clear.any():
        raise NotKnowable(
            "No threshold stands clear of this appliance's rest and below its work.",
            "Record with a plug that reads smaller powers.",
        )
    asked = asked_of("started", found, day, power_w, step_s)
    # As long as a start takes: the surge of a motor alone would see cycles at any threshold.
    missed = error_map(power_w, step_s, asked, thresholds, np.array([asked.start_s])).missed[:, 0]
    sees = is_clear & (missed <= missed.min() + FEW_SHARE * asked.since.size)
    return sees if sees.any() else is_clear


def least_threshold_w(found: Activity) -> float:
    """Return the lowest threshold that stands clear of rest (docs/methods H2) [W]."""
    rest_w = found.learnt.rest.high_w
    return max(rest_w + CLEAR_W, CLEAR_SHARE * rest_w)


def propose_witness(is_on: Floats, step_s: float, asked: Expected) -> SettingProposal:
    """Return the waiting time with which a witness that is on or off answers best.

    Parameters
    ----------
    is_on : (step,) float array
        1 while it vibrates or is closed, 0 else, NaN where not heard.
    """
    waits = np.geomspace(step_s, LONGEST_WAIT_S, WAITS)
    # It need not be on for long: a drum shakes it now and then.
    asked = replace(asked, start_s=step_s)
    tried = error_map(is_on, step_s, asked, np.array([0.5]), waits)
    return middle_of(is_on, step_s, asked, tried, np.ones(1, dtype=bool))


def middle_of(power_w: Floats, step_s: float, asked: Expected, tried: ErrorMap, allowed: Flags) -> SettingProposal:
    """Return the point of the map that stands farthest from errors, as far as is enough, with the shortest wait.

    Parameters
    ----------
    allowed : (threshold,) bool array
        Thresholds that may be proposed at all: clear of rest, and low enough to see every cycle.

    Notes
    -----
    docs/methods H12. Distances are taken on logarithmic scales, a factor of 1.3 in the threshold as far as one
    of 1.25 in the wait. Below the lowest and above the highest threshold tried, and below the shortest wait, errors
    are taken for granted.
    """
    errors = np.where(allowed[:, None], tried.errors, np.iinfo(np.int64).max)
    safe = _prompt(errors == errors.min(), tried)
    away = np.minimum(_clearance(safe, tried), ENOUGH)
    wait = int(np.flatnonzero((away >= NEARLY * away.max()).any(axis=0))[0])
    column = np.where(safe[:, wait], away[:, wait], -1.0)
    low, high = _stretch(safe[:, wait], int(np.argmax(column)))
    first, last = _stretch(safe[(low + high) // 2], wait)
    threshold = float(np.sqrt(tried.thresholds_w[low] * tried.thresholds_w[high]))
    setting = Setting(threshold_w=threshold, wait_s=float(tried.waits_s[wait]), hysteresis_w=tried.hysteresis_w)
    return SettingProposal(
        question=tried.question,
        setting=setting,
        verdict=judge(power_w, step_s, asked, setting),
        safe_w=(float(tried.thresholds_w[low]), float(tried.thresholds_w[high])),
        safe_s=(float(tried.waits_s[first]), float(tried.waits_s[last])),
        map=tried,
    )


def _prompt(safe: Flags, tried: ErrorMap) -> Flags:
    """Return which safe settings also tell an end about a wait after it, where any does: ticks hold others up."""
    if tried.question not in ("finished", "idle"):
        return safe
    is_prompt = safe & (tried.late_s <= tried.waits_s + PROMPT_S)
    return is_prompt if is_prompt.any() else safe


def _clearance(safe: Flags, tried: ErrorMap) -> Floats:
    """Return how many units each safe setting stands from the nearest that is not, shape (threshold, wait)."""
    unit_w = _unit(tried.thresholds_w, UNIT_W)
    unit_s = _unit(tried.waits_s, UNIT_S)
    edge = 1 if tried.thresholds_w.size > 1 else 0
    padded = np.pad(safe, ((edge, edge), (1, 0)), constant_values=False)
    away = ndimage.distance_transform_edt(padded, sampling=(unit_w, unit_s))
    return np.asarray(away[edge : away.shape[0] - edge, 1:], dtype=np.float64)


def _unit(grid: Floats, unit: float) -> float:
    return float(np.log(grid[-1] / grid[0]) / (grid.size - 1) / np.log(unit)) if grid.size > 1 else 1.0


def _stretch(safe: Flags, at: int) -> tuple[int, int]:
    """Return the first and last place of the safe stretch that holds a place."""
    low = high = at
    while low > 0 and safe[low - 1]:
        low -= 1
    while high < safe.size - 1 and safe[high + 1]:
        high += 1
    return low, high


def better_witness(mine: SettingProposal, other: SettingProposal) -> SettingProposal:
    """Return which of two witnesses answers with fewer errors, then sooner."""
    worst = float("inf")
    return min((mine, other), key=lambda p: (p.verdict.errors, worst if p.verdict.late_s is None else p.verdict.late_s))
