"""Rooms of a plan beside each other: what is warmed ahead warms its neighbours too."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.day_plan.problem import PlanProblem
from warmeter.core.edits.preheat_edits import with_preheats
from warmeter.core.forecast.day_forecast import RoomForecast
from warmeter.core.home.document import Home
from warmeter.core.preheat.movable_room import MovableRoom, movable_room
from warmeter.core.preheat.zone_blocks import PlannedZone, zone_blocks
from warmeter.core.timegrid import LocalClock


def rooms_alone(price: Floats, step_min: int, rooms: Sequence[MovableRoom]) -> PlanProblem:
    """Return a plan of rooms and nothing else; ``price`` by slot [currency/kWh]."""
    nothing = np.zeros(price.size)
    return PlanProblem(
        step_min=step_min,
        import_price=price,
        export_price=nothing,
        base_kwh=nothing,
        sun_kwh=nothing,
        rooms=tuple(room.heat for room in rooms),
    )


def coupled(
    home: Home,
    clock: LocalClock,
    zones: Sequence[PlannedZone],
    most_changes: Mapping[str, int],
    forecasts: Callable[[Home], Mapping[str, RoomForecast]],
) -> list[PlannedZone]:
    """Return zones whose rooms know how warm the rooms beside them get when they are warmed ahead as well.

    Parameters
    ----------
    home : Home
        Without pre-heats on the plan's dates.
    most_changes : mapping of str to int
        Changes a day that the device of each zone holds.
    forecasts : function
        Of a home with pre-heats, its rooms by id.

    Notes
    -----
    One plan of the rooms alone, laid as blocks and forecast, tells what they bring to each other; it changes little
    when planned once more.
    """
    rooms = [room for zone in zones for room in zone.rooms]
    plan = cheapest_plan(rooms_alone(zones[0].price, zones[0].step_min, rooms)).plan if zones else None
    if plan is None:
        return list(zones)
    blocks = [zone_blocks(home, clock, zone, plan.room_kw, most_changes[zone.zone.id]) for zone in zones]
    for zone, each in zip(zones, blocks, strict=True):
        home = with_preheats(home, zone.zone.id, clock, each)
    after = forecasts(home)
    return [replace(zone, rooms=tuple(_beside(home, room, after) for room in zone.rooms)) for zone in zones]


def _beside(home: Home, room: MovableRoom, after: Mapping[str, RoomForecast]) -> MovableRoom:
    forecast = room.forecast
    beside = after[forecast.room.id].stretch.beside_c
    if beside is None:
        return room
    written = replace(forecast, stretch=replace(forecast.stretch, beside_c=beside))
    return movable_room(home, written, home.guard_of(forecast.zone), step_min=room.step_min, beyond_k=room.beyond_k)
