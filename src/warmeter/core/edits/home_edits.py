"""Parts of a home added and changed as a whole: levels, machines, rooms with a zone of their own."""

from collections.abc import Collection
from dataclasses import replace
from typing import TypeVar

from warmeter.core.edits.ids import new_id
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, MachineKind
from warmeter.core.home.part import HasId
from warmeter.core.home.plant import Heater
from warmeter.core.home.presets import FIRST_DAY, FIRST_KINDS, FIRST_LEVELS
from warmeter.core.home.rooms import Room
from warmeter.core.home.timetables import every_day
from warmeter.core.home.zones import CountedSensor, Level, Sensing, Zone
from warmeter.core.units import whole_c

_Part = TypeVar("_Part", bound=HasId)
NAME_LETTERS = 80


def free_name(taken: Collection[str], name: str) -> str:
    """Return a name that is not taken: as it is, else with the next number, within the letters of a name."""
    if name not in taken:
        return name
    stem, _, number = name.rpartition(" ")
    if not stem or not number.isdigit():
        stem, number = name, "1"
    following = int(number) + 1
    while (candidate := f"{stem[: NAME_LETTERS - 1 - len(str(following))]} {following}") in taken:
        following += 1
    return candidate


def swapped(parts: tuple[_Part, ...], part: _Part) -> tuple[_Part, ...]:
    """Return parts with the one of the same id replaced."""
    return tuple(part if each.id == part.id else each for each in parts)


def put(parts: tuple[_Part, ...], part: _Part) -> tuple[_Part, ...]:
    """Return parts with the one of the same id replaced, or with this one behind them."""
    return swapped(parts, part) if any(each.id == part.id for each in parts) else (*parts, part)


def with_level(home: Home, level: Level) -> Home:
    """Return a home with a level changed."""
    home.level(level.id)
    return replace(home, levels=swapped(home.levels, level))


def with_appliance(home: Home, appliance: Appliance) -> Home:
    """Return a home with an appliance changed."""
    home.appliance(appliance.id)
    return replace(home, appliances=swapped(home.appliances, appliance))


def with_first_levels(home: Home) -> Home:
    """Return a home with first levels and kinds of day if it has none."""
    if not home.levels:
        unit = home.temperature_unit
        whole = (replace(level, heating_c=whole_c(level.heating_c, unit)) for level in FIRST_LEVELS)
        home = replace(home, levels=tuple(replace(level, id=new_id()) for level in whole))
    if not home.day_kinds and not home.zones:
        home = replace(home, day_kinds=tuple(replace(kind, id=new_id()) for kind in FIRST_KINDS))
    return home


def with_zone_for(home: Home, room: Room) -> Home:
    """Return a home with a zone of its own, and a first day, for a room; first levels and kinds of day if none."""
    home = with_first_levels(home)
    by_name = {level.name: level.id for level in home.levels}
    fallback = home.levels[0].id
    names = {level.id: level.name for level in FIRST_LEVELS}
    day = tuple(replace(point, level_id=by_name.get(names[point.level_id], fallback)) for point in FIRST_DAY)
    zone = Zone(id=new_id(), name=room.name, room_ids=(room.id,), timetables=every_day(new_id(), *day))
    return replace(home, zones=(*home.zones, zone))


def rezoned(home: Home, room: Room) -> Home:
    """Return a home in which a room that is heated has a zone, and one that is not has none."""
    if room.condition == "heated":
        return home if home.zone_of_room(room.id) is not None else with_zone_for(home, room)
    gone = {heater.id for heater in home.heaters_of(room.id)}
    zones = (
        replace(
            zone,
            room_ids=tuple(key for key in zone.room_ids if key != room.id),
            heater_ids=None if zone.heater_ids is None else tuple(h for h in zone.heater_ids if h not in gone),
        )
        for zone in home.zones
    )
    return replace(home, zones=tuple(zone for zone in zones if zone.room_ids))


def with_room(home: Home, room: Room, heater: Heater) -> Home:
    """Return a home with a described room added: its heater, and a zone of its own."""
    return with_zone_for(replace(home, rooms=(*home.rooms, room), heaters=(*home.heaters, heater)), room)


def with_machine(home: Home, name: str, kind: MachineKind = "other") -> Home:
    """Return a home with a machine on a metering plug added."""
    return replace(home, appliances=(*home.appliances, Appliance(id=new_id(), name=name, kind=kind)))


def planned_run(home: Home, appliance_id: str, start_min: int) -> Home:
    """Return a home with a machine's run planned at a minute of the day."""
    return with_appliance(home, replace(home.appliance(appliance_id), start_min=start_min))


def with_counted(home: Home, device: Device) -> Home:
    """Return a home in which an air sensor counts for the zone of its room, beside those that count there already."""
    zone = home.zone_of_room(device.room_id) if device.room_id and "room_temperature" in device.measures else None
    if zone is None:
        return home
    common = next((s for s in zone.sensing if s.level_id is None), None)
    own = CountedSensor(device_id=device.id)
    if common is None:
        sensing: tuple[Sensing, ...] = (*zone.sensing, Sensing(rule="one", sensors=(own,)))
    else:
        more = replace(common, rule="mean" if common.rule == "one" else common.rule, sensors=(*common.sensors, own))
        sensing = tuple(more if s is common else s for s in zone.sensing)
    return replace(home, zones=swapped(home.zones, replace(zone, sensing=sensing)))


def renamed_zones(home: Home, room: Room, name: str) -> Home:
    """Return a home in which zones of one room alone, called like it, are called by its new name."""
    zones = tuple(replace(z, name=name) if z.room_ids == (room.id,) and z.name == room.name else z for z in home.zones)
    return replace(home, zones=zones)
