"""What is drawn while nothing is done: day by day, and when it rose or fell."""

import itertools
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.signature.change_points import noise_of, partition
from warmeter.core.units import S_PER_H

LEAST_HEARD_H = 6.0
REST_QUANTILE = 0.1
SHORTEST_DAYS = 3
LEAST_STEP_W, LEAST_STEP = 0.3, 0.1
PENALTY = 3.0
LEAST_NOISE_W = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class StandbyStep:
    """A day from which rest is another: its index, and the power before and from then on [W]."""

    day: int
    before_w: float
    after_w: float


def daily_standby(power_w: Floats, step_s: float, day: Ints) -> Floats:
    """Return the rest of each day, its first decile, shape (day,) [W]; NaN where under 6 h were heard.

    Parameters
    ----------
    power_w : (step,) float array
        NaN where not heard [W].
    step_s : float
        Length of a step [s].
    day : (step,) int array
        Local day of each step, rising from 0.
    """
    edges = np.searchsorted(day, np.arange(int(day[-1]) + 2))
    out = np.full(edges.size - 1, np.nan)
    for k, (a, b) in enumerate(itertools.pairwise(edges.tolist())):
        heard = power_w[a:b]
        heard = heard[~np.isnan(heard)]
        if heard.size * step_s >= LEAST_HEARD_H * S_PER_H:
            out[k] = np.quantile(heard, REST_QUANTILE)
    return out


def standby_steps(daily_w: Floats) -> tuple[StandbyStep, ...]:
    """Return when rest rose or fell for good, shape (day,) [W].

    Notes
    -----
    docs/methods H6 over the days heard; no stretch under three days, and no change under 0.3 W or a tenth.
    """
    heard = np.flatnonzero(~np.isnan(daily_w))
    value = daily_w[heard]
    if value.size < 2 * SHORTEST_DAYS:
        return ()
    noise = max(noise_of(value), LEAST_NOISE_W)
    parts = partition(value, PENALTY * noise**2 * float(np.log(value.size)) * 3, shortest=SHORTEST_DAYS)
    edges = [0, *parts.breaks.tolist(), value.size]
    levels = [float(np.median(value[a:b])) for a, b in itertools.pairwise(edges)]
    return tuple(
        StandbyStep(day=int(heard[at]), before_w=before, after_w=after)
        for at, (before, after) in zip(parts.breaks.tolist(), itertools.pairwise(levels), strict=True)
        if abs(after - before) >= max(LEAST_STEP_W, LEAST_STEP * before)
    )
