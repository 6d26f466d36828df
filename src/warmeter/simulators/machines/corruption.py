"""Logs as plugs spoil them: bad readings, drop-outs, and a plug that was moved to another machine."""

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.units import J_PER_KWH

BAD_READING_W = 6553.5


def with_bad_readings(rng: np.random.Generator, power_w: Floats, count: int) -> Floats:
    """Return the log with single readings far beyond what the machine draws."""
    out = power_w.copy()
    out[rng.choice(out.size, count, replace=False)] = BAD_READING_W
    return out


def with_negatives(rng: np.random.Generator, power_w: Floats, count: int) -> Floats:
    """Return the log with single readings below zero, as a plug writes about a drop-out."""
    out = power_w.copy()
    out[rng.choice(out.size, count, replace=False)] = -rng.uniform(1, 400, count)
    return out


def with_holes(rng: np.random.Generator, power_w: Floats, share: float, longest: int) -> Floats:
    """Return the log with holes of up to ``longest`` steps until about ``share`` of it is not heard."""
    out = power_w.copy()
    while np.isnan(out).mean() < share:
        at = int(rng.integers(0, out.size))
        out[at : at + int(rng.integers(1, longest + 1))] = np.nan
    return out


def moved(first_w: Floats, second_w: Floats, at_step: int) -> Floats:
    """Return one log in which the plug goes from one machine to another at a step."""
    size = min(first_w.size, second_w.size)
    return np.concatenate([first_w[:at_step], second_w[at_step:size]])


def counter_kwh(power_w: Floats, step_s: float, *, digits: int, start_kwh: float = 0.0) -> Floats:
    """Return an energy counter read at the end of each step; it rolls over at ``digits`` whole digits."""
    total = start_kwh + np.cumsum(np.nan_to_num(power_w)) * step_s / J_PER_KWH
    rolled: Floats = np.round(total % 10**digits, 3)
    return rolled
