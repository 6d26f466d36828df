"""How soon still water in a pipe comes to freezing, and what holds it warm (L7)."""

from dataclasses import dataclass
from math import inf, log, pi

from warmeter.core.errors import OutOfRange, within

WATER_J_M3K, COPPER_J_M3K = 4.2e6, 3.4265e6
FREEZING_C, HELD_C = 0.0, 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Pipe:
    """A pipe: outer and inner diameter and insulation [m], conductivity of the insulation [W/(m K)], air on it [W/(m² K)].

    ``metal_j_m3k`` and ``water_j_m3k`` are heat capacities by volume.
    """

    outer_m: float
    inner_m: float
    insulation_m: float
    lambda_w_mk: float = 0.036
    air_w_m2k: float = 10.0
    water_j_m3k: float = WATER_J_M3K
    metal_j_m3k: float = COPPER_J_M3K

    def __post_init__(self) -> None:
        if not 0 < self.inner_m < self.outer_m <= 1:
            raise OutOfRange("inner diameter", self.inner_m, 0.0, self.outer_m, "m")
        within("insulation", self.insulation_m, 0.0, 1.0, "m")
        within("conductivity", self.lambda_w_mk, 0.005, 400.0, "W/(m K)")

    @property
    def resistance_k_m_w(self) -> float:
        """From the water to the air around, for a metre [K m/W]."""
        inner, outer = self.outer_m / 2, self.outer_m / 2 + self.insulation_m
        return log(outer / inner) / (2 * pi * self.lambda_w_mk) + 1 / (2 * pi * outer * self.air_w_m2k)

    @property
    def heat_capacity_j_mk(self) -> float:
        """Of water and pipe, for a metre [J/(m K)]."""
        water = pi * self.inner_m**2 / 4
        metal = pi * (self.outer_m**2 - self.inner_m**2) / 4
        return self.water_j_m3k * water + self.metal_j_m3k * metal

    def freezes_after_s(self, start_c: float, around_c: float) -> float:
        """Return how long still water takes to 0 °C [s]; infinite where it is not freezing around it (docs/methods L7)."""
        if around_c >= FREEZING_C:
            return inf
        if start_c <= FREEZING_C:
            return 0.0
        return self.resistance_k_m_w * self.heat_capacity_j_mk * log((start_c - around_c) / (FREEZING_C - around_c))

    def held_w_m(self, around_c: float, held_c: float = HELD_C) -> float:
        """Return the heat that holds a metre at a temperature, 5 °C if none is given [W/m]; 0 where it is warmer around."""
        return max(0.0, held_c - around_c) / self.resistance_k_m_w
