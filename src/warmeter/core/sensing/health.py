"""Whether a sensor's own readings can be right: silent, stuck, jumping, out of range (D11)."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats

HealthFlag = Literal["stale", "stuck", "jump", "range"]


@dataclass(frozen=True, slots=True, kw_only=True)
class HealthLimits:
    """What a sound sensor keeps to.

    Parameters
    ----------
    stale_s : float
        Silent for longer is stale [s].
    stuck_window_s, stuck_span_s : float
        Within the window, readings over at least the span [s]
    stuck_samples, stuck_range_k : int, float
        and so many of them are stuck where they differ by less [K].
    jump_k_min : float
        A faster change is a jump [K a minute].
    low_c, high_c : float
        Readings outside are none [°C].
    """

    stale_s: float = 3600.0
    stuck_window_s: float = 21_600.0
    stuck_span_s: float = 14_400.0
    stuck_samples: int = 5
    stuck_range_k: float = 0.05
    jump_k_min: float = 3.0
    low_c: float = -30.0
    high_c: float = 60.0


def sensor_health(at_s: Floats, value_c: Floats, *, now_s: float, limits: HealthLimits) -> tuple[HealthFlag, ...]:
    """Return what is wrong with a sensor's readings, in the order silent, stuck, jump, range.

    Parameters
    ----------
    at_s, value_c : (reading,) float arrays
        Times, rising [s], and readings [°C].
    now_s : float
        What counts as now [s].

    References
    ----------
    docs/methods D11.
    """
    found: list[HealthFlag] = []
    if not at_s.size or now_s - float(at_s[-1]) > limits.stale_s:
        found.append("stale")
    recent = now_s - at_s <= limits.stuck_window_s
    near = value_c[recent]
    if (
        near.size >= limits.stuck_samples
        and float(np.ptp(at_s[recent])) >= limits.stuck_span_s
        and float(np.ptp(near)) < limits.stuck_range_k
    ):
        found.append("stuck")
    if at_s.size > 1:
        minutes = np.maximum(np.diff(at_s), 1e-9) / 60
        if bool((np.abs(np.diff(value_c)) / minutes > limits.jump_k_min).any()):
            found.append("jump")
    if bool(((value_c < limits.low_c) | (value_c > limits.high_c)).any()):
        found.append("range")
    return tuple(found)
