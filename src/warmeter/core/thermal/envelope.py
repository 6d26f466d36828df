"""Walls, floors and air of a building: U-values (A1, A2), leaks (A4), bridges (A5), a rough cooling load (A6)."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import log, pi

from warmeter.core.errors import OutOfRange, within
from warmeter.core.thermal.survey import AIR_WH_M3K

RSE_M2K_W = 0.04
RSI_FLOOR_M2K_W = 0.17


@dataclass(frozen=True, slots=True, kw_only=True)
class Layer:
    """One layer of an element: thickness [m] and conductivity [W/(m K)], or a resistance of its own [m2 K/W]."""

    name: str
    thickness_m: float | None = None
    conductivity_w_mk: float | None = None
    resistance_m2k_w: float | None = None

    @property
    def own_resistance_m2k_w(self) -> float:
        """Resistance of the layer [m2 K/W]; ``OutOfRange`` if it has none."""
        if self.resistance_m2k_w is not None:
            return within(f"resistance of {self.name}", self.resistance_m2k_w, 0.0, 100.0, "m2 K/W")
        thickness = within(f"thickness of {self.name}", self.thickness_m or 0.0, 1e-6, 5.0, "m")
        return thickness / within(
            f"conductivity of {self.name}", self.conductivity_w_mk or 0.0, 0.005, 400.0, "W/(m K)"
        )


def resistance_m2k_w(layers: Sequence[Layer], *, rsi_m2k_w: float = 0.13, rse_m2k_w: float = RSE_M2K_W) -> float:
    """Return the thermal resistance of a layered element from air to air; U is its inverse [m2 K/W].

    References
    ----------
    ISO 6946; docs/methods A1.

    Examples
    --------
    >>> round(1 / resistance_m2k_w([Layer(name="brick", thickness_m=0.215, conductivity_w_mk=0.77)]), 3)
    2.226
    """
    return rsi_m2k_w + sum(layer.own_resistance_m2k_w for layer in layers) + rse_m2k_w


@dataclass(frozen=True, slots=True, kw_only=True)
class SlabU:
    """U-value of a slab on ground [W/(m2 K)] with its characteristic size, equivalent thickness [m] and branch."""

    u_w_m2k: float
    size_m: float
    equivalent_m: float
    branch: str


def ground_slab_u(
    *,
    area_m2: float,
    exposed_perimeter_m: float,
    wall_thickness_m: float,
    ground_w_mk: float,
    floor_m2k_w: float = 0.0,
    rsi_m2k_w: float = RSI_FLOOR_M2K_W,
    rse_m2k_w: float = RSE_M2K_W,
) -> SlabU:
    """Return the U-value of a slab on ground; only edges towards outside or unheated count as exposed.

    Raises
    ------
    OutOfRange
        If the area is not within 4 to 2000 m2 or nothing of the edge is exposed.

    References
    ----------
    ISO 13370; docs/methods A2.
    """
    within("slab area", area_m2, 4.0, 2000.0, "m2")
    if not exposed_perimeter_m > 0:
        raise OutOfRange("exposed edge", exposed_perimeter_m, 0.0, 1000.0, "m")
    size = area_m2 / (0.5 * exposed_perimeter_m)
    equivalent = wall_thickness_m + ground_w_mk * (rsi_m2k_w + floor_m2k_w + rse_m2k_w)
    if equivalent < size:
        u = 2 * ground_w_mk / (pi * size + equivalent) * log(pi * size / equivalent + 1)
        return SlabU(u_w_m2k=u, size_m=size, equivalent_m=equivalent, branch="moderate")
    u = ground_w_mk / (0.457 * size + equivalent)
    return SlabU(u_w_m2k=u, size_m=size, equivalent_m=equivalent, branch="well-insulated")


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


def bridge_loss_w_k(bridges: Sequence[tuple[float, float]]) -> float:
    """Return the loss of thermal bridges, given as (ψ [W/(m K)], length [m]), in W/K.

    Spread over a façade it is this over the façade's area; never add both (ISO 14683; docs/methods A5).
    """
    return sum(psi * length for psi, length in bridges)


def cooling_load_w(
    *, loss_w_k: float, outdoor_c: float, indoor_c: float, solar_w: float, internal_w: float, latent_factor: float = 1.0
) -> tuple[float, float]:
    """Return a rough (sensible, total) cooling load [W]; heavy rooms shave the peak (docs/methods A6)."""
    sensible = loss_w_k * (outdoor_c - indoor_c) + solar_w + internal_w
    return sensible, sensible * within("latent factor", latent_factor, 1.0, 2.0)
