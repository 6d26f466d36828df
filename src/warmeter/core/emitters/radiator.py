"""Radiators: what they give at a flow (C1, C2)."""

from dataclasses import dataclass
from math import log

from warmeter.core.errors import OutOfRange, within

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
        return log_mean(self.flow_c - self.room_c, self.return_c - self.room_c)


RATED_AT = WaterTemperatures(75.0, 65.0, 20.0)


def log_mean(warm_k: float, cool_k: float) -> float:
    """Return the logarithmic mean of two excess temperatures [K]; the one value where both are the same."""
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
