"""A furnace or heat pump and a cooling coil on ducts: stages, fan, vents, and the sensors that may lead."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Name, Spot, Unit

FanMode = Literal["with_heat", "always", "part"]
AirFlow = Annotated[float, Gt(0), Le(20_000), Unit("m³/h")]
Notch = Annotated[int, Ge(0), Le(40)]
# Each notch shuts a twentieth of a vent; its resistance rises by the square of what is left.
MOST_FACTOR = 1e6
TWENTIETHS = tuple(round(1 / (1 - 0.05 * notch) ** 2, 4) for notch in range(11))


@dataclass(frozen=True, slots=True, kw_only=True)
class Vent(Document):
    """A vent: its free area [cm²], the air measured at it (None: nobody measured), how many notches it is shut."""

    id: Id
    name: Name
    room_id: Id
    area_cm2: Annotated[float, Gt(0), Le(20_000), Unit("cm²")] = 200.0
    flow_m3_h: AirFlow | None = None
    notch: Notch = 0
    at: Spot | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatStage(Document):
    """A stage of heat: how much, how far the leading sensors are under the setpoint before it begins, and for how long.

    ``is_auxiliary`` is electric heat beside a heat pump.
    """

    heat_w: Annotated[float, Gt(0), Le(200_000)]
    short_k: Annotated[float, Ge(0), Le(10), Unit("K")] = 0.3
    delay_min: Annotated[float, Ge(0), Le(240)] = 0.0
    is_auxiliary: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorChoice(Document):
    """Rooms whose sensors lead together, by their mean."""

    name: Name
    room_ids: Annotated[tuple[Id, ...], Len(1, 20)]


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomDifference(Document):
    """How far a room was measured from the mean of all rooms, warmer is positive [K]."""

    room_id: Id
    diff_k: Annotated[float, Ge(-30), Le(30), Unit("K")]


@dataclass(frozen=True, slots=True, kw_only=True)
class VentRound(Document):
    """A round of trimming: when the rooms were measured, what was found, and the notches that were set then."""

    on: date
    is_cooling: bool = False
    differences: Annotated[tuple[RoomDifference, ...], Len(1, 60)]
    notches: Annotated[tuple[tuple[Id, Notch], ...], Len(0, 100)] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctSystem(Document):
    """One fan with its ducts.

    ``flow_m3_h`` is all the air that it moves with vents as they are, ``static_pa`` the pressure that the fan makes
    then; ``static_most_pa`` and ``flow_least_m3_h`` are the limits of furnace and coil by their plates. Of the pressure
    ``trunk_share`` is lost in trunk, filter and coil. ``notch_factors`` say by how much each notch multiplies the
    resistance of a vent, from open on; no vent is shut further than ``most_notch`` of ``full_notch``, and of all vent
    area at most ``most_share_shut``. The fan runs with the heat and ``overrun_min`` longer, always, or ``part_min``
    minutes of an hour at least. ``cooling_w`` is what the coil takes away, at ``eer``.
    """

    id: Id
    name: Name
    source_id: Id
    flow_m3_h: AirFlow = 1700.0
    static_pa: Annotated[float, Gt(0), Le(1000), Unit("Pa")] = 100.0
    static_most_pa: Annotated[float, Gt(0), Le(1000), Unit("Pa")] | None = 125.0
    flow_least_m3_h: AirFlow | None = None
    trunk_share: Annotated[float, Ge(0), Le(0.95)] = 0.5
    notch_factors: Annotated[tuple[float, ...], Len(1, 41)] = TWENTIETHS
    full_notch: Annotated[int, Ge(1), Le(40)] = 20
    most_notch: Annotated[int, Ge(0), Le(40)] = 10
    most_share_shut: Annotated[float, Ge(0), Le(0.5)] = 0.2
    fan_w: Annotated[float, Ge(0), Le(5000)] = 350.0
    fan_mode: FanMode = "with_heat"
    part_min: Annotated[float, Ge(0), Le(60)] = 15.0
    overrun_min: Annotated[float, Ge(0), Le(30)] = 2.0
    least_on_min: Annotated[float, Ge(0), Le(60)] = 4.0
    stages: Annotated[tuple[HeatStage, ...], Len(1, 4)]
    cooling_w: Annotated[float, Gt(0), Le(200_000)] | None = None
    eer: Annotated[float, Gt(0.5), Le(15)] = 3.3
    hysteresis_k: Annotated[float, Gt(0), Le(5), Unit("K")] = 0.3
    thermostat_room_id: Id | None = None
    vents: Annotated[tuple[Vent, ...], Len(0, 100)] = ()
    choices: Annotated[tuple[SensorChoice, ...], Len(0, 8)] = ()
    rounds: Annotated[tuple[VentRound, ...], Len(0, 60)] = ()

    def __post_init__(self) -> None:
        if not all(1 <= factor <= MOST_FACTOR for factor in self.notch_factors) or self.notch_factors[0] != 1:
            raise HomeError(f"the notches of {self.name!r} begin with 1 and multiply the resistance by 1 or more")
        if self.most_notch >= len(self.notch_factors):
            raise HomeError(f"{self.name!r} has no factor for notch {self.most_notch}; type one for each notch")

    @property
    def room_ids(self) -> tuple[str, ...]:
        """Rooms that have a vent, each once, in the order of the vents."""
        return tuple(dict.fromkeys(vent.room_id for vent in self.vents))
