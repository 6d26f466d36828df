"""Radiators: output at a flow (C1, C2), the flow that a load needs (C3, C4), balancing (M1, M2)."""

from dataclasses import dataclass
from math import log

import numpy as np
from scipy.optimize import brentq

from warmeter.core.arrays import Floats
from warmeter.core.errors import OutOfRange, within
from warmeter.core.units import S_PER_H

WATER_J_KGK = 4186.0
RATED_EXCESS_K = 50.0
RATED_LOG_EXCESS_K = 10 / log(55 / 45)  # at 75/65/20


@dataclass(frozen=True, slots=True)
class WaterTemperatures:
    """Flow, return and room temperature [°C], flow ≥ return > room."""

    flow_c: float
    return_c: float
    room_c: float

    def __post_init__(self) -> None:
        if not self.room_c < self.return_c <= self.flow_c <= 95:
            raise OutOfRange("return temperature", self.return_c, self.room_c, min(self.flow_c, 95.0), "°C")

    @property
    def mean_excess_k(self) -> float:
        """Arithmetic mean over the room [K]."""
        return (self.flow_c + self.return_c) / 2 - self.room_c

    @property
    def log_excess_k(self) -> float:
        """Logarithmic mean over the room [K]."""
        return _log_mean(self.flow_c - self.room_c, self.return_c - self.room_c)


RATED_AT = WaterTemperatures(75.0, 65.0, 20.0)


def _log_mean(warm_k: float, cool_k: float) -> float:
    if warm_k - cool_k < 1e-9:
        return warm_k
    return (warm_k - cool_k) / log(warm_k / cool_k)


def output_w(
    rated_w: float, at: WaterTemperatures, *, exponent: float = 1.3, rated_at: WaterTemperatures = RATED_AT
) -> float:
    """Return a radiator's heat by the logarithmic mean [W].

    Parameters
    ----------
    rated_w : float
        Heat at ``rated_at``, > 0 [W].
    at : WaterTemperatures
        Where it runs.
    exponent : float
        n, 1 to 2: panel 1.30, column 1.25 to 1.33, convector 1.3 to 1.5.

    References
    ----------
    EN 442-2; docs/methods C1.

    Examples
    --------
    >>> round(output_w(1000.0, WaterTemperatures(55, 45, 20)), 1)
    510.7
    """
    within("radiator exponent", exponent, 1.0, 2.0)
    return float(rated_w * (at.log_excess_k / rated_at.log_excess_k) ** exponent)


def output_by_mean_w(
    rated_w: float, at: WaterTemperatures, *, exponent: float = 1.3, rated_at: WaterTemperatures = RATED_AT
) -> float:
    """Return a radiator's heat by the arithmetic mean [W]; overstates where the return is cool (C1)."""
    within("radiator exponent", exponent, 1.0, 2.0)
    return float(rated_w * (at.mean_excess_k / rated_at.mean_excess_k) ** exponent)


def rated_at_50_w(rated_w: float, excess_k: float, *, exponent: float = 1.3) -> float:
    """Return the rated heat at 50 K excess of one rated at another, 60 K in old catalogues [W] (C1)."""
    return float(rated_w * (RATED_EXCESS_K / within("rated excess", excess_k, 10.0, 80.0, "K")) ** exponent)


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


def water_flow(load_w: float, *, flow_c: float, return_c: float, density_kg_l: float = 0.99) -> tuple[float, float]:
    """Return (kg/s, L/h) of water that carry a load; ``OutOfRange`` without a spread (docs/methods M1)."""
    if not flow_c > return_c:
        raise OutOfRange("return temperature", return_c, -20.0, flow_c, "°C")
    mass = load_w / (WATER_J_KGK * (flow_c - return_c))
    return mass, S_PER_H * mass / density_kg_l


@dataclass(frozen=True, slots=True, kw_only=True)
class ReturnBalance:
    """Return temperature [°C] and water [kg/h] at which a radiator gives just its load.

    Both are None where it cannot: ``most_w`` is what it gives with unthrottled water.
    """

    most_w: float
    return_c: float | None
    mass_kg_h: float | None


def target_return(
    rated_w: float, load_w: float, *, flow_c: float, room_c: float, exponent: float = 1.3
) -> ReturnBalance:
    """Return the return temperature that means the right flow.

    References
    ----------
    EN 442-2 solved for the return; docs/methods M2.
    """
    warm = flow_c - room_c
    if not warm > 0:
        raise OutOfRange("flow temperature", flow_c, room_c, 95.0, "°C")
    most = rated_w * (warm / RATED_LOG_EXCESS_K) ** exponent
    if load_w >= most or load_w <= 0:
        return ReturnBalance(most_w=most, return_c=None, mass_kg_h=None)
    wanted = RATED_LOG_EXCESS_K * (load_w / rated_w) ** (1 / exponent)
    cool = float(brentq(lambda k: _log_mean(warm, k) - wanted, 1e-300, warm, xtol=1e-12, maxiter=2000))
    mass = load_w / (WATER_J_KGK * (warm - cool)) * S_PER_H
    return ReturnBalance(most_w=most, return_c=room_c + cool, mass_kg_h=mass)
