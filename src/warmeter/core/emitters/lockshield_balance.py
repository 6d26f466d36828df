"""Balancing radiators by their lockshields: the water that gives each just its part of the load (M1, M2)."""

from dataclasses import dataclass

from scipy.optimize import brentq

from warmeter.core.emitters.radiator import RATED_LOG_EXCESS_K, WATER_J_KGK, log_mean
from warmeter.core.errors import OutOfRange
from warmeter.core.units import S_PER_H

KPA_PER_BAR, L_PER_M3 = 100.0, 1000.0


def water_flow(load_w: float, *, flow_c: float, return_c: float, density_kg_l: float = 0.99) -> tuple[float, float]:
    """Return (kg/s, L/h) of water that carry a load; ``OutOfRange`` without a spread (docs/methods M1)."""
    if not flow_c > return_c:
        raise OutOfRange("return temperature", return_c, -20.0, flow_c, "°C")
    mass = load_w / (WATER_J_KGK * (flow_c - return_c))
    return mass, S_PER_H * mass / density_kg_l


def drop_kpa(flow_l_h: float, kv_m3_h: float) -> float:
    """Return the pressure that a valve of a kv loses at a flow of water [kPa]; ``OutOfRange`` without a kv (docs/methods M3)."""
    if not kv_m3_h > 0:
        raise OutOfRange("kv", kv_m3_h, 0.0, 100.0, "m³/h")
    return float(KPA_PER_BAR * (flow_l_h / L_PER_M3 / kv_m3_h) ** 2)


def preset_kv(flow_l_h: float, available_kpa: float) -> float:
    """Return the kv at which a valve takes the pressure that is left for it [m³/h]; ``OutOfRange`` if none is (M3, M4)."""
    if not available_kpa > 0:
        raise OutOfRange("pressure left for the valve", available_kpa, 0.0, 1000.0, "kPa")
    return float(flow_l_h / L_PER_M3 / (available_kpa / KPA_PER_BAR) ** 0.5)


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

    Raises
    ------
    OutOfRange
        If the flow is no warmer than the room.

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
    cool = float(brentq(lambda k: log_mean(warm, k) - wanted, 1e-300, warm, xtol=1e-12, maxiter=2000))
    mass = load_w / (WATER_J_KGK * (warm - cool)) * S_PER_H
    return ReturnBalance(most_w=most, return_c=room_c + cool, mass_kg_h=mass)
