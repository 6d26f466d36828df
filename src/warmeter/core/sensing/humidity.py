"""Damp air: dew point and absolute humidity (D6), mould at a surface (D8)."""

from dataclasses import dataclass
from math import exp

import numpy as np
from scipy.optimize import brentq

from warmeter.core.arrays import Floats
from warmeter.core.errors import OutOfRange, within
from warmeter.core.units import KELVIN_AT_0_C

MOULD_RH = 0.8  # monthly mean at the surface
RSI_MOULD_M2K_W = 0.25
_R_VAPOUR = 461.5


def saturation_pa(celsius: Floats) -> Floats:
    """Return the saturation pressure over water, −45 to 60 °C, shape as given [Pa] (Sonntag 1990; docs/methods D6)."""
    return np.asarray(611.2 * np.exp(17.62 * celsius / (243.12 + celsius)), dtype=np.float64)


def dew_points_c(celsius: Floats, rh: Floats) -> Floats:
    """Return the dew points of air at temperatures and relative humidities (ratio); NaN where that is not above 0 (D6).

    Examples
    --------
    >>> round(float(dew_points_c(np.array([20.0]), np.array([0.5]))[0]), 2)
    9.26
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        g = np.log(rh * saturation_pa(celsius) / 611.2)
        return np.where(rh > 0, 243.12 * g / (17.62 - g), np.nan)


def absolute_g_m3(celsius: Floats, rh: Floats) -> Floats:
    """Return the absolute humidities of air at temperatures and relative humidities (ratio) [g/m3] (D6)."""
    return 1000 * rh * saturation_pa(celsius) / (_R_VAPOUR * (celsius + KELVIN_AT_0_C))


def _saturation_iso_pa(celsius: float) -> float:
    """Return the saturation pressure by ISO 13788, over ice below 0 °C [Pa]."""
    a, b = (17.269, 237.3) if celsius >= 0 else (21.875, 265.5)
    return 610.5 * exp(a * celsius / (b + celsius))


@dataclass(frozen=True, slots=True, kw_only=True)
class MouldCheck:
    """A surface and the least it must be: factors (ratio), temperatures [°C], surface humidity (ratio)."""

    factor: float
    surface_c: float
    surface_rh: float
    least_surface_c: float
    least_factor: float
    is_at_risk: bool


def check_mould(
    *,
    indoor_c: float,
    outdoor_c: float,
    rh: float,
    u_w_m2k: float | None = None,
    factor: float | None = None,
    rsi_m2k_w: float = RSI_MOULD_M2K_W,
) -> MouldCheck:
    """Return the mould risk at a plain element of a U-value, or at a place of a known factor f_Rsi.

    ``u_w_m2k`` is one worked out with ``rsi_m2k_w`` (see ``u_at_mould_resistance``).

    Raises
    ------
    OutOfRange
        If outdoors is not colder, humidity not above 0, or neither U nor factor is given.

    References
    ----------
    ISO 13788; docs/methods D8.
    """
    if not outdoor_c < indoor_c:
        raise OutOfRange("outdoor temperature", outdoor_c, -60.0, indoor_c, "°C")
    if not 0 < rh <= 1:
        raise OutOfRange("relative humidity", rh, 0.0, 1.0)
    if factor is None:
        factor = 1 - within("U-value", -1.0 if u_w_m2k is None else u_w_m2k, 0.02, 10.0, "W/(m2 K)") * rsi_m2k_w
    surface = outdoor_c + factor * (indoor_c - outdoor_c)
    vapour = rh * _saturation_iso_pa(indoor_c)
    least = float(brentq(lambda c: _saturation_iso_pa(c) - vapour / MOULD_RH, -80.0, 80.0, xtol=1e-12))
    return MouldCheck(
        factor=factor,
        surface_c=surface,
        surface_rh=vapour / _saturation_iso_pa(surface),
        least_surface_c=least,
        least_factor=(least - outdoor_c) / (indoor_c - outdoor_c),
        is_at_risk=surface < least - 1e-9,
    )


def u_at_mould_resistance(u_w_m2k: float) -> float:
    """Return a U-value of 0.13 m2 K/W inside as one with 0.25, as furniture and corners have [W/(m2 K)] (D8)."""
    return 1 / (1 / u_w_m2k + RSI_MOULD_M2K_W - 0.13)
