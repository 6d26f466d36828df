"""The flow that radiators need: by the arithmetic mean (C3), and over outdoor temperatures (C4)."""

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.emitters.radiator import RATED_EXCESS_K


def required_flow_c(
    rated_w: float, load_w: float, *, room_c: float, spread_k: float, exponent: float = 1.3
) -> tuple[float, float]:
    """Return (flow temperature [°C], mean excess [K]) at which a radiator gives a load, by the arithmetic mean.

    References
    ----------
    Inverse of EN 442-2; docs/methods C3.
    """
    excess = RATED_EXCESS_K * (max(0.0, load_w) / rated_w) ** (1 / exponent)
    return room_c + excess + spread_k / 2, excess


def heating_curve_c(
    rated_w: float,
    outdoor_c: Floats,
    *,
    loss_w_k: float,
    room_c: float,
    design_outdoor_c: float,
    spread_k: float,
    limits_c: tuple[float, float],
    exponent: float = 1.3,
) -> Floats:
    """Return the flow temperature for outdoor temperatures, water flow constant, clipped; shape as given [°C].

    References
    ----------
    Inverse of EN 442-2; docs/methods C4.
    """
    load = np.maximum(0.0, loss_w_k * (room_c - outdoor_c))
    design = loss_w_k * (room_c - design_outdoor_c)
    excess = RATED_EXCESS_K * (load / rated_w) ** (1 / exponent)
    return np.clip(room_c + excess + spread_k * load / design / 2, *limits_c)
