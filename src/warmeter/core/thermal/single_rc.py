"""A room as one store and one resistance: closed forms (B1, B2, B3)."""

from dataclasses import dataclass
from math import exp, log

from warmeter.core.errors import OutOfRange
from warmeter.core.units import S_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class SingleRc:
    """One heat store behind one resistance.

    Parameters
    ----------
    resistance_k_w : float
        Resistance to outdoors, > 0 [K/W].
    capacity_j_k : float
        Heat capacity, > 0 [J/K].

    Raises
    ------
    OutOfRange
        If either is not above zero.

    Notes
    -----
    .. math:: C\\,d\\theta/dt = P - (\\theta - \\theta_e)/R

    References
    ----------
    First-order linear differential equation; docs/methods B1.

    Examples
    --------
    >>> room = SingleRc(resistance_k_w=0.02, capacity_j_k=6e6)
    >>> room.time_constant_s
    120000.0
    >>> room.steady_c(power_w=1500, outdoor_c=0)
    30.0
    """

    resistance_k_w: float
    capacity_j_k: float

    def __post_init__(self) -> None:
        for name, value in (("resistance", self.resistance_k_w), ("heat capacity", self.capacity_j_k)):
            if not 0 < value < float("inf"):
                raise OutOfRange(name, value, 0.0, float("inf"))

    @property
    def time_constant_s(self) -> float:
        """Time constant [s]."""
        return self.resistance_k_w * self.capacity_j_k

    def steady_c(self, *, power_w: float, outdoor_c: float) -> float:
        """Return the temperature at which the room settles [°C]; negative power cools."""
        return outdoor_c + self.resistance_k_w * power_w

    def temperature_c(self, *, start_c: float, power_w: float, outdoor_c: float, after_s: float) -> float:
        """Return the temperature after a time of constant power [°C]."""
        steady = self.steady_c(power_w=power_w, outdoor_c=outdoor_c)
        return steady + (start_c - steady) * exp(-after_s / self.time_constant_s)

    def time_to_s(self, *, start_c: float, target_c: float, power_w: float, outdoor_c: float) -> float | None:
        """Return the time to a target [s]; None if it lies behind the start or out of reach."""
        steady = self.steady_c(power_w=power_w, outdoor_c=outdoor_c)
        if steady == target_c:
            return None
        excess = (steady - start_c) / (steady - target_c)
        return self.time_constant_s * log(excess) if excess >= 1 else None

    def initial_rate_k_h(self, *, start_c: float, power_w: float, outdoor_c: float) -> float:
        """Return the first rate of change [K/h]."""
        loss_w = (start_c - outdoor_c) / self.resistance_k_w
        return S_PER_H * (power_w - loss_w) / self.capacity_j_k
