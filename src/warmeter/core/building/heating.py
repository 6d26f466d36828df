"""What a room's heaters give at the real flow temperature, against what the room needs."""

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.losses import RoomLoss, loss_of, safe_loss_w
from warmeter.core.building.room_envelope import design_c, envelope_of, floor_area_m2
from warmeter.core.ducts.duct_air import duct_output_w
from warmeter.core.emitters.cycling import SourceCycle, ValveState, source_cycle, valve_in_steady_room
from warmeter.core.emitters.lockshield_balance import drop_kpa, preset_kv, target_return, water_flow
from warmeter.core.emitters.radiator import WaterTemperatures, output_w, rated_at_50_w
from warmeter.core.emitters.split_unit import RATED_OUTDOOR_C, SplitOutput, SplitRating, capacity_w, split_output
from warmeter.core.emitters.warm_floor import FloorCheck, check_floor
from warmeter.core.errors import OutOfRange
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Room
from warmeter.core.thermal.heat_pump import cop_at
from warmeter.core.units import kelvin_from

HOTTEST_FLOW_C = 90.0
COLDEST_C = -50.0
USUAL_STEP_K = 0.5


def split_heating(heater: Heater) -> SplitRating:
    """Return a split unit's heating by its plate (C7)."""
    assert heater.split is not None  # its document refuses a split unit without
    return SplitRating(
        capacity_w=heater.rated_heat_w,
        efficiency=heater.split.cop,
        rated_outdoor_c=RATED_OUTDOOR_C["heat"],
        capacity_slope_1_k=heater.split.heat_slope_1_k,
        efficiency_slope_1_k=heater.split.cop_slope_1_k,
        degradation=heater.split.degradation,
    )


def split_cooling(heater: Heater) -> SplitRating | None:
    """Return a split unit's cooling by its plate, None if it only heats (C7)."""
    plate = heater.split
    if plate is None or plate.cooling_w is None:
        return None
    return SplitRating(
        capacity_w=plate.cooling_w,
        efficiency=plate.eer,
        rated_outdoor_c=RATED_OUTDOOR_C["cool"],
        capacity_slope_1_k=plate.cooling_slope_1_k,
        efficiency_slope_1_k=plate.eer_slope_1_k,
        degradation=plate.degradation,
    )


FULL_LOAD_W = 1e9  # more than any unit gives
# Outdoor temperatures at which a plate's range is told [°C].
HEATING_RANGE_C, COOLING_RANGE_C = (-8.0, -3.0, 2.0, 7.0), (25.0, 30.0, 35.0, 40.0)


def split_range(heater: Heater) -> list[tuple[Literal["heat", "cold"], float, SplitOutput]]:
    """Return (mode, outdoor temperature [°C], full output) of a split unit over its usual range, as far as it is known."""
    modes: tuple[tuple[Literal["heat", "cold"], SplitRating | None, tuple[float, ...]], ...] = (
        ("heat", split_heating(heater), HEATING_RANGE_C),
        ("cold", split_cooling(heater), COOLING_RANGE_C),
    )
    found = []
    for mode, rating, outdoors_c in modes:
        for outdoor_c in outdoors_c if rating is not None else ():
            assert rating is not None
            with suppress(OutOfRange):
                found.append((mode, outdoor_c, split_output(rating, outdoor_c=outdoor_c, load_w=FULL_LOAD_W)))
    return found


def heat_over_draw(heater: Heater, source: Source, outdoor_c: Floats) -> Floats:
    """Return a heater's heat over what is drawn for it, shape as given (ratio).

    A split unit's own COP at full load, whatever it hangs on, never below 1 (C7); else its source's: a heat
    pump's COP (C8), a boiler's efficiency, 1 for direct electric.
    """
    if heater.kind == "split_unit":
        plate = split_heating(heater)
        return np.maximum(
            1.0, plate.efficiency * (1 + plate.efficiency_slope_1_k * (outdoor_c - plate.rated_outdoor_c))
        )
    if source.kind == "heat_pump":
        return cop_at(source.cop_points, outdoor_c)
    return np.full(outdoor_c.shape, source.efficiency if source.kind == "boiler" else 1.0)


