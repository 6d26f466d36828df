"""Changing the plan: storeys, rooms, openings, heaters, devices and things, each change a whole new home."""

from dataclasses import dataclass, replace
from datetime import date

from warmeter.core.building.room_envelope import home_plan
from warmeter.core.edits.home_edits import free_name, swapped, with_counted, with_zone_for
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.mentions import with_mats_moved, without_mentions
from warmeter.core.edits.usual_places import heater_place, middle_of, sensor_place, valve_place
from warmeter.core.errors import HomeError
from warmeter.core.floor_plan.shape import Rect, Side, bounds, contains
from warmeter.core.home.device_kinds import DEVICE_TRAITS
from warmeter.core.home.devices import Device, DeviceKind
from warmeter.core.home.document import Home
from warmeter.core.home.part import HasId, Spot
from warmeter.core.home.plant import Heater, HeaterKind, Source, SplitUnit
from warmeter.core.home.presets import HEATER_LABEL
from warmeter.core.home.rooms import Opening, OpeningKind, Overrule, Room, Storey, Thing, ThingKind

FIRST_SIZE_M = (4.0, 3.0)
NEAR_WALL_M = 0.6
FIRST_STOREY = "Ground floor"
OPENING_SIZE_M: dict[OpeningKind, tuple[float, float]] = {"window": (1.2, 1.2), "door": (0.9, 2.0)}
HEATER_W: dict[HeaterKind, float] = {
    "electric_panel": 1000.0,
    "radiator": 1000.0,
    "warm_floor": 800.0,
    "fan_unit": 1500.0,
    "split_unit": 3200.0,
}
THING_LABEL: dict[ThingKind, str] = {
    "furniture": "furniture",
    "curtain": "curtain",
    "lamp": "lamp",
    "water_pipe": "pipe that could freeze",
    "pump": "pump",
    "stairs": "stairs",
    "heat_maker": "heat source",
}


def with_storey(home: Home, name: str = "") -> Home:
    """Return a home with a storey added on top."""
    top = max((s.level for s in home.storeys), default=-1)
    label = name or free_name([s.name for s in home.storeys], FIRST_STOREY if top < 0 else f"Storey {top + 1}")
    return replace(home, storeys=(*home.storeys, Storey(id=new_id(), name=label, level=top + 1)))


def with_first_storey(home: Home) -> Home:
    """Return a home with a storey at least."""
    return home if home.storeys else with_storey(home)


def without_storey(home: Home, storey_id: str) -> Home:
    """Return a home without an empty storey; ``HomeError`` if rooms are drawn on it."""
    storey = home.storey(storey_id)
    if any(room.storey_id == storey_id for room in home.rooms):
        raise HomeError(f"{storey.name} has rooms; move or remove them first")
    return replace(home, storeys=tuple(s for s in home.storeys if s.id != storey_id))


def free_place(home: Home, storey_id: str) -> tuple[float, float]:
    """Return the upper left corner of a free place on a storey: right of all that is drawn [m]."""
    drawn = [r for room in home.rooms if room.storey_id == storey_id for r in room.rects]
    if not drawn:
        return 0.0, 0.0
    box = bounds(drawn)
    return round(box.right_m, 2), round(box.y_m, 2)


def rect_at(place: tuple[float, float], width_m: float, depth_m: float) -> Rect:
    """Return a rectangle with its upper left corner at a place, [m]."""
    return Rect(x_m=place[0], y_m=place[1], width_m=max(0.1, round(width_m, 4)), depth_m=max(0.1, round(depth_m, 4)))


def drawn_room(
    home: Home, storey_id: str, rect: Rect | None, name: str = "", *, zoned: bool = True
) -> tuple[Home, Room]:
    """Return a home with a room drawn, and the room; it takes age and build of the room before it."""
    storey = home.storey(storey_id)
    if rect is None:
        x, y = free_place(home, storey_id)
        rect = Rect(x_m=x, y_m=y, width_m=FIRST_SIZE_M[0], depth_m=FIRST_SIZE_M[1])
    like = home.rooms[-1] if home.rooms else None
    room = Room(
        id=new_id(),
        name=name or free_name([r.name for r in home.rooms], "Room"),
        height_m=storey.height_m,
        built=like.built if like else "1950_1977",
        mass_class=like.mass_class if like else "medium",
        storey_id=storey_id,
        rects=(rect,),
    )
    home = replace(home, rooms=(*home.rooms, room))
    return (with_zone_for(home, room) if zoned else home), room


