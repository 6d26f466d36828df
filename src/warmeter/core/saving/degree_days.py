"""Energy that follows the weather: a base for each day and a slope for each degree day (K3), with its range (K6, K7)."""

from dataclasses import dataclass
from math import sqrt

import numpy as np
from scipy.special import stdtrit

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable, OutOfRange

FEWEST_PERIODS = 3
_UPPER = 0.975  # two-sided 95 %
_LEAST_SPREAD = 1e-6  # of degree days, relative: under it base and slope cannot be told apart


@dataclass(frozen=True, slots=True, kw_only=True)
class DegreeDayFit:
    """What energy is a day without heating, and for each degree day.

    Parameters
    ----------
    base_per_day, slope_per_degree_day : float
        In the unit of the energy, the second for each K·d.
    slope_half : float
        Half width at 95 %, widened for periods that hang together.
    r2, cv_rmse_pct, nmbe_pct : float
        Share explained, spread of what is left and its mean, the last two in percent of the mean energy.
    """

    base_per_day: float
    slope_per_degree_day: float
    slope_half: float
    r2: float
    cv_rmse_pct: float
    nmbe_pct: float

    @property
    def follows_weather(self) -> bool:
        """Whether the energy surely rises with degree days."""
        return self.slope_per_degree_day > self.slope_half


@dataclass(frozen=True, slots=True, kw_only=True)
class Autocorrelation:
    """Correlation of values with those one before, and of how many independent values they tell as much."""

    rho1: float
    effective: float


def autocorrelation(residuals: Floats) -> Autocorrelation:
    """Return how far values in order hang together.

    Parameters
    ----------
    residuals : (n,) float array
        At least two, not all alike.

    Notes
    -----
    docs/methods K7: ρ about the mean at a lag of one; n' = n(1 − ρ)/(1 + ρ), at most n.
    """
    off = residuals - residuals.mean()
    whole = float((off**2).sum())
    rho = float((off[1:] * off[:-1]).sum()) / whole if whole > 0 else 0.0
    return Autocorrelation(rho1=rho, effective=min(residuals.size, residuals.size * (1 - rho) / (1 + rho)))


def degree_day_fit(days: Floats, degree_days: Floats, energy: Floats) -> DegreeDayFit:
    """Return base and slope of periods' energy over their days and degree days.

    Parameters
    ----------
    days : (period,) float array
        Length of each [d], above 0.
    degree_days : (period,) float array
        Of each [K·d], at least 0.
    energy : (period,) float array
        Of each, in any unit of energy or of mean power times days.

    Raises
    ------
    OutOfRange
        If a length is not above 0, or degree days are negative.
    NotKnowable
        If there are fewer than three periods, or their degree days a day are alike.

    Notes
    -----
    docs/methods K3: least squares without intercept. Ranges: t of n' − 2 degrees of freedom, standard errors times
    √(n/n') (K7), because days that follow each other hang together.
    """
    if days.size < FEWEST_PERIODS:
        raise NotKnowable("Too few days tell nothing of the weather.", "Log three weeks.")
    if float(days.min()) <= 0:
        raise OutOfRange("days", float(days.min()), 0.0, 366.0)
    if float(degree_days.min()) < 0:
        raise OutOfRange("degree days", float(degree_days.min()), 0.0, 1e5)
    x = np.stack([days, degree_days], axis=1)
    daily = degree_days / days
    if float(np.ptp(daily)) <= _LEAST_SPREAD * max(1.0, float(daily.max())):
        raise NotKnowable("All days were as cold as each other.", "Log days that differ.")
    inverse = np.linalg.inv(x.T @ x)
    base, slope = (inverse @ (x.T @ energy)).tolist()
    left = energy - x @ np.array([base, slope])
    free = days.size - 2
    sse, mean = float(left @ left), float(energy.mean())
    total = float(((energy - mean) ** 2).sum())
    hang = autocorrelation(left)
    effective = max(hang.effective, FEWEST_PERIODS)
    wide = float(stdtrit(effective - 2, _UPPER)) * sqrt(days.size / effective) * sqrt(sse / free)
    return DegreeDayFit(
        base_per_day=base,
        slope_per_degree_day=slope,
        slope_half=wide * sqrt(float(inverse[1, 1])),
        r2=1 - sse / total if total > 0 else 1.0,
        cv_rmse_pct=100 * sqrt(sse / free) / mean if mean else 0.0,
        nmbe_pct=100 * float(left.sum()) / (free * mean) if mean else 0.0,
    )
