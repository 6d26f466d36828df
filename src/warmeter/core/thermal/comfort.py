"""Degree-hours below or above a limit (F5)."""

from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.units import S_PER_H

SLACK = 1e-9  # computed temperatures are compared with limits to this


def degree_hours(
    temperature_c: Floats, limit_c: Floats | float, step_s: float, side: Literal["below", "above"] = "below"
) -> Floats:
    """Return the K h short of, or over, a limit along the last axis.

    Parameters
    ----------
    temperature_c : (..., step) float array
        Temperatures [°C].
    limit_c : float or (step,) array
        The limit [°C].
    step_s : float
        Length of a step [s].

    Examples
    --------
    >>> float(degree_hours(np.array([17.0, 18.5]), 18.0, 3600.0))
    1.0
    """
    excess = (limit_c - temperature_c) if side == "below" else (temperature_c - limit_c)
    return np.asarray(np.maximum(excess, 0.0).sum(axis=-1) * step_s / S_PER_H, dtype=np.float64)


def hours_beyond(
    temperature_c: Floats, limit_c: Floats | float, step_s: float, side: Literal["below", "above"] = "below"
) -> float:
    """Return the hours strictly beyond a limit, float or (step,) array [h]."""
    excess = (limit_c - temperature_c) if side == "below" else (temperature_c - limit_c)
    return float((excess > SLACK).sum()) * step_s / S_PER_H
