"""What makes and gives heat or cold: sources and heaters, as on their plates."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name, Spot, Unit

HeaterKind = Literal["electric_panel", "radiator", "warm_floor", "fan_unit", "split_unit"]
SourceKind = Literal["direct", "heat_pump", "boiler"]
Fuel = Literal["gas", "oil", "lpg", "pellets", "logs"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Source(Document):
    """Where heat comes from.

    A heat pump's COP is straight between (outdoor °C, COP) points. ``flow_c`` is the water's temperature on
    the design day (None: heaters give what their plates say), ``spread_k`` flow less return, ``most_w`` and
    ``least_w`` the limits of its heat, ``water_j_k`` the water and metal in circulation, ``differential_kpa`` what its
    pump gives to the circuit of a radiator (None: nobody typed it). A boiler burns ``fuel``, with
    ``fuel_kwh`` in a unit of it (None: as usual) at ``fuel_price`` a unit (None: nobody typed one).
    """

    id: Id
    name: Name
    kind: SourceKind
    cop_points: tuple[tuple[float, float], ...] = ()
    flow_c: Annotated[float, Ge(20), Le(95), Unit("°C")] | None = None
    spread_k: Annotated[float, Ge(1), Le(30)] = 5.0
    most_w: Annotated[float, Gt(0), Le(1_000_000)] | None = None
    least_w: Annotated[float, Ge(0), Le(1_000_000)] | None = None
    water_j_k: Annotated[float, Gt(0), Le(1e9)] | None = None
    hysteresis_k: Annotated[float, Gt(0), Le(30)] = 5.0
    efficiency: Annotated[float, Gt(0), Le(1.2)] = 0.9
    fuel: Fuel = "gas"
    fuel_kwh: Annotated[float, Gt(0), Le(100)] | None = None
    fuel_price: Annotated[Decimal, Ge(0), Le(1000)] | None = None
    differential_kpa: Annotated[float, Gt(0), Le(200)] | None = None

    def __post_init__(self) -> None:
        if self.kind == "heat_pump" and not self.cop_points:
            raise HomeError(f"the heat pump {self.name!r} needs its COP at one outdoor temperature or more")
        outdoors = [point[0] for point in self.cop_points]
        if outdoors != sorted(set(outdoors)):
            raise HomeError(f"the COP points of {self.name!r} must stand in rising outdoor temperature")
        if any(not 0 < cop <= 15 for _, cop in self.cop_points):
            raise HomeError(f"a COP of {self.name!r} must be above 0 and at most 15")


@dataclass(frozen=True, slots=True, kw_only=True)
class FanStep(Document):
    """A fan step in the unit's own word, with the share of full capacity that it gives."""

    word: Name
    share: Annotated[float, Gt(0), Le(1)]


@dataclass(frozen=True, slots=True, kw_only=True)
class SplitUnit(Document):
    """A split unit's plate: rated at 7 °C outdoors for heat, at 35 °C for cold; slopes a kelvin (ratios)."""

    cop: Annotated[float, Gt(0.5), Le(15)] = 3.6
    heat_slope_1_k: Annotated[float, Ge(0), Le(0.1)] = 0.02
    cop_slope_1_k: Annotated[float, Ge(0), Le(0.1)] = 0.02
    cooling_w: Annotated[float, Gt(0), Le(100_000)] | None = None
    eer: Annotated[float, Gt(0.5), Le(15)] = 3.3
    cooling_slope_1_k: Annotated[float, Ge(-0.1), Le(0)] = -0.007
    eer_slope_1_k: Annotated[float, Ge(-0.1), Le(0)] = -0.025
    degradation: Annotated[float, Ge(0), Le(0.5)] = 0.1
    fan_steps: Annotated[tuple[FanStep, ...], Len(0, 12)] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Heater(Document):
    """What heats or cools a room.

    ``rated_heat_w`` is its heat by its plate; of a radiator at ``rated_excess_k`` over the room with its
    ``exponent``; of a split unit at 7 °C outdoors. ``band_k`` is the thermostat's or valve's band,
    ``step_k`` and ``step_min`` the finest setting that its own controls take. A warm floor has its free
    area and, where its cover's maker asks for less, a surface limit. Pipes to a
    radiator lose ``pipe_loss_kpa``; its valve is set to ``kv_m3_h`` (None: not looked at). Cloth and furniture keep
    ``clearance_m`` away; ``length_m`` is drawn.
    """

    id: Id
    room_id: Id
    name: Name
    kind: HeaterKind
    source_id: Id
    rated_heat_w: Annotated[float, Gt(0), Le(100_000)]
    band_k: Annotated[float, Ge(0.1), Le(5)] = 0.4
    min_on_min: Annotated[int, Ge(0), Le(120)] = 2
    min_off_min: Annotated[int, Ge(0), Le(120)] = 2
    step_k: Annotated[float, Ge(0.1), Le(2)] = 0.5
    step_min: Annotated[int, Ge(1), Le(60)] = 15
    exponent: Annotated[float, Ge(1), Le(2)] = 1.3
    rated_excess_k: Annotated[float, Ge(10), Le(80)] = 50.0
    free_floor_m2: Annotated[float, Gt(0), Le(2000)] | None = None
    surface_limit_c: Annotated[float, Ge(20), Le(40), Unit("°C")] | None = None
    clearance_m: Annotated[float, Ge(0), Le(5)] = 0.3
    length_m: Annotated[float, Gt(0), Le(20)] = 1.0
    pipe_loss_kpa: Annotated[float, Ge(0), Le(200)] = 1.5
    kv_m3_h: Annotated[float, Gt(0), Le(100)] | None = None
    split: SplitUnit | None = None
    at: Spot | None = None

    def __post_init__(self) -> None:
        if self.kind == "split_unit" and self.split is None:
            raise HomeError(f"the split unit {self.name!r} needs its capacity and efficiency")

    @property
    def may_cool(self) -> bool:
        """Whether it may be cooling: split units do, also those whose plate for it was not typed."""
        return self.kind == "split_unit"
