"""Walls, floors and air of a building: U-values (A1, A2), leaks (A4), bridges (A5), a rough cooling load (A6)."""

from warmeter.core.errors import within
from warmeter.core.thermal.survey import AIR_WH_M3K

RSE_M2K_W = 0.04
RSI_FLOOR_M2K_W = 0.17


def infiltration_1_h(*, n50_1_h: float, shield: float, height: float = 1.0) -> float:
    """Return the air change by leaks from a pressure test [1/h].

    Parameters
    ----------
    n50_1_h : float
        Air change at 50 Pa, 0 to 50; of the whole building.
    shield : float
        e: 0.01 to 0.05 by shelter and number of façades, 0 without façade (ratio).
    height : float
        Correction for height: 1.0 to 10 m, 1.2 to 30 m, 1.5 above (ratio).

    References
    ----------
    EN 12831:2003, EN ISO 9972; docs/methods A4.
    """
    return 2 * within("air change at 50 Pa", n50_1_h, 0.0, 50.0, "1/h") * shield * height


def effective_air_change_1_h(
    infiltration: float, *, least_1_h: float, mechanical_1_h: float = 0.0, recovery: float = 0.0
) -> float:
    """Return the air change that costs heat [1/h]: leaks or the least, or leaks and what recovery leaves (A4)."""
    within("heat recovery", recovery, 0.0, 1.0)
    if mechanical_1_h > 0:
        return infiltration + mechanical_1_h * (1 - recovery)
    return max(least_1_h, infiltration)


def ventilation_loss_w(air_change_1_h: float, volume_m3: float, fall_k: float) -> float:
    """Return the heat lost to an air change [W] (docs/methods A3, A4)."""
    return AIR_WH_M3K * air_change_1_h * volume_m3 * fall_k
