"""A room is cold when it should be warm: which room, from when, how warm, and what heats it."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Gt, Le

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.room_lines import RoomLine
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name, SetpointC, TimeOfDay, Unit
from warmeter.core.home.plant import HeaterKind
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import Level, Zone
from warmeter.core.nuisances.growing import USUAL_AREA_M2, HeatW, Price, with_named_room, with_price
from warmeter.core.sentence import celsius, sentence
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.units import MIN_PER_DAY
from warmeter.core.wording import clock_time

EVENING_MIN, SAME_K = 1320, 0.05


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
        """Return the home with the room, its heater and its timetable of two periods.

        Raises
        ------
        HomeError
            If the room is there with a timetable that somebody wrote, which does not ask for that.
        """
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
        due = self.warm_by % MIN_PER_DAY
        is_known = any(each.id == room.id for each in home.rooms)
        if is_known and not _is_made_here(zone):
            if self._is_asked(grown, zone, due):
                return Edit(grown, f"{room.name} is asked so already", room.id)
            raise HomeError(
                sentence(
                    "{} has a timetable that does not ask for {} from {} on: type what it asks, or change it first",
                    room.name,
                    celsius(self.warm_c),
                    clock_time(due),
                )
            )
        warm, night = _levels(grown)
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

    def _is_asked(self, home: Home, zone: Zone, due_min: int) -> bool:
        """Return whether a zone's usual day asks for the warmth from that minute on."""
        return any(
            point.start_min == due_min and abs(setpoint_of(home, zone, point) - self.warm_c) < SAME_K
            for point in zone.timetables[0].usual
        )


def _is_made_here(zone: Zone) -> bool:
    """Return whether a zone has a timetable as a cold room's is: one day of two periods with setpoints of their own."""
    points = zone.timetables[0].usual
    is_plain = len(zone.timetables) == 1 and not zone.calendar and len(zone.room_ids) == 1 and len(points) == 2
    return is_plain and all(point.own_setpoint_c is not None for point in points)


def _levels(home: Home) -> tuple[Level, Level]:
    """Return the level that a room is in use at, and the first that is meant to save."""
    warm = home.in_use or home.levels[0]
    return warm, next((level for level in home.levels if level.is_saving), warm)
