"""What a circuit carries against what it may (L1)."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

from warmeter.core.errors import OutOfRange, within


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitLoad:
    """A circuit's current and its limit [A], and what may be added, negative where it is too much [W]."""

    current_a: float
    limit_a: float
    spare_w: float

    @property
    def is_within(self) -> bool:
        """Whether it carries no more than it may."""
        return self.current_a <= self.limit_a + 1e-9


def volt_factor(voltage_v: float, phases: int, power_factor: float) -> float:
    """Return the watts of an ampere: U pf, of three phases √3 U pf with U between two of them.

    Raises
    ------
    OutOfRange
        If the volts do not lie in 12 to 1000, or the power factor not above 0 and at most 1.
    """
    within("voltage", voltage_v, 12.0, 1000.0, "V")
    if not 0 < power_factor <= 1:
        raise OutOfRange("power factor", power_factor, 0.0, 1.0)
    return voltage_v * power_factor * (sqrt(3) if phases == 3 else 1.0)


def circuit_load(
    loads_w: Sequence[float],
    *,
    voltage_v: float,
    rating_a: float,
    continuous_factor: float,
    phases: int = 1,
    power_factor: float = 1.0,
) -> CircuitLoad:
    """Return what loads that run three hours or more draw of a circuit.

    Parameters
    ----------
    loads_w : sequence of float
        Loads, 0 or more [W].
    voltage_v : float
        Volts, of three phases between two of them, 12 to 1000 [V].
    rating_a : float
        Of the breaker, up to 630 [A].
    continuous_factor : float
        Share of the rating that they may take, by the local code, above 0 and at most 1.

    Raises
    ------
    OutOfRange
        If a value lies outside of its range.

    Notes
    -----
    docs/methods L1.
    """
    within("rating", rating_a, 1e-9, 630.0, "A")
    if not 0 < continuous_factor <= 1:
        raise OutOfRange("factor of continuous loads", continuous_factor, 0.0, 1.0)
    per_a = volt_factor(voltage_v, phases, power_factor)
    total = sum(within("load", each, 0.0, 1e6, "W") for each in loads_w)
    limit = rating_a * continuous_factor
    return CircuitLoad(current_a=total / per_a, limit_a=limit, spare_w=limit * per_a - total)
