"""Thermistors: temperature by ohms, by beta (D3) and by three points (D4), and back."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import OutOfRange
from warmeter.core.units import KELVIN_AT_0_C


@dataclass(frozen=True, slots=True, kw_only=True)
class SteinhartHart:
    """Coefficients of 1/T = A + B ln R + C (ln R)³, T in kelvin."""

    a: float
    b: float
    c: float

    def celsius(self, ohm: Floats) -> Floats:
        """Return temperatures of resistances, shape as given, NaN where they are not above 0 [°C]."""
        with np.errstate(all="ignore"):
            log = np.log(np.where(ohm > 0, ohm, np.nan))
            return np.asarray(1 / (self.a + self.b * log + self.c * log**3) - KELVIN_AT_0_C, dtype=np.float64)


def steinhart_hart(points: Sequence[tuple[float, float]]) -> SteinhartHart:
    """Return the coefficients through three points of (°C, Ω).

    Raises
    ------
    OutOfRange
        If there are not three points of three different resistances.

    References
    ----------
    Steinhart and Hart 1968; docs/methods D4.
    """
    if len(points) != 3 or len({ohm for _, ohm in points}) != 3 or min(ohm for _, ohm in points) <= 0:
        raise OutOfRange("points of the thermistor", float(len(points)), 3.0, 3.0)
    logs = np.log([ohm for _, ohm in points])
    inverse = np.array([1 / (celsius + KELVIN_AT_0_C) for celsius, _ in points])
    a, b, c = np.linalg.solve(np.column_stack([np.ones(3), logs, logs**3]), inverse)
    return SteinhartHart(a=float(a), b=float(b), c=float(c))


def by_beta(r0_ohm: float, beta_k: float, t0_c: float = 25.0) -> SteinhartHart:
    """Return a thermistor of a beta as coefficients: 1/T = 1/T₀ + ln(R/R₀)/B, so C is 0.

    Raises
    ------
    OutOfRange
        If ohms or beta are not above 0.

    References
    ----------
    docs/methods D3: good to half a kelvin within 30 K of T₀.
    """
    if not r0_ohm > 0:
        raise OutOfRange("resistance of the thermistor", r0_ohm, 0.0, float("inf"), "Ω")
    if not beta_k > 0:
        raise OutOfRange("beta", beta_k, 1000.0, 8000.0, "K")
    return SteinhartHart(a=1 / (t0_c + KELVIN_AT_0_C) - float(np.log(r0_ohm)) / beta_k, b=1 / beta_k, c=0.0)
