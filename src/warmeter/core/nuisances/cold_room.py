"""A room is cold when it should be warm: which room, from when, how warm, and what heats it."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Gt, Le

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.room_lines import RoomLine
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name, SetpointC, TimeOfDay, Unit
from warmeter.core.home.plant import HeaterKind
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import Level
from warmeter.core.nuisances.growing import USUAL_AREA_M2, HeatW, Price, with_named_room, with_price
from warmeter.core.units import MIN_PER_DAY

EVENING_MIN = 1320


@dataclass(frozen=True, slots=True, kw_only=True)
class ColdRoom:
    """A room that should be so warm from a time on, so cool at night, with its heater's rated heat."""

    room: Name
    warm_by: TimeOfDay
    warm_c: SetpointC
    night_c: SetpointC
    heater: HeaterKind = "electric_panel"
    heater_w: HeatW
    area_m2: Annotated[float, Gt(0), Le(2000), Unit("m²")] = USUAL_AREA_M2
    price: Price | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with the room, its heater and its timetable of two periods."""
        line = RoomLine(
            name=self.room,
            area_m2=self.area_m2,
            outside_walls=2,
            heater=self.heater,
            heater_w=self.heater_w,
            devices=("air_sensor",),
        )
        grown, room = with_named_room(with_price(home, self.price), line)
        zone = grown.zone_of_room(room.id)
        if zone is None:
            return Edit(grown, f"{room.name} added", room.id)
        warm, night = _levels(grown)
        due = self.warm_by % MIN_PER_DAY
        day = sorted(
            (
                ChangePoint(start_min=due, level_id=warm.id, own_setpoint_c=self.warm_c),
                ChangePoint(
                    start_min=EVENING_MIN if due < EVENING_MIN else MIN_PER_DAY // 2,
                    level_id=night.id,
                    own_setpoint_c=self.night_c,
                ),
            ),
            key=lambda point: point.start_min,
        )
        changed = replace(zone, timetables=every_day(new_id(), *day))
        grown = replace(grown, zones=swapped(grown.zones, changed))
        return Edit(grown, f"{room.name} and its heater added", room.id)


def _levels(home: Home) -> tuple[Level, Level]:
    """Return the level that a room is in use at, and the first that is meant to save."""
    warm = home.in_use or home.levels[0]
    return warm, next((level for level in home.levels if level.is_saving), warm)