def cold_over_draw(heater: Heater, outdoor_c: Floats) -> Floats:
    """Return what a split unit takes away over what it draws, at full load, never below 1 (ratio; C7)."""
    plate = split_cooling(heater)
    if plate is None:
        return np.ones(outdoor_c.shape)
    return np.maximum(1.0, plate.efficiency * (1 + plate.efficiency_slope_1_k * (outdoor_c - plate.rated_outdoor_c)))


def full_cool_w(home: Home, room_id: str) -> float:
    """Return the heat that a room's cooling takes away when on, by its plates; 0 without [W]."""
    return sum(h.split.cooling_w or 0.0 for h in home.heaters_of(room_id) if h.split is not None)


@dataclass(frozen=True, slots=True, kw_only=True)
class ValveWork:
    """A proportional valve in its room: how far under the setpoint the room lies on the design day [K], how far the
    valve is open then and in usual winter weather (ratio), and the radiators' output over the room's loss (ratio)."""

    droop_k: float
    opening: float
    mild_opening: float
    oversize: float


def valve_work(home: Home, heater: Heater) -> ValveWork | None:
    """Return how a proportional valve works: it closes half its band above the setpoint (C10).

    None for heaters that switch, or where the room's radiators together cannot hold it. Usual winter weather is half
    way between the design day and the room.
    """
    if heater.kind != "radiator":
        return None
    room = home.room(heater.room_id)
    inside, loss = design_c(room), loss_of(home, room)
    cold, mild = (_valve(home, heater, outdoor) for outdoor in (loss.outdoor_c, (loss.outdoor_c + inside) / 2))
    if cold.is_saturated:
        return None
    return ValveWork(
        droop_k=inside - cold.room_c,
        opening=cold.opening,
        mild_opening=mild.opening,
        oversize=room_output_w(home, room.id) / max(1.0, loss.safe_w),
    )


def _valve(home: Home, heater: Heater, outdoor_c: float) -> ValveState:
    room = home.room(heater.room_id)
    inside, loss = design_c(room), loss_of(home, room)
    return valve_in_steady_room(
        closes_c=inside + heater.band_k / 2,
        band_k=heater.band_k,
        full_heat_w=max(1.0, room_output_w(home, room.id)),
        loss_w_k=max(0.1, loss.safe_w / loss.fall_k),
        outdoor_c=outdoor_c,
    )


def floor_check(home: Home, heater: Heater, load_w: float) -> FloorCheck:
    """Return a warm floor's surface under a load against its limit (C6)."""
    room = home.room(heater.room_id)
    return check_floor(
        load_w,
        area_m2=heater.free_floor_m2 or floor_area_m2(home, room),
        room_c=design_c(room),
        zone="bath" if room.use == "bath" else "occupied",
        limit_c=heater.surface_limit_c,
    )


def heater_output_w(home: Home, heater: Heater, *, outdoor_c: float, flow_c: float | None = None) -> float:
    """Return what a heater gives to its room at design temperature [W].

    ``flow_c`` overrides the source's flow [°C]; without either a radiator gives what its plate says. A warm
    floor never gives more than its surface limit allows.
    """
    room_c = design_c(home.room(heater.room_id))
    if heater.kind == "radiator":
        source = home.source(heater.source_id)
        flow = source.flow_c if flow_c is None else flow_c
        if flow is None:
            return heater.rated_heat_w
        back = flow - source.spread_k
        if back <= room_c + 0.1:
            return 0.0
        rated = rated_at_50_w(heater.rated_heat_w, heater.rated_excess_k, exponent=heater.exponent)
        return output_w(rated, WaterTemperatures(flow, back, room_c), exponent=heater.exponent)
    if heater.kind == "warm_floor":
        found = floor_check(home, heater, 0.0)
        area = heater.free_floor_m2 or floor_area_m2(home, home.room(heater.room_id))
        return min(heater.rated_heat_w, found.most_w_m2 * area)
    if heater.kind == "split_unit":
        return capacity_w(split_heating(heater), outdoor_c)
    return heater.rated_heat_w


