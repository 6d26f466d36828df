"""From a survey to watts a kelvin and joules a kelvin: design load (A3) and two nodes (B7)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from warmeter.core.errors import OutOfRange
from warmeter.core.thermal.network import Link, RcNetwork

MassClass = Literal["very_light", "light", "medium", "heavy", "very_heavy"]

AIR_WH_M3K = 0.34  # heat capacity of air as rounded in EN 12831
AIR_J_M3K = 1206.0
SURFACE_PER_FLOOR = 4.5  # ISO 13790: all inside surfaces over floor area
AIR_TO_SURFACE_W_M2K = 3.45
SURFACE_TO_MASS_W_M2K = 9.1
FURNITURE_J_M2K = 10_000.0
# ISO 13790 table 12: heat capacity [J/K] and effective mass area [m2] a square metre of floor.
MASS_J_M2K: dict[str, float] = {
    "very_light": 80e3,
    "light": 110e3,
    "medium": 165e3,
    "heavy": 260e3,
    "very_heavy": 370e3,
}
MASS_AREA: dict[str, float] = {"very_light": 2.5, "light": 2.5, "medium": 2.5, "heavy": 3.0, "very_heavy": 3.5}


@dataclass(frozen=True, slots=True, kw_only=True)
class Element:
    """One part of a room's envelope.

    Parameters
    ----------
    name : str
        As on the drawing.
    area_m2, u_w_m2k : float
        Area and U-value.
    to : {"outside", "unheated", "adjacent", "ground"}
        What lies behind it.
    factor : float
        b of an unheated space, f_gw of the ground (ratio).
    beyond_c : float or None
        Temperature of an adjacent heated room [°C].
    """

    name: str
    area_m2: float
    u_w_m2k: float
    to: Literal["outside", "unheated", "adjacent", "ground"] = "outside"
    factor: float = 1.0
    beyond_c: float | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.area_m2 <= 10_000:
            raise OutOfRange(f"area of {self.name}", self.area_m2, 0.0, 10_000.0, "m2")
        if not 0.02 <= self.u_w_m2k <= 10:
            raise OutOfRange(f"U-value of {self.name}", self.u_w_m2k, 0.02, 10.0, "W/(m2 K)")


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignConditions:
    """Temperatures and allowances of a design load; temperatures in °C, bridge in W/(m2 K)."""

    indoor_c: float
    outdoor_c: float
    annual_mean_c: float
    bridge_w_m2k: float
    air_change_1_h: float
    reheat_w_m2: float

    def __post_init__(self) -> None:
        if not self.outdoor_c < self.indoor_c:
            raise OutOfRange("design outdoor temperature", self.outdoor_c, -60.0, self.indoor_c, "°C")


def element_load_w(element: Element, at: DesignConditions, u_w_m2k: float | None = None) -> float:
    """Return what one element loses, by its own U-value or another [W] (A3)."""
    area, u = element.area_m2, element.u_w_m2k if u_w_m2k is None else u_w_m2k
    if element.to == "ground":
        return 1.45 * element.factor * area * u * (at.indoor_c - at.annual_mean_c)
    if element.to == "adjacent":
        beyond = at.indoor_c if element.beyond_c is None else element.beyond_c
        return area * u * (at.indoor_c - beyond)
    share = element.factor if element.to == "unheated" else 1.0
    return share * area * (u + at.bridge_w_m2k) * (at.indoor_c - at.outdoor_c)


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomRc:
    """A room as air node, fabric node and, where heat comes late, an emitter node.

    Parameters
    ----------
    air_out_w_k, air_fabric_w_k, fabric_out_w_k : float
        Conductances [W/K].
    air_j_k, fabric_j_k : float
        Heat capacities [J/K].
    emitter_lag_s : float
        Time constant of the emitter; 0 gives its heat at once [s].
    convective : float
        Share of the emitter's heat that goes to the air (ratio).
    """

    air_out_w_k: float
    air_fabric_w_k: float
    fabric_out_w_k: float
    air_j_k: float
    fabric_j_k: float
    emitter_lag_s: float = 0.0
    convective: float = 1.0

    @property
    def loss_w_k(self) -> float:
        """Steady heat loss to outdoors from the air [W/K]."""
        through_fabric = self.air_fabric_w_k * self.fabric_out_w_k / (self.air_fabric_w_k + self.fabric_out_w_k)
        return self.air_out_w_k + through_fabric

    def network(self) -> RcNetwork:
        """Return air and fabric as a network with the boundary ``out``."""
        return RcNetwork(
            capacities_j_k={"air": self.air_j_k, "fabric": self.fabric_j_k},
            boundaries=["out"],
            links=[
                Link("air", "out", self.air_out_w_k),
                Link("air", "fabric", self.air_fabric_w_k),
                Link("fabric", "out", self.fabric_out_w_k),
            ],
        )


def room_from_survey(
    *,
    floor_area_m2: float,
    volume_m3: float,
    air_change_1_h: float,
    windows: Sequence[Element],
    opaque: Sequence[Element],
    mass_class: MassClass,
    bridge_w_m2k: float = 0.0,
) -> RoomRc:
    """Return a room's two nodes from what a survey knows; right within about 30 %.

    Raises
    ------
    OutOfRange
        If the opaque elements lose more than the inside surfaces can carry.

    References
    ----------
    ISO 13790 simple hourly method, merged to two nodes; docs/methods B7.
    """
    air_out = AIR_WH_M3K * air_change_1_h * volume_m3 + sum(e.area_m2 * e.u_w_m2k for e in windows)
    through_opaque = sum(e.area_m2 * (e.u_w_m2k + bridge_w_m2k) for e in opaque)
    mass_area = MASS_AREA[mass_class] * floor_area_m2
    resistance = 1 / (AIR_TO_SURFACE_W_M2K * SURFACE_PER_FLOOR * floor_area_m2) + 1 / (
        SURFACE_TO_MASS_W_M2K * mass_area
    )
    air_fabric = 1 / resistance
    if not 0 < through_opaque < air_fabric:
        raise OutOfRange("loss through opaque elements", through_opaque, 0.0, air_fabric, "W/K")
    return RoomRc(
        air_out_w_k=air_out,
        air_fabric_w_k=air_fabric,
        fabric_out_w_k=1 / (1 / through_opaque - resistance),
        air_j_k=AIR_J_M3K * volume_m3 + FURNITURE_J_M2K * floor_area_m2,
        fabric_j_k=MASS_J_M2K[mass_class] * floor_area_m2,
    )
