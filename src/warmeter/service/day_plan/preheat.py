"""Rooms in a home's plan of the day: gathered from its forecast, and brought back as blocks run through the simulation."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date

from warmeter.core.arrays import Floats
from warmeter.core.day_plan.wanted import PlanTime
from warmeter.core.edits.preheat_edits import with_preheats
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.day_forecast import DayForecast
from warmeter.core.home.document import Home
from warmeter.core.home.preheats import PlannedPreheat, PreheatZone
from warmeter.core.preheat.coupled_rooms import coupled
from warmeter.core.preheat.movable_room import MovableRoom, movable_room
from warmeter.core.preheat.zone_blocks import (
    PlannedZone,
    forecast_figures,
    promised_figures,
    without_planned,
    zone_blocks,
)
from warmeter.core.thermal.room_fit import total_of
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.forecast.day_forecasts import day_forecast

_ROOMS: Cache["PlannedRooms"] = Cache(12)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedRooms:
    """Rooms of a plan: the home without pre-heats on its dates, its zones with their rooms, and what was left out."""

    home: Home
    zones: tuple[tuple[PreheatZone, PlannedZone], ...]
    left_out: tuple[tuple[str, str], ...]

    @property
    def rooms(self) -> tuple[MovableRoom, ...]:
        """Every room."""
        return tuple(room for _, zone in self.zones for room in zone.rooms)


def planned_rooms(app: App, home: Home, time: PlanTime, price: Floats) -> PlannedRooms:
    """Return the rooms that a home's plan may warm or cool ahead; ``price`` by slot [currency/kWh]."""
    if not home.plan_practice.preheats:
        return PlannedRooms(home=home, zones=(), left_out=())
    # Wants, pins and kept plans change nothing of it.
    alike = replace(
        home,
        wanted_runs=(),
        wanted_charges=(),
        wanted_hours=(),
        water_stores=(),
        humidity_bands=(),
        planned_days=(),
        plan_practice=replace(home.plan_practice, quiet=(), battery=None, main_fuse_a=None),
    )
    stamps = app.readings.import_stamp(home.id), app.work.fit_stamp(home.id), app.as_of_ms(home.id)
    key = str(app.engine.url), alike, time.on, price.tobytes(), stamps
    return _ROOMS.get(key, lambda: _planned_rooms(app, home, time, price))


def _planned_rooms(app: App, home: Home, time: PlanTime, price: Floats) -> PlannedRooms:
    wanted = home.plan_practice.preheats
    end_ms = int(time.start_ms[-1]) + 1
    bare = without_planned(home, time.clock, [each.zone_id for each in wanted], int(time.start_ms[0]), end_ms)
    zones, left_out = [], []

    def forecasts(of: Home) -> DayForecast:
        return day_forecast(app, of, 0, time.on, days=of.plan_practice.days)

    try:
        forecast = forecasts(bare)
    except NotKnowable as error:
        return PlannedRooms(home=bare, zones=(), left_out=tuple((each.zone_id, str(error)) for each in wanted))
    for each in wanted:
        found, why = _zone_rooms(bare, forecast, each, time)
        left_out += [(each.zone_id, words) for words in why]
        if found:
            planned = PlannedZone(
                zone=bare.zone_of_id(each.zone_id),
                rooms=found,
                price=price,
                start_ms=int(time.start_ms[0]),
                step_min=time.step_min,
            )
            zones.append((each, planned))
    changes = {each.zone_id: each.most_changes for each in wanted}
    together = coupled(
        bare,
        time.clock,
        [zone for _, zone in zones],
        changes,
        lambda edited: {room.room.id: room for room in forecasts(edited).rooms},
    )
    paired = tuple((each, zone) for (each, _), zone in zip(zones, together, strict=True))
    return PlannedRooms(home=bare, zones=paired, left_out=tuple(left_out))


def _zone_rooms(
    home: Home, forecast: DayForecast, wanted: PreheatZone, time: PlanTime
) -> tuple[tuple[MovableRoom, ...], list[str]]:
    found, why = [], []
    guard = home.guard_of(home.zone_of_id(wanted.zone_id))
    for room in forecast.rooms:
        if room.zone.id == wanted.zone_id:
            try:
                found.append(movable_room(home, room, guard, step_min=time.step_min, beyond_k=wanted.beyond_k))
            except NotKnowable as error:
                why.append(str(error))
    if not found and not why:
        why.append("No room of it has a heater that is modelled.")
    return tuple(found), why


def planned_preheats(
    app: App, planned: PlannedRooms, on: date, heat_kw: Mapping[str, Floats]
) -> tuple[PlannedPreheat, ...]:
    """Return each zone's blocks for a plan's heat [kW], with what the plan promises and the full simulation says of them."""
    home, clock = planned.home, app.clock(planned.home)
    blocks = {}
    for practice, zone in planned.zones:
        blocks[zone.zone.id] = zone_blocks(planned.home, clock, zone, heat_kw, practice.most_changes)
        home = with_preheats(home, zone.zone.id, clock, blocks[zone.zone.id])
    if not planned.zones:
        return ()
    forecast = day_forecast(app, home, 0, on, days=home.plan_practice.days)
    found = []
    for practice, zone in planned.zones:
        guard = planned.home.guard_of(zone.zone)
        mine = [f for f in forecast.rooms if any(f.room.id == room.forecast.room.id for room in zone.rooms)]
        rooms = [movable_room(home, room, guard, step_min=zone.step_min, beyond_k=practice.beyond_k) for room in mine]
        simulated = forecast_figures(zone, rooms)
        spread = total_of([room.costed.cost for room in mine if room.costed.cost is not None])
        found.append(
            PlannedPreheat(
                zone_id=zone.zone.id,
                blocks=blocks[zone.zone.id],
                written=forecast_figures(zone, zone.rooms),
                promised=promised_figures(zone, heat_kw),
                simulated=simulated,
                cost_low=simulated.cost + spread.low - spread.value,
                cost_high=simulated.cost + spread.high - spread.value,
                unreached_k=max(float(room.found.too_cold_k.max()) for room in zone.rooms),
            )
        )
    return tuple(found)