def draw_described(home: Home, room_id: str, storey_id: str) -> Home:
    """Return a home with a described room drawn at a free place: with its sides, or a square of its floor area."""
    room = home.room(room_id)
    if room.described is None:
        return home
    side = room.described.floor_area_m2**0.5
    width_m, depth_m = room.described.width_m or side, room.described.depth_m or side
    rect = rect_at(free_place(home, storey_id), width_m, depth_m)
    return replace(home, rooms=swapped(home.rooms, replace(room, storey_id=storey_id, rects=(rect,))))


def with_room_moved(home: Home, room_id: str, dx_m: float, dy_m: float) -> Home:
    """Return a home with a room moved with all that is in it [m]."""
    room = home.room(room_id)
    rects = tuple(replace(r, x_m=_cm(r.x_m + dx_m), y_m=_cm(r.y_m + dy_m)) for r in room.rects)
    return replace(home, rooms=swapped(home.rooms, replace(room, rects=rects)))


def _cm(value: float) -> float:
    """Return metres to the centimetre, as they are drawn."""
    return round(value, 2)


def with_edge_moved(home: Home, room_id: str, index: int, side: Side, at_m: float) -> Home:
    """Return a home with one edge of one rectangle moved to a place [m].

    Raises
    ------
    HomeError
        If the rectangle would turn inside out, or there is no such rectangle.
    """
    rect = _rect(home.room(room_id), index)
    at = _cm(at_m)
    if side == "left":
        x, y, width, depth = at, rect.y_m, _cm(rect.right_m - at), rect.depth_m
    elif side == "right":
        x, y, width, depth = rect.x_m, rect.y_m, _cm(at - rect.x_m), rect.depth_m
    elif side == "up":
        x, y, width, depth = rect.x_m, at, rect.width_m, _cm(rect.bottom_m - at)
    else:
        x, y, width, depth = rect.x_m, rect.y_m, rect.width_m, _cm(at - rect.y_m)
    if width < 0.1 or depth < 0.1:
        raise HomeError("a rectangle needs 0.1 m of width and depth; move the other edge first")
    return with_rect(home, room_id, index, Rect(x_m=x, y_m=y, width_m=width, depth_m=depth))


def _rect(room: Room, index: int) -> Rect:
    if not 0 <= index < len(room.rects):
        raise HomeError(f"{room.name} has no such rectangle")
    return room.rects[index]


def with_rect(home: Home, room_id: str, index: int, rect: Rect) -> Home:
    """Return a home with one rectangle of a room changed; what stands in the room stays where it is."""
    room = home.room(room_id)
    _rect(room, index)
    rects = tuple(rect if k == index else r for k, r in enumerate(room.rects))
    return _reshaped(home, room, rects)


def with_rect_added(home: Home, room_id: str, rect: Rect | None = None) -> Home:
    """Return a home with another rectangle joined to a room, by default to its right."""
    room = home.room(room_id)
    if rect is None:
        box = bounds(room.rects)
        rect = Rect(x_m=box.right_m, y_m=box.y_m, width_m=1.0, depth_m=1.0)
    return _reshaped(home, room, (*room.rects, rect))


def without_rect(home: Home, room_id: str, index: int) -> Home:
    """Return a home with a rectangle of a room taken away; ``HomeError`` for its last one."""
    room = home.room(room_id)
    _rect(room, index)
    if len(room.rects) == 1:
        raise HomeError(f"this is the only rectangle of {room.name}; remove the room instead")
    return _reshaped(home, room, tuple(r for k, r in enumerate(room.rects) if k != index))


def _reshaped(home: Home, room: Room, rects: tuple[Rect, ...]) -> Home:
    """Return a home with a room's rectangles changed, its contents kept in place on the plan."""
    before, after = bounds(room.rects), bounds(rects)
    home = replace(home, rooms=swapped(home.rooms, replace(room, rects=rects)))
    return _shifted(home, room.id, before.x_m - after.x_m, before.y_m - after.y_m)