def room_output_w(home: Home, room_id: str, *, outdoor_c: float | None = None, flow_c: float | None = None) -> float:
    """Return what heaters and vents of a room give together, at the design temperature if none is given [W]."""
    cold = home.design.outdoor_c if outdoor_c is None else outdoor_c
    heaters = sum(heater_output_w(home, h, outdoor_c=cold, flow_c=flow_c) for h in home.heaters_of(room_id))
    return heaters + sum(duct_output_w(system, room_id) for system in home.ducts)


def typed_step_k(home: Home, room_id: str) -> float:
    """Return in which steps a room's own device takes a temperature: whole ones in a home that counts in °F [K]."""
    if home.temperature_unit == "F":
        return kelvin_from(1.0, "F")
    heater = home.heater_of(room_id)
    return USUAL_STEP_K if heater is None else heater.step_k


def full_heat_w(home: Home, room_id: str) -> float:
    """Return the heat that a simulation gives a room when all its heaters are on, at least 1 W [W]."""
    return max(1.0, room_output_w(home, room_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class RadiatorBalance:
    """Water that gives a radiator just its part of the load: return [°C], L/h; None where it cannot.

    ``kv_m3_h`` is what its valve is to be set to, None where the pump's pressure is not typed or does not reach;
    ``drop_kpa`` what it loses as it is set, None where nobody looked.
    """

    heater: Heater
    load_w: float
    most_w: float
    return_c: float | None
    litres_h: float | None
    kv_m3_h: float | None
    drop_kpa: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomHeating:
    """A room's heaters against its loss.

    ``copes_to_c`` is the outdoor temperature down to which they hold the room (None: below −50 °C);
    ``settles_c`` what the room comes to at the design temperature if they are short; ``flow_needed_c`` the
    flow at which they just do (None without radiators on water, ``is_out_of_reach`` above 90 °C).
    """

    room: Room
    loss: RoomLoss
    output_w: float
    copes_to_c: float | None
    settles_c: float
    flow_needed_c: float | None
    is_out_of_reach: bool
    balance: tuple[RadiatorBalance, ...]

    @property
    def share(self) -> float:
        """Output over what the room needs (ratio)."""
        return self.output_w / self.loss.safe_w if self.loss.safe_w > 0 else float("inf")


def _root(f: Callable[[float], float], low: float, high: float) -> float:
    """Return where a rising function crosses zero between two ends, to a thousandth."""
    while high - low > 1e-3:
        middle = (low + high) / 2
        low, high = (middle, high) if f(middle) < 0 else (low, middle)
    return (low + high) / 2


def heating_of(home: Home, room: Room, *, in_full: bool = True) -> RoomHeating:
    """Return a room's heaters against its loss; without ``in_full`` no cold coped with, settling and balance."""
    envelope, inside = envelope_of(home, room), design_c(room)
    loss = loss_of(home, room)
    given = room_output_w(home, room.id)

    def surplus(outdoor: float) -> float:
        needs = safe_loss_w(home, envelope, inside, outdoor)
        return room_output_w(home, room.id, outdoor_c=outdoor) - needs

    copes: float | None = None
    if in_full and surplus(COLDEST_C) < 0:
        copes = _root(surplus, COLDEST_C, inside - 0.2)
    settles = inside
    if in_full and given < loss.safe_w:
        settles = _root(lambda c: safe_loss_w(home, envelope, c, loss.outdoor_c) - given, loss.outdoor_c, inside)
    needed, beyond = _flow_needed(home, room, loss.safe_w, inside)
    return RoomHeating(
        room=room,
        loss=loss,
        output_w=given,
        copes_to_c=copes,
        settles_c=settles,
        flow_needed_c=needed,
        is_out_of_reach=beyond,
        balance=_balance(home, room, loss.safe_w, inside, given) if in_full else (),
    )


def loss_share_w(home: Home, room: RoomHeating, heater: Heater) -> float:
    """Return a heater's part of its room's loss, in proportion to what each gives [W]."""
    own = heater_output_w(home, heater, outdoor_c=home.design.outdoor_c)
    return room.loss.safe_w * own / room.output_w if room.output_w > 0 else 0.0


def water_radiators(home: Home, room_id: str) -> tuple[tuple[Heater, Source], ...]:
    """Return a room's radiators whose source has a flow temperature."""
    pairs = ((h, home.source(h.source_id)) for h in home.heaters_of(room_id) if h.kind == "radiator")
    return tuple((heater, source) for heater, source in pairs if source.flow_c is not None)


def _flow_needed(home: Home, room: Room, load_w: float, inside: float) -> tuple[float | None, bool]:
    radiators = water_radiators(home, room.id)
    if not radiators or load_w <= 0:
        return None, False
    spread = radiators[0][1].spread_k

    def surplus(flow: float) -> float:
        return room_output_w(home, room.id, flow_c=flow) - load_w

    if surplus(HOTTEST_FLOW_C) < 0:
        return HOTTEST_FLOW_C, True
    return _root(surplus, inside + spread, HOTTEST_FLOW_C), False


def _balance(home: Home, room: Room, load_w: float, inside: float, given: float) -> tuple[RadiatorBalance, ...]:
    """Return each radiator's water: the load shared in proportion to what each gives."""
    rows = []
    for heater, source in water_radiators(home, room.id):
        flow = source.flow_c or 0.0
        if flow <= inside or given <= 0:
            continue
        own = heater_output_w(home, heater, outdoor_c=home.design.outdoor_c)
        load = load_w * own / given
        rated = rated_at_50_w(heater.rated_heat_w, heater.rated_excess_k, exponent=heater.exponent)
        found = target_return(rated, load, flow_c=flow, room_c=inside, exponent=heater.exponent)
        litres = water_flow(load, flow_c=flow, return_c=found.return_c)[1] if found.return_c is not None else None
        rows.append(
            RadiatorBalance(
                heater=heater,
                load_w=load,
                most_w=found.most_w,
                return_c=found.return_c,
                litres_h=litres,
                kv_m3_h=_preset(heater, source, litres),
                drop_kpa=None if litres is None or heater.kv_m3_h is None else drop_kpa(litres, heater.kv_m3_h),
            )
        )
    return tuple(rows)


def _preset(heater: Heater, source: Source, litres_h: float | None) -> float | None:
    """Return the kv that leaves a radiator its water (M4), None where the pressure is not known or does not reach."""
    left = None if source.differential_kpa is None else source.differential_kpa - heater.pipe_loss_kpa
    return None if litres_h is None or left is None or left <= 0 else preset_kv(litres_h, left)


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceSummary:
    """A source against all its rooms on the design day.

    ``load_w`` leaves out heat between heated rooms; ``lowest_flow_c`` serves all radiators, ``held_by`` is the
    room that needs it; ``cycle`` how it cycles at a mild load of a quarter.
    """

    source: Source
    load_w: float
    lowest_flow_c: float | None
    held_by: Room | None
    is_within: bool
    cycle: SourceCycle | None


def source_summary(home: Home, source: Source, rooms: tuple[RoomHeating, ...]) -> SourceSummary:
    """Return what a source must do; ``rooms`` are the home's rooms as worked out by ``heating_of``."""
    served = {h.room_id for h in home.heaters if h.source_id == source.id}
    mine = [r for r in rooms if r.room.id in served]
    load = sum(max(0.0, r.loss.plant_w) for r in mine)
    needing = [r for r in mine if r.flow_needed_c is not None]
    worst = max(needing, key=lambda r: r.flow_needed_c or 0.0, default=None)
    cycle = None
    if source.least_w and source.water_j_k and load > 0:
        cycle = source_cycle(
            least_w=source.least_w, load_w=load / 4, water_j_k=source.water_j_k, hysteresis_k=source.hysteresis_k
        )
    return SourceSummary(
        source=source,
        load_w=load,
        lowest_flow_c=worst.flow_needed_c if worst else None,
        held_by=worst.room if worst else None,
        is_within=source.most_w is None or load <= source.most_w + 1e-9,
        cycle=cycle,
    )
