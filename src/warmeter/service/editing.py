"""Changing a home: every edit a revision, undo among them, imports too."""

import secrets
from collections.abc import Callable
from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Appliance, Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.presets import FIRST_DAY, FIRST_LEVELS
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import ChangePoint, Level, Zone
from warmeter.core.timetable.day import merge_block, move_edge, set_block, split_block
from warmeter.service.workbench import Person, Workbench
from warmeter.store.homes import Change, NothingToUndo, Revision

Points = tuple[ChangePoint, ...]


def new_id() -> str:
    """Return a short random id."""
    return secrets.token_hex(4)


def create_home(bench: Workbench, home: Home, person: Person, summary: str = "Home described") -> int:
    """Store a new home."""
    return bench.homes.create(home, author=person.name, at_ms=bench.now_ms(), summary=summary)


def edit_home(
    bench: Workbench,
    home_id: str,
    base: int,
    person: Person,
    summary: str,
    change: Callable[[Home], Home],
    fold: str = "",
) -> int:
    """Apply a change to the revision it was made on and save it.

    Raises
    ------
    RevisionConflict
        If another window saved meanwhile.
    WarmeterError
        If the changed home has no meaning; nothing is saved then.
    """
    home, _ = bench.homes.load(home_id)
    changed = change(home)
    if changed == home:
        return base
    key = f"{person.window}:{fold}" if fold and person.window else ""
    return bench.homes.save(
        changed, Change(base=base, author=person.name, summary=summary, at_ms=bench.now_ms(), fold=key)
    )


def with_zone_day(home: Home, zone_id: str, edit: Callable[[Points], Points]) -> Home:
    """Return a home with one zone's day edited."""
    zone = home.zone_of_id(zone_id)
    changed = replace(zone, day=edit(zone.day))
    return replace(home, zones=tuple(changed if z.id == zone_id else z for z in home.zones))


def moved_start(home: Home, zone_id: str, index: int, start_min: int) -> Home:
    """Return a home with a block's start moved."""
    return with_zone_day(home, zone_id, lambda day: move_edge(day, index, start_min))


def set_level(home: Home, zone_id: str, index: int, level_id: str, own_c: float | None) -> Home:
    """Return a home with a block's level, and own setpoint or none, set."""
    home.level(level_id)
    return with_zone_day(home, zone_id, lambda day: set_block(day, index, level_id=level_id, own_setpoint_c=own_c))


def own_setpoint(home: Home, zone_id: str, index: int, setpoint_c: float) -> Home:
    """Return a home with a block's own setpoint set; equal to its level's it is none."""
    zone = home.zone_of_id(zone_id)
    if not 0 <= index < len(zone.day):
        raise HomeError("there is no such block")
    level_id = zone.day[index].level_id
    own = None if abs(home.level(level_id).heating_c - setpoint_c) < 1e-9 else setpoint_c
    return set_level(home, zone_id, index, level_id, own)


def split(home: Home, zone_id: str, index: int, at_min: int) -> Home:
    """Return a home with a block split."""
    return with_zone_day(home, zone_id, lambda day: split_block(day, index, at_min))


def merged(home: Home, zone_id: str, index: int) -> Home:
    """Return a home with a block merged into the one before."""
    return with_zone_day(home, zone_id, lambda day: merge_block(day, index))


def with_level(home: Home, level: Level) -> Home:
    """Return a home with a level changed."""
    home.level(level.id)
    return replace(home, levels=tuple(level if each.id == level.id else each for each in home.levels))


def with_appliance(home: Home, appliance: Appliance) -> Home:
    """Return a home with an appliance changed."""
    home.appliance(appliance.id)
    return replace(home, appliances=tuple(appliance if a.id == appliance.id else a for a in home.appliances))


def with_zone_for(home: Home, room: Room) -> Home:
    """Return a home with a zone of its own, and a first day, for a room; first levels if it has none."""
    if not home.levels:
        home = replace(home, levels=tuple(replace(level, id=new_id()) for level in FIRST_LEVELS))
    by_name = {level.name: level.id for level in home.levels}
    fallback = home.levels[0].id
    names = {level.id: level.name for level in FIRST_LEVELS}
    day = tuple(replace(point, level_id=by_name.get(names[point.level_id], fallback)) for point in FIRST_DAY)
    zone = Zone(id=new_id(), name=room.name, room_ids=(room.id,), day=day)
    return replace(home, zones=(*home.zones, zone))


def with_room(home: Home, room: Room, heater: Heater) -> Home:
    """Return a home with a described room added: its heater, and a zone of its own."""
    return with_zone_for(replace(home, rooms=(*home.rooms, room), heaters=(*home.heaters, heater)), room)


def with_machine(home: Home, name: str) -> Home:
    """Return a home with a machine on a metering plug added."""
    return replace(home, appliances=(*home.appliances, Appliance(id=new_id(), name=name)))


def undo(bench: Workbench, home_id: str, base: int, person: Person) -> Revision:
    """Undo the newest change that stands; an import's readings are taken back.

    Returns the revision undone.

    Raises
    ------
    NothingToUndo
        If only the making of the home is left.
    RevisionConflict
        If another window saved meanwhile.
    """
    undone = bench.homes.undoable(home_id)
    if undone.parent < 1:
        raise NothingToUndo(home_id)
    home, _ = bench.homes.load(home_id, undone.parent)
    change = Change(
        base=base,
        author=person.name,
        summary=f"Undone: {undone.summary} (by {undone.author})",
        at_ms=bench.now_ms(),
        undoes=undone.number,
    )
    with bench.engine.begin() as connection:
        if undone.import_id is not None:
            bench.readings.take_back(home_id, undone.import_id, bench.now_ms(), connection)
        bench.homes.save(home, change, connection)
    return undone


def planned_run(home: Home, appliance_id: str, start_min: int) -> Home:
    """Return a home with a machine's run planned at a minute of the day."""
    return with_appliance(home, replace(home.appliance(appliance_id), start_min=start_min))