def _shifted(home: Home, room_id: str, dx_m: float, dy_m: float, into: str = "") -> Home:
    """Return a home with all that is in a room shifted against its corner, and handed to another room."""
    key = into or room_id
    if not dx_m and not dy_m and key == room_id:
        return home

    def moved(at: Spot | None) -> Spot | None:
        return None if at is None else replace(at, x_m=_cm(at.x_m + dx_m), y_m=_cm(at.y_m + dy_m))

    def along(opening: Opening) -> Opening:
        shift = dx_m if opening.side in ("up", "down") else dy_m
        return replace(opening, room_id=key, along_m=_cm(opening.along_m + shift))

    def kept(part_room: str | None) -> bool:
        return part_room != room_id

    return replace(
        home,
        openings=tuple(o if kept(o.room_id) else along(o) for o in home.openings),
        things=tuple(t if kept(t.room_id) else replace(t, room_id=key, at=moved(t.at) or t.at) for t in home.things),
        heaters=tuple(h if kept(h.room_id) else replace(h, room_id=key, at=moved(h.at)) for h in home.heaters),
        devices=tuple(d if kept(d.room_id) else replace(d, room_id=key, at=moved(d.at)) for d in home.devices),
        water_points=tuple(
            p if kept(p.room_id) else replace(p, room_id=key, at=moved(p.at)) for p in home.water_points
        ),
    )


def with_rooms_joined(home: Home, room_id: str, other_id: str) -> Home:
    """Return a home with a second room's rectangles and contents joined to a first.

    Raises
    ------
    HomeError
        If they are one room, are not both drawn on one storey, or do not touch.
    """
    room, other = home.room(room_id), home.room(other_id)
    if room_id == other_id or not room.rects or not other.rects or room.storey_id != other.storey_id:
        raise HomeError("join two drawn rooms of one storey")
    if other_id not in home_plan(home)[room_id].shared_m():
        raise HomeError(f"{room.name} and {other.name} do not touch, so they make no one room")
    rects = (*room.rects, *other.rects)
    mine, theirs, after = bounds(room.rects), bounds(other.rects), bounds(rects)
    home = _shifted(home, room_id, mine.x_m - after.x_m, mine.y_m - after.y_m)
    home = _shifted(home, other_id, theirs.x_m - after.x_m, theirs.y_m - after.y_m, into=room_id)
    home = without_room(with_mats_moved(home, other_id, room_id), other_id)
    return replace(home, rooms=swapped(home.rooms, replace(room, rects=rects)))


def without_room(home: Home, room_id: str) -> Home:
    """Return a home without a room: its openings, things and heaters go; devices stay, in no room."""
    home.room(room_id)
    gone = {h.id for h in home.heaters if h.room_id == room_id}
    home = without_mentions(home, {room_id, *gone})
    zones = tuple(
        replace(
            zone,
            room_ids=tuple(r for r in zone.room_ids if r != room_id),
            heater_ids=None if zone.heater_ids is None else tuple(h for h in zone.heater_ids if h not in gone),
        )
        for zone in home.zones
    )
    return replace(
        home,
        zones=tuple(zone for zone in zones if zone.room_ids),
        rooms=tuple(r for r in home.rooms if r.id != room_id),
        openings=tuple(o for o in home.openings if o.room_id != room_id),
        things=tuple(t for t in home.things if t.room_id != room_id),
        heaters=tuple(h for h in home.heaters if h.room_id != room_id),
        devices=tuple(
            replace(
                d,
                room_id=None if d.room_id == room_id else d.room_id,
                at=None if d.room_id == room_id else d.at,
                drives_id=None if d.drives_id in gone else d.drives_id,
            )
            for d in home.devices
        ),
        notes=tuple(n for n in home.notes if n.about_id != room_id and n.about_id not in gone),
    )


def with_overrule(
    home: Home, room_id: str, figure: str, value: float | None, reason: str = "", on: date | None = None
) -> Home:
    """Return a home with a room's figure typed over, or with None handed back to what is worked out."""
    room = home.room(room_id)
    others = tuple(o for o in room.overrules if o.figure != figure)
    typed = () if value is None else (Overrule(figure=figure, value=value, reason=reason, on=on),)
    return replace(home, rooms=swapped(home.rooms, replace(room, overrules=(*others, *typed))))


