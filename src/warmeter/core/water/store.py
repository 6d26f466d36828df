"""A tank or tub as one warm mass: time to heat up (L4, L5) and standing loss."""

from dataclasses import dataclass
from math import inf, log

from warmeter.core.errors import OutOfRange, within
from warmeter.core.units import J_PER_KWH

WATER_J_KG_K = 4186.0
WATER_KG_L = 0.998


@dataclass(frozen=True, slots=True, kw_only=True)
class WarmWater:
    """A store: volume [L], density [kg/L], specific heat [J/(kg K)], loss to around it [W/K]."""

    volume_l: float
    density_kg_l: float = WATER_KG_L
    specific_j_kg_k: float = WATER_J_KG_K
    loss_w_k: float = 0.0

    def __post_init__(self) -> None:
        if not 0 < self.volume_l <= 1e6:
            raise OutOfRange("volume", self.volume_l, 0.0, 1e6, "L")
        within("loss", self.loss_w_k, 0.0, 1e5, "W/K")

    @property
    def heat_capacity_j_k(self) -> float:
        """Heat that warms it by a kelvin [J/K]."""
        return self.volume_l * self.density_kg_l * self.specific_j_kg_k

    def useful_kwh(self, start_c: float, target_c: float) -> float:
        """Return the heat between two temperatures [kWh]; negative where it cools."""
        return self.heat_capacity_j_k * (target_c - start_c) / J_PER_KWH

    def standing_w(self, water_c: float, ambient_c: float) -> float:
        """Return what standing at a temperature loses [W]."""
        return self.loss_w_k * (water_c - ambient_c)

    def steady_c(self, power_w: float, ambient_c: float) -> float:
        """Return the temperature that a power holds for ever [°C]; infinite without loss."""
        if self.loss_w_k == 0:
            return inf if power_w > 0 else ambient_c
        return ambient_c + power_w / self.loss_w_k

    def heat_up_s(self, *, start_c: float, target_c: float, power_w: float, ambient_c: float) -> float | None:
        """Return the time to reach a temperature [s], 0 if it is there already, None if never.

        Notes
        -----
        docs/methods L4, L5: without loss t = C Δθ/P; else with θ_ss = θ_a + P/UA,
        t = (C/UA) ln((θ_ss − θ_0)/(θ_ss − θ_t)); unreachable where θ_t ≥ θ_ss.
        """
        if target_c <= start_c:
            return 0.0
        if self.loss_w_k == 0:
            return self.heat_capacity_j_k * (target_c - start_c) / power_w if power_w > 0 else None
        steady = self.steady_c(power_w, ambient_c)
        if target_c >= steady:
            return None
        return self.heat_capacity_j_k / self.loss_w_k * log((steady - start_c) / (steady - target_c))
