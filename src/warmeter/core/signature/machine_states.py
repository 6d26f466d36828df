"""The states of a machine at work: steady power levels, and how long it stays in each (H4, H5)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.signature.cycles import Cycle
from warmeter.core.signature.states import MERGE_SHARE, MERGE_W, split_levels
from warmeter.core.units import S_PER_H

STEADY_OCTAVES = 0.3  # a reading that changes more from the one before is on its way between states
BINS, MOST_STATES = 200, 6
LEAST_SPREAD = 0.05  # octaves
COUNTS_AS = 2000  # readings follow one another: they weigh as no more than this many


@dataclass(frozen=True, slots=True, kw_only=True)
class State:
    """A power level at work [W], with its usual reach, and the hours spent in it."""

    level_w: float
    low_w: float
    high_w: float
    hours: float


def machine_states(power_w: Floats, step_s: float, cycles: Sequence[Cycle]) -> tuple[State, ...]:
    """Return the states of a machine within its cycles, rising; empty without a cycle.

    Notes
    -----
    docs/methods H4 and H5 on the logarithm of steady readings, binned: the exact split for one to six levels,
    the number by BIC with each level a normal distribution; levels within 3 W or 5 % of each other are one.
    """
    inside = np.concatenate([power_w[c.start : c.end] for c in cycles]) if cycles else np.zeros(0)
    inside = inside[~np.isnan(inside)]
    value = np.log2(np.maximum(inside, 0.0) + 1.0)
    steady = value[1:][np.abs(np.diff(value)) < STEADY_OCTAVES]
    if steady.size < 2 * MOST_STATES:
        return ()
    counts, edges = np.histogram(steady, bins=BINS)
    held = counts > 0
    centres, weight = (0.5 * (edges[:-1] + edges[1:]))[held], counts[held].astype(np.float64)
    tried = [split_levels(centres, k, weight).centres for k in range(1, min(MOST_STATES, centres.size) + 1)]
    levels = min(tried, key=lambda c: _bic(centres, weight, c))
    watts = _merged(2.0**levels - 1.0)
    borders = np.sqrt(watts[:-1] * watts[1:])
    place = np.searchsorted(borders, inside)
    return tuple(_state(inside[place == k], float(watts[k]), step_s) for k in range(watts.size) if (place == k).any())


def _bic(value: Floats, weight: Floats, centres: Floats) -> float:
    borders = 0.5 * (centres[:-1] + centres[1:])
    place = np.searchsorted(borders, value)
    total, likelihood = weight.sum(), 0.0
    for k, centre in enumerate(centres):
        own = weight[place == k]
        if own.size == 0:
            continue
        variance = max(float((own * (value[place == k] - centre) ** 2).sum() / own.sum()), LEAST_SPREAD**2)
        likelihood += own.sum() / total * (np.log(own.sum() / total) - 0.5 * np.log(2 * np.pi * variance) - 0.5)
    n = min(total, COUNTS_AS)
    return float(-2 * n * likelihood + (3 * centres.size - 1) * np.log(n))


def _merged(watts: Floats) -> Floats:
    kept = [float(watts[0])]
    for level in watts[1:].tolist():
        if level - kept[-1] <= max(MERGE_W, MERGE_SHARE * level):
            kept[-1] = 0.5 * (kept[-1] + level)
        else:
            kept.append(level)
    return np.array(kept)


def _state(own: Floats, level_w: float, step_s: float) -> State:
    low, high = np.quantile(own, [0.1, 0.9])
    return State(level_w=level_w, low_w=float(low), high_w=float(high), hours=own.size * step_s / S_PER_H)