def with_opening(home: Home, room_id: str, kind: OpeningKind, side: Side, along_m: float | None = None) -> Home:
    """Return a home with a window or door in a room's wall, by default in the middle of that side; ``HomeError`` if it is not drawn."""
    room = home.room(room_id)
    if not room.rects:
        raise HomeError(f"draw {room.name} first; then it has walls for a {kind}")
    box = bounds(room.rects)
    length = box.width_m if side in ("up", "down") else box.depth_m
    width, height = OPENING_SIZE_M[kind]
    opening = Opening(
        id=new_id(),
        room_id=room_id,
        kind=kind,
        side=side,
        along_m=_cm(length / 2 if along_m is None else along_m),
        width_m=min(width, _cm(length)),
        height_m=min(height, room.height_m),
        sill_m=0.9 if kind == "window" else 0.0,
    )
    return replace(home, openings=(*home.openings, opening))


def room_at(home: Home, storey_id: str, x_m: float, y_m: float) -> Room:
    """Return the room of a storey that holds a point [m]; ``HomeError`` if there is none."""
    for room in home.rooms:
        if room.storey_id == storey_id and contains(room.rects, x_m, y_m):
            return room
    raise HomeError("there is no room at that place; things stand in rooms")


@dataclass(frozen=True, slots=True)
class WallPlace:
    """A place on a room's wall, ``along_m`` from the left or upper end of the room's drawing."""

    room: Room
    side: Side
    along_m: float


def nearest_wall(home: Home, storey_id: str, x_m: float, y_m: float) -> WallPlace:
    """Return the place on the wall nearest to a point [m].

    Raises
    ------
    HomeError
        If there is none within 0.6 m.
    """
    best: tuple[float, str, WallPlace] | None = None
    for room in home.rooms:
        if room.storey_id != storey_id or not room.rects:
            continue
        box = bounds(room.rects)
        for wall in home_plan(home)[room.id].walls:
            flat = wall.side in ("up", "down")
            along, across = (x_m, y_m) if flat else (y_m, x_m)
            line = wall.stretch
            beyond = max(0.0, line.start_m - along, along - line.end_m)
            away = max(abs(across - line.at_m), beyond)
            # Of a wall between two rooms the one with the lower id keeps the door.
            if best is None or (away, room.id) < (best[0], best[1]):
                best = (away, room.id, WallPlace(room, wall.side, along - (box.x_m if flat else box.y_m)))
    if best is None or best[0] > NEAR_WALL_M:
        raise HomeError("there is no wall near that place; windows and doors lie in walls")
    return best[2]


def first_source(home: Home) -> tuple[Home, Source]:
    """Return a home with a source for its heaters, direct electric if there was none."""
    if home.sources:
        return home, home.sources[0]
    source = Source(id=new_id(), name="Direct electric", kind="direct")
    return replace(home, sources=(source,)), source


def with_heater(home: Home, room_id: str, kind: HeaterKind, at: Spot | None = None) -> Home:
    """Return a home with a heater in a room, by default at its longest outside wall."""
    room = home.room(room_id)
    home, source = first_source(home)
    heater = Heater(
        id=new_id(),
        room_id=room_id,
        name=free_name([h.name for h in home.heaters], f"{room.name} {HEATER_LABEL[kind]}"[:70]),
        kind=kind,
        source_id=source.id,
        rated_heat_w=HEATER_W[kind],
        split=SplitUnit() if kind == "split_unit" else None,
        at=at or heater_place(home, room),
    )
    return replace(home, heaters=(*home.heaters, heater))


def with_device(home: Home, kind: DeviceKind, room_id: str | None, at: Spot | None = None) -> Home:
    """Return a home with a device as is usual of its kind, placed if its room is drawn."""
    room = home.room(room_id) if room_id else None
    traits = DEVICE_TRAITS[kind]
    label = traits.label
    name = f"{room.name} {label}" if room else label.capitalize()
    drives_id = _driven(home, kind, room)
    device = Device(
        id=new_id(),
        name=free_name([d.name for d in home.devices], name[:70]),
        kind=kind,
        room_id=room_id or None,
        at=(at or _usual_spot(home, kind, room, drives_id)) if room else None,
        power=traits.powers[0],
        quantities=traits.quantities,
        drives_id=drives_id,
        own_timetable=traits.own_timetable,
        is_two_way=traits.is_two_way,
        works_without_internet=traits.works_without_internet,
        works_without_controller=traits.works_without_controller,
    )
    return with_counted(replace(home, devices=(*home.devices, device)), device)


