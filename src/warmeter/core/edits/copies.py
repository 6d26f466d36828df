"""A room or a storey copied, and the parts that a room usually has put in at once."""

from dataclasses import replace

from warmeter.core.building.room_envelope import home_plan
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.home_edits import NAME_LETTERS, free_name, swapped, with_counted
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.floor_plan.shape import SIDES, bounds
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.plant import HeaterKind
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import zone_like


def with_room_copied(home: Home, room_id: str, storey_id: str | None = None) -> tuple[Home, Room]:
    """Return a home with a copy of a room, and the copy: at a free place of its storey, or just so on another.

    Openings, things, heaters and devices come along; what belongs to one device alone (addresses, batteries,
    calibrations, who commands it) does not. The copy's zone has the timetables of the room's.
    """
    room = home.room(room_id)
    fresh = {room.id: new_id()}
    copy = replace(room, id=fresh[room.id], name=free_name({r.name for r in home.rooms}, room.name), overrules=())
    if room.rects and storey_id is None:
        box = bounds(room.rects)
        x, y = floor_plan_edits.free_place(home, room.storey_id or "")
        moved = (replace(r, x_m=round(r.x_m + x - box.x_m, 4), y_m=round(r.y_m + y - box.y_m, 4)) for r in room.rects)
        copy = replace(copy, rects=tuple(moved))
    elif storey_id is not None:
        copy = replace(copy, storey_id=storey_id)
    home = replace(home, rooms=(*home.rooms, copy))
    home = _with_contents(home, room, copy, fresh)
    zone = home.zone_of_room(room.id)
    if zone is not None:
        alike = replace(
            zone_like(zone, new_id()), name=copy.name, room_ids=(copy.id,), heater_ids=None, owner_id=None, sensing=()
        )
        home = replace(home, zones=(*home.zones, alike))
        for device in home.devices_in(copy.id):
            home = with_counted(home, device)
    return home, copy


def _with_contents(home: Home, room: Room, copy: Room, fresh: dict[str, str]) -> Home:
    """Return a home with what a room holds in its copy too; ``fresh`` learns the new ids."""
    taken = set(part_names(home.heaters, home.devices, home.things).values())

    def named(name: str) -> str:
        free = free_name(taken, name.replace(room.name, copy.name)[:NAME_LETTERS])
        taken.add(free)
        return free

    heaters = []
    for heater in home.heaters_of(room.id):
        fresh[heater.id] = new_id()
        heaters.append(replace(heater, id=fresh[heater.id], room_id=copy.id, name=named(heater.name)))
    devices = [
        _like(device, copy.id, named(device.name), fresh) for device in home.devices_in(room.id) if device.is_in_service
    ]
    return replace(
        home,
        openings=(
            *home.openings,
            *(replace(o, id=new_id(), room_id=copy.id) for o in home.openings if o.room_id == room.id),
        ),
        things=(
            *home.things,
            *(
                replace(t, id=new_id(), room_id=copy.id, name=named(t.name))
                for t in home.things
                if t.room_id == room.id
            ),
        ),
        heaters=(*home.heaters, *heaters),
        devices=(*home.devices, *devices),
    )


def _like(device: Device, room_id: str, name: str, fresh: dict[str, str]) -> Device:
    """Return another device of the same make in another room: nothing that was read or written on this one."""
    return Device(
        id=new_id(),
        name=name,
        kind=device.kind,
        make_model=device.make_model,
        bus=device.bus,
        room_id=room_id,
        at=device.at,
        power=device.power,
        quantities=device.quantities,
        hold_s=device.hold_s,
        modes=device.modes,
        is_two_way=device.is_two_way,
        drives_id=fresh.get(device.drives_id or ""),
        works_without_internet=device.works_without_internet,
        works_without_controller=device.works_without_controller,
        own_timetable="off" if device.own_timetable == "running" else device.own_timetable,
    )


def with_storey_copied(home: Home, storey_id: str) -> Home:
    """Return a home with a storey on top that has every room of another, each at its place.

    Raises
    ------
    HomeError
        If no room is drawn on it.
    """
    like = home.storey(storey_id)
    rooms = [room for room in home.rooms if room.storey_id == storey_id and room.is_drawn]
    if not rooms:
        raise HomeError(f"{like.name} has no room that could be copied")
    home = floor_plan_edits.with_storey(home)
    top = replace(home.storeys[-1], height_m=like.height_m)
    home = replace(home, storeys=swapped(home.storeys, top))
    for room in rooms:
        home, _ = with_room_copied(home, room.id, top.id)
    return home


def with_usual_parts(home: Home, room_id: str) -> tuple[Home, tuple[str, ...]]:
    """Return a home with what a heated room usually has and this one lacks, and the names of what was put in.

    A heater of the home's commonest kind (a radiator where there is none), what commands it, an air sensor, and where
    the room is drawn a window in its longest outside wall.
    """
    room = home.room(room_id)
    before = part_names(home.heaters, home.devices).keys()
    windows = len(home.openings)
    if room.is_drawn and not any(o.kind == "window" for o in home.openings_of(room_id)):
        drawing = home_plan(home)[room_id]
        side = max(SIDES, key=drawing.outside_m)
        if drawing.outside_m(side) > 0:
            home = floor_plan_edits.with_opening(home, room_id, "window", side)
    if not home.heaters_of(room_id):
        home = floor_plan_edits.with_heater(home, room_id, _commonest_heater(home))
    driven = {d.drives_id for d in home.devices if d.is_in_service}
    for heater in home.heaters_of(room_id):
        if heater.id not in driven:
            home = floor_plan_edits.with_device(
                home, "radiator_valve" if heater.kind == "radiator" else "thermostat", room_id
            )
    if not any("room_temperature" in d.measures and d.is_in_service for d in home.devices_in(room_id)):
        home = floor_plan_edits.with_device(home, "air_sensor", room_id)
    put_in = [name for key, name in part_names(home.heaters, home.devices).items() if key not in before]
    return home, (*put_in, *(opening.kind for opening in home.openings[windows:]))


def _commonest_heater(home: Home) -> HeaterKind:
    kinds = [heater.kind for heater in home.heaters]
    return max(kinds, key=kinds.count) if kinds else "radiator"
