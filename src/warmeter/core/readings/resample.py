"""Readings onto an even grid: gaps stay gaps.

A power or energy becomes the exact mean power over each step; a temperature is taken at the grid's
instants by straight lines between readings. Nothing speaks for longer than its longest hold.
"""

from collections import Counter
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.readings.record import Readings, SeriesRecord

COVERED = 0.8  # a step counts as heard when at least this share of it is


def stretches(readings: Readings, record: SeriesRecord) -> tuple[Ints, Ints, Floats]:
    """Return (start, end, value) of what each reading speaks for [ms, ms, W or stored unit].

    Means and sums speak for their step, counters (also those of a day) for the time since the reading before, held and
    instant values until the next. Sums and counters are turned into mean power. A counter that
    falls (a reset) speaks for nothing.
    """
    at, value = readings.at_ms, readings.value
    hold = record.longest_hold_s * 1000
    if at.size == 0:
        return at, at, value
    if record.kind in ("counter", "daily"):
        start, end, rise = at[:-1], at[1:], np.diff(value)
        kept = (end - start <= hold) & (rise >= 0)
        seconds = np.maximum(end - start, 1) / 1000
        return start[kept], end[kept], (rise / seconds)[kept]
    if record.kind in ("mean", "sum") and record.step_s:
        step = record.step_s * 1000
        start = at - step if record.stamp == "end" else at
        power = value / record.step_s if record.kind == "sum" else value
        return start, start + step, power
    following = np.append(at[1:], at[-1] + min(hold, max(record.step_s, 60) * 1000))
    return at, np.minimum(following, at + hold), value


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerSummary:
    """What intervals hold together: lowest, highest and mean power [W], and their energy [J]."""

    low_w: float
    high_w: float
    mean_w: float
    energy_j: float


def power_summary(readings: Readings, record: SeriesRecord) -> PowerSummary | None:
    """Return what a power's or an energy's readings in the stored unit hold together; None where they speak for no time."""
    start, end, watts = stretches(readings, record)
    seconds = (end - start) / 1000
    if not watts.size or seconds.sum() <= 0:
        return None
    energy = float((watts * seconds).sum())
    return PowerSummary(
        low_w=float(watts.min()), high_w=float(watts.max()), mean_w=energy / float(seconds.sum()), energy_j=energy
    )


def mean_over_steps(readings: Readings, record: SeriesRecord, start_ms: int, step_s: float, steps: int) -> Floats:
    """Return the mean over each step from ``start_ms``, shape (step,); NaN where not heard.

    A step is heard where readings cover at least 80 % of it.
    """
    begin, end, value = stretches(readings, record)
    if _are_steps(begin, end, start_ms, step_s):
        place = (begin - start_ms) // round(step_s * 1000)
        inside = (place >= 0) & (place < steps)
        out = np.full(steps, np.nan)
        out[place[inside]] = value[inside]
        return out
    edges = np.asarray(start_ms + np.arange(steps + 1) * (step_s * 1000), dtype=np.float64)
    covered = np.diff(_integral(begin, end, np.ones(value.size), edges))
    total = np.diff(_integral(begin, end, value, edges))
    heard = covered >= COVERED * step_s * 1000
    return np.where(heard, total / np.where(heard, covered, 1.0), np.nan)


def _are_steps(begin: Ints, end: Ints, start_ms: int, step_s: float) -> bool:
    """Return whether each stretch is one step of a grid, so that its value is that step's mean."""
    step_ms = round(step_s * 1000)
    return bool(
        step_ms == step_s * 1000
        and (end - begin == step_ms).all()
        and ((begin - start_ms) % step_ms == 0).all()
        and (np.diff(begin) > 0).all()
    )


def _integral(begin: Ints, end: Ints, value: Floats, at: Floats) -> Floats:
    """Return the integral of non-overlapping stretches up to each instant."""
    if begin.size == 0:
        return np.zeros(at.size)
    end = np.minimum(end, np.append(begin[1:], end[-1]))
    lengths = np.maximum(end - begin, 0)
    before = np.concatenate([[0.0], np.cumsum(value * lengths)])
    place = np.searchsorted(begin, at, side="right") - 1
    inside = np.maximum(place, 0)
    partial = np.clip(at - begin[inside], 0, lengths[inside]) * value[inside]
    return np.where(place < 0, 0.0, before[inside] + partial)


def value_at(readings: Readings, record: SeriesRecord, instants_ms: Floats | Ints) -> Floats:
    """Return the value at instants, shape as given; NaN farther from readings than the longest hold.

    Instants lie on straight lines between readings; held values keep their step.
    """
    at, value = readings.at_ms, readings.value
    out = np.full(np.shape(instants_ms), np.nan)
    if at.size == 0:
        return out
    hold = record.longest_hold_s * 1000
    after = np.searchsorted(at, instants_ms, side="left")
    exact = (after < at.size) & (at[np.minimum(after, at.size - 1)] == instants_ms)
    low, high = np.clip(after - 1, 0, at.size - 1), np.clip(after, 0, at.size - 1)
    between = (after > 0) & (after < at.size) & (at[high] - at[low] <= hold)
    if record.kind == "held":
        last = (after > 0) & (np.asarray(instants_ms) - at[low] <= hold)
        out[last] = value[low][last]
    else:
        width = np.maximum(at[high] - at[low], 1)
        share = (np.asarray(instants_ms) - at[low]) / width
        out[between] = (value[low] + share * (value[high] - value[low]))[between]
    out[exact] = value[high][exact]
    return out


def steps_between(at_ms: Ints) -> Counter[int]:
    """Return how often each distance between neighbouring readings occurs [s]; those at the same second are no step."""
    steps = np.round(np.diff(at_ms) / 1000).astype(np.int64)
    lengths, counts = np.unique(steps[steps > 0], return_counts=True)
    return Counter(dict(zip(lengths.tolist(), counts.tolist(), strict=True)))


def commonest_step_s(steps: Counter[int]) -> int:
    """Return the commonest distance between readings [s], the shortest of several; 0 where fewer than half share it."""
    best = max(sorted(steps), key=lambda step: steps[step], default=0)
    return best if steps[best] * 2 > steps.total() else 0


def median_step_s(steps: Counter[int]) -> int:
    """Return the middle of the distances between readings [s]; at least one is needed."""
    return sorted(steps.elements())[steps.total() // 2]


def usual_step_s(at_ms: Ints) -> int:
    """Return the commonest distance between readings [s]; 0 where fewer than half share it."""
    return commonest_step_s(steps_between(at_ms))