def _usual_spot(home: Home, kind: DeviceKind, room: Room, drives_id: str | None) -> Spot | None:
    if kind == "radiator_valve":
        return valve_place(home, room, drives_id)
    return sensor_place(home, room)


def _driven(home: Home, kind: DeviceKind, room: Room | None) -> str | None:
    """Return the heater that a valve or thermostat surely works: the only one in its room that nothing works yet."""
    if room is None or kind not in ("thermostat", "radiator_valve"):
        return None
    driven = {d.drives_id for d in home.devices if d.is_in_service}
    free = [heater.id for heater in home.heaters_of(room.id) if heater.id not in driven]
    return free[0] if len(free) == 1 else None


def with_thing(home: Home, kind: ThingKind, room_id: str, at: Spot | None = None) -> Home:
    """Return a home with a thing in a room."""
    room = home.room(room_id)
    name = free_name([t.name for t in home.things], THING_LABEL[kind].capitalize())
    place = at or middle_of(room) or Spot(x_m=0.0, y_m=0.0)
    return replace(home, things=(*home.things, Thing(id=new_id(), room_id=room_id, name=name, kind=kind, at=place)))


def with_item_moved(home: Home, item_id: str, x_m: float, y_m: float, storey_id: str) -> Home:
    """Return a home with a heater, device, thing or point of water moved to a point of a storey [m], into the room there.

    Raises
    ------
    HomeError
        If there is no such item, or no room at the point.
    """
    room = room_at(home, storey_id, x_m, y_m)
    box = bounds(room.rects)

    def spot(old: Spot | None) -> Spot:
        base = old or Spot(x_m=0.0, y_m=0.0)
        return replace(base, x_m=_cm(x_m - box.x_m), y_m=_cm(y_m - box.y_m))

    for device in home.devices:
        if device.id == item_id:
            return replace(home, devices=swapped(home.devices, replace(device, room_id=room.id, at=spot(device.at))))
    for heater in home.heaters:
        if heater.id == item_id:
            return replace(home, heaters=swapped(home.heaters, replace(heater, room_id=room.id, at=spot(heater.at))))
    for point in home.water_points:
        if point.id == item_id:
            moved = replace(point, room_id=room.id, at=spot(point.at))
            return replace(home, water_points=swapped(home.water_points, moved))
    thing = home.thing(item_id)
    return replace(home, things=swapped(home.things, replace(thing, room_id=room.id, at=spot(thing.at))))


def without_part(home: Home, part_id: str) -> Home:
    """Return a home without an opening, thing, heater, device or point of water, and without what named it.

    Raises
    ------
    HomeError
        If there is no such part.
    """
    parts: tuple[HasId, ...] = (*home.openings, *home.things, *home.heaters, *home.devices, *home.water_points)
    if part_id not in {p.id for p in parts}:
        raise HomeError("this part is not there any more")

    def other(key: str | None) -> str | None:
        return None if key == part_id else key

    home = without_mentions(home, {part_id, *(c.id for c in home.safety_chains if c.device_ids == (part_id,))})

    return replace(
        home,
        openings=tuple(o for o in home.openings if o.id != part_id),
        things=tuple(t for t in home.things if t.id != part_id),
        heaters=tuple(h for h in home.heaters if h.id != part_id),
        devices=tuple(
            replace(
                d,
                drives_id=other(d.drives_id),
                witness_id=other(d.witness_id),
                fed_by_id=other(d.fed_by_id),
                replaced_by_id=other(d.replaced_by_id),
            )
            for d in home.devices
            if d.id != part_id
        ),
        safety_chains=tuple(
            replace(c, device_ids=rest)
            for c in home.safety_chains
            if (rest := tuple(k for k in c.device_ids if k != part_id))
        ),
        zones=tuple(
            replace(
                z,
                owner_id=other(z.owner_id),
                heater_ids=None if z.heater_ids is None else tuple(k for k in z.heater_ids if k != part_id),
                sensing=tuple(
                    replace(s, sensors=tuple(c for c in s.sensors if c.device_id != part_id)) for s in z.sensing
                ),
            )
            for z in home.zones
        ),
        water_points=tuple(p for p in home.water_points if p.id != part_id),
        notes=tuple(n for n in home.notes if n.about_id != part_id),
    )
