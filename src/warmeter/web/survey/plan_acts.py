"""What can be done on the plan: each act reads its fields and returns the changed home with a sentence."""

from dataclasses import replace
from typing import Any

from warmeter.core.building.fixes import fixed
from warmeter.core.building.room_envelope import home_plan
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.floor_plan.shape import SIDES, Rect, Side, bounds
from warmeter.core.home.devices import Device, DeviceKind
from warmeter.core.home.document import Home
from warmeter.core.home.part import Note, Spot, part_names
from warmeter.core.home.plant import Heater, HeaterKind
from warmeter.core.home.presets import BUILT, CONDITION_LABEL, MASS_LABEL, USE
from warmeter.core.home.rooms import Opening, Room, Thing, ThingKind
from warmeter.web.forms import Fields
from warmeter.web.survey.acting import Act, Done, celsius, done_or_refuse

NEAR_WALL_M = 0.6


def _room(home: Home, fields: Fields) -> Room:
    return home.room(fields.text("room", least=1, what="The room"))


def storey_add(home: Home, fields: Fields) -> Done:
    """Add a storey on top."""
    changed = floor_plan_edits.with_storey(home, fields.text("name"))
    return Done(changed, f"{changed.storeys[-1].name} added")


def storey_set(home: Home, fields: Fields) -> Done:
    """Name a storey."""
    storey = home.storey(fields.text("storey"))
    name = fields.text("name", least=1, what="The storey's name")
    height = fields.number("height", 1, 20, "m", default=storey.height_m)
    done_or_refuse(fields)
    changed = replace(storey, name=name, height_m=height)
    return Done(replace(home, storeys=floor_plan_edits.swapped(home.storeys, changed)), f"Storey is {name}")


def storey_remove(home: Home, fields: Fields) -> Done:
    """Remove an empty storey."""
    storey = home.storey(fields.text("storey"))
    return Done(floor_plan_edits.without_storey(home, storey.id), f"{storey.name} removed")


def _rect(fields: Fields) -> Rect:
    x, y = fields.number("x", -500, 500, "m"), fields.number("y", -500, 500, "m")
    width, depth = fields.number("w", 0.1, 100, "m"), fields.number("d", 0.1, 100, "m")
    done_or_refuse(fields)
    return Rect(x_m=round(x, 3), y_m=round(y, 3), width_m=round(width, 3), depth_m=round(depth, 3))


def room_add(home: Home, fields: Fields) -> Done:
    """Draw a room, on a first storey if there is none."""
    if not home.storeys:
        home = floor_plan_edits.with_storey(home)
    storey_id = fields.text("storey") or home.storeys[0].id
    rect = _rect(fields) if fields.texts.get("w") else None
    changed, room = floor_plan_edits.drawn_room(home, storey_id, rect, fields.text("name"))
    return Done(changed, f"{room.name} drawn", room.id)


def room_draw(home: Home, fields: Fields) -> Done:
    """Draw a room that was described in words."""
    room = _room(home, fields)
    if not home.storeys:
        home = floor_plan_edits.with_storey(home)
    storey_id = fields.text("storey") or home.storeys[0].id
    return Done(
        floor_plan_edits.draw_described(home, room.id, storey_id), f"{room.name} drawn from its description", room.id
    )


def room_move(home: Home, fields: Fields) -> Done:
    """Move a room."""
    room = _room(home, fields)
    dx, dy = fields.number("dx", -500, 500, "m"), fields.number("dy", -500, 500, "m")
    done_or_refuse(fields)
    return Done(floor_plan_edits.with_room_moved(home, room.id, dx, dy), f"{room.name} moved", room.id)


def room_edge(home: Home, fields: Fields) -> Done:
    """Move one edge of a room's rectangle."""
    room = _room(home, fields)
    index, side = fields.whole("index", 0, 11), fields.choice("side", SIDES)
    at = fields.number("at", -500, 500, "m")
    done_or_refuse(fields)
    changed = floor_plan_edits.with_edge_moved(home, room.id, index, side, at)
    return Done(changed, f"{room.name} is {home_plan(changed)[room.id].area_m2:.1f} m²", room.id)


def rect_set(home: Home, fields: Fields) -> Done:
    """Type a rectangle."""
    room, index = _room(home, fields), fields.whole("index", 0, 11)
    changed = floor_plan_edits.with_rect(home, room.id, index, _rect(fields))
    return Done(changed, f"{room.name} is {home_plan(changed)[room.id].area_m2:.1f} m²", room.id)


def rect_add(home: Home, fields: Fields) -> Done:
    """Join another rectangle to a room."""
    room = _room(home, fields)
    return Done(floor_plan_edits.with_rect_added(home, room.id), f"{room.name} has another rectangle", room.id)


def rect_remove(home: Home, fields: Fields) -> Done:
    """Take a rectangle away from a room."""
    room = _room(home, fields)
    index = fields.whole("index", 0, 11)
    return Done(floor_plan_edits.without_rect(home, room.id, index), f"A rectangle of {room.name} removed", room.id)


def room_join(home: Home, fields: Fields) -> Done:
    """Join two rooms into one."""
    room, other = _room(home, fields), home.room(fields.text("other"))
    return Done(
        floor_plan_edits.with_rooms_joined(home, room.id, other.id), f"{other.name} joined to {room.name}", room.id
    )


def room_remove(home: Home, fields: Fields) -> Done:
    """Remove a room."""
    room = _room(home, fields)
    return Done(floor_plan_edits.without_room(home, room.id), f"{room.name} removed", "")


def room_set(home: Home, fields: Fields) -> Done:
    """Change what was told of a room; only the fields sent."""
    room, said = _room(home, fields), []
    values: dict[str, object] = {}
    for name, allowed, word in (
        ("built", BUILT, "built"),
        ("mass_class", MASS_LABEL, "heat store"),
        ("use", USE, "use"),
        ("condition", CONDITION_LABEL, "condition"),
    ):
        if name in fields.texts:
            values[name] = fields.choice(name, allowed)
            said.append(word)
    if "name" in fields.texts:
        values["name"] = fields.text("name", least=1, what="The room's name")
        said.append("name")
    if "height" in fields.texts:
        values["height_m"] = fields.number("height", 1, 20, "m")
        said.append("height")
    if "storey" in fields.texts and room.rects:
        values["storey_id"] = home.storey(fields.text("storey")).id
        said.append("storey")
    if "design" in fields.texts:
        empty = not fields.texts["design"].strip()
        values["design_c"] = None if empty else celsius(-30, 60)(home, fields, "design")
        said.append("temperature on the design day")
    done_or_refuse(fields)
    changed = replace(room, **values)  # type: ignore[arg-type]
    zones = tuple(
        replace(z, name=changed.name) if z.room_ids == (room.id,) and z.name == room.name else z for z in home.zones
    )
    whole = replace(home, rooms=floor_plan_edits.swapped(home.rooms, changed), zones=zones)
    return Done(whole, f"{changed.name}: {', '.join(said)}", room.id)


def overrule(home: Home, fields: Fields) -> Done:
    """Type a figure over what was worked out, or hand it back when it is left empty."""
    room, figure = _room(home, fields), fields.text("figure", least=1, most=40)
    if fields.texts.get("back") or not fields.texts.get("value", "").strip():
        changed = floor_plan_edits.with_overrule(home, room.id, figure, None)
        return Done(changed, f"{room.name}: a figure handed back", room.id)
    low, high = (0.02, 10.0) if figure.startswith("u_") else (0.0, 50.0) if figure == "air_1_h" else (0.0, 100_000.0)
    value = fields.number("value", low, high)
    done_or_refuse(fields)
    changed = floor_plan_edits.with_overrule(
        home, room.id, figure, value, fields.text("reason", most=400), fields.day("on")
    )
    done_or_refuse(fields)
    return Done(changed, f"{room.name}: a figure overruled", room.id)


def nearest_wall(home: Home, storey_id: str, x_m: float, y_m: float) -> tuple[Room, Side, float]:
    """Return (room, side, distance along it) of the wall nearest to a point [m].

    Raises
    ------
    HomeError
        If there is none within 0.6 m.
    """
    best: tuple[float, str, Room, Side, float] | None = None
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
                best = (away, room.id, room, wall.side, along - (box.x_m if flat else box.y_m))
    if best is None or best[0] > NEAR_WALL_M:
        raise HomeError("there is no wall near that place; windows and doors lie in walls")
    return best[2], best[3], best[4]


def opening_add(home: Home, fields: Fields) -> Done:
    """Put a window or door into a wall: the nearest to a point, or the middle of a side."""
    kind = fields.choice("kind", ("window", "door"))
    if fields.texts.get("x"):
        x, y = fields.number("x", -500, 500), fields.number("y", -500, 500)
        done_or_refuse(fields)
        room, side, along = nearest_wall(home, fields.text("storey"), x, y)
        changed = floor_plan_edits.with_opening(home, room.id, kind, side, round(along, 1))  # type: ignore[arg-type]
    else:
        room = _room(home, fields)
        side = fields.choice("side", SIDES)
        done_or_refuse(fields)
        changed = floor_plan_edits.with_opening(home, room.id, kind, side)  # type: ignore[arg-type]
    return Done(changed, f"{room.name} has another {kind}", changed.openings[-1].id)


def _opening(home: Home, fields: Fields) -> Opening:
    return home.opening(fields.text("id", least=1, what="The window or door"))


def opening_move(home: Home, fields: Fields) -> Done:
    """Move an opening along its wall."""
    opening = _opening(home, fields)
    along = fields.number("along", -100, 100, "m")
    done_or_refuse(fields)
    moved = replace(opening, along_m=round(along, 2))
    return Done(
        replace(home, openings=floor_plan_edits.swapped(home.openings, moved)), f"A {opening.kind} moved", opening.id
    )


def opening_set(home: Home, fields: Fields) -> Done:
    """Type an opening."""
    opening = _opening(home, fields)
    values: dict[str, object] = {}
    for name, low, high in (
        ("along_m", -100, 100),
        ("width_m", 0.05, 30),
        ("height_m", 0.05, 20),
        ("sill_m", 0, 20),
        ("frame_share", 0, 0.9),
        ("shade", 0, 1),
        ("overhang_m", 0, 20),
        ("overhang_gap_m", 0, 20),
    ):
        if name in fields.texts:
            values[name] = fields.number(name, low, high)
    for name, low, high in (("u_w_m2k", 0.02, 10), ("g_value", 0, 1)):
        if name in fields.texts:
            values[name] = fields.number(name, low, high) if fields.texts[name].strip() else None
    if "side" in fields.texts:
        values["side"] = fields.choice("side", SIDES)
    if "kind" in fields.texts:
        values["kind"] = fields.choice("kind", ("window", "door"))
    done_or_refuse(fields)
    changed = replace(opening, **values)  # type: ignore[arg-type]
    name = home.room(opening.room_id).name
    return Done(
        replace(home, openings=floor_plan_edits.swapped(home.openings, changed)),
        f"A {changed.kind} of {name}",
        opening.id,
    )


def item_add(home: Home, fields: Fields) -> Done:
    """Place a heater, a device or a thing: at a point of the plan, or in the middle of a room."""
    sort, _, kind = fields.text("what", least=1).partition(":")
    at = None
    if fields.texts.get("x"):
        x, y = fields.number("x", -500, 500), fields.number("y", -500, 500)
        done_or_refuse(fields)
        room = floor_plan_edits.room_at(home, fields.text("storey"), x, y)
        if room is None:
            raise HomeError("there is no room at that place; things stand in rooms")
        box = bounds(room.rects)
        at = Spot(x_m=round(x - box.x_m, 2), y_m=round(y - box.y_m, 2))
    else:
        room = _room(home, fields)
    if sort == "heater" and kind in floor_plan_edits.HEATER_W:
        heater: HeaterKind = kind
        changed = floor_plan_edits.with_heater(home, room.id, heater, at)
        return Done(changed, f"{changed.heaters[-1].name} placed", changed.heaters[-1].id)
    if sort == "device" and kind in floor_plan_edits.DEVICE_LABEL:
        device: DeviceKind = kind
        changed = floor_plan_edits.with_device(home, device, room.id, at)
        return Done(changed, f"{changed.devices[-1].name} placed", changed.devices[-1].id)
    if sort == "thing" and kind in floor_plan_edits.THING_LABEL:
        thing: ThingKind = kind
        changed = floor_plan_edits.with_thing(home, thing, room.id, at)
        return Done(changed, f"{changed.things[-1].name} placed", changed.things[-1].id)
    raise HomeError("choose what to place from the list")


def item_move(home: Home, fields: Fields) -> Done:
    """Move a heater, device or thing to a point of the plan."""
    key = fields.text("id", least=1)
    x, y = fields.number("x", -500, 500, "m"), fields.number("y", -500, 500, "m")
    done_or_refuse(fields)
    changed = floor_plan_edits.with_item_moved(home, key, x, y, fields.text("storey"))
    return Done(changed, f"{_name_of(changed, key)} moved", key)


def _name_of(home: Home, key: str) -> str:
    return part_names(home.heaters, home.devices, home.things).get(key, "A part")


def item_set(home: Home, fields: Fields) -> Done:
    """Type a name or a place of a heater, device or thing."""
    key = fields.text("id", least=1)
    parts: tuple[Heater | Device | Thing, ...] = (*home.heaters, *home.devices, *home.things)
    part = next((p for p in parts if p.id == key), None)
    if part is None:
        raise HomeError("this part is not there any more")
    values: dict[str, Any] = {}
    if "name" in fields.texts:
        values["name"] = fields.text("name", least=1, what="The name")
    if "x" in fields.texts:
        x, y = fields.number("x", -100, 100, "m"), fields.number("y", -100, 100, "m")
        values["at"] = Spot(x_m=x, y_m=y, z_m=fields.number("z", 0, 20, "m", default=1.2))
    for name in ("width_m", "depth_m"):
        if name in fields.texts and fields.texts[name].strip():
            values[name] = fields.number(name, 0.01, 30, "m")
    done_or_refuse(fields)
    whole = replace(
        home,
        heaters=tuple(replace(h, **values) if h.id == key else h for h in home.heaters),
        devices=tuple(replace(d, **values) if d.id == key else d for d in home.devices),
        things=tuple(replace(t, **values) if t.id == key else t for t in home.things),
    )
    return Done(whole, f"{_name_of(whole, key)} changed", key)


def part_remove(home: Home, fields: Fields) -> Done:
    """Remove an opening, heater, device or thing."""
    key = fields.text("id", least=1)
    parts: tuple[Opening | Thing | Heater | Device, ...] = (*home.openings, *home.things, *home.heaters, *home.devices)
    owner = next((p.room_id or "" for p in parts if p.id == key), "")
    name = _name_of(home, key)
    return Done(floor_plan_edits.without_part(home, key), f"{name} removed", owner)


def design(home: Home, fields: Fields) -> Done:
    """Change what losses are worked out for, and where north is."""
    values: dict[str, object] = {}
    if "outdoor" in fields.texts:
        values["outdoor_c"] = celsius(-60, 25)(home, fields, "outdoor")
    if "annual" in fields.texts:
        values["annual_mean_c"] = celsius(-20, 35)(home, fields, "annual")
    if "north" in fields.texts:
        values["north_deg"] = fields.number("north", 0, 360, "°")
    if "bridge" in fields.texts:
        values["bridge_w_m2k"] = fields.number("bridge", 0, 1, "W/(m² K)")
    if "shelter" in fields.texts:
        values["shelter"] = fields.choice("shelter", ("none", "some", "heavy"))
    done_or_refuse(fields)
    changed = replace(home.design, **values)  # type: ignore[arg-type]
    return Done(replace(home, design=changed), "Design day and north")


def fix(home: Home, fields: Fields) -> Done:
    """Make a finding's mend."""
    kind = fields.text("kind", least=1)
    about = tuple(fields.text("about", least=1, most=400).split(","))
    return Done(fixed(home, kind, about, new_id()), f"Mended: {kind}")


def note_add(home: Home, fields: Fields) -> Done:
    """Write a note on any part of the home."""
    about = fields.text("id", least=1)
    if about not in {p.id for p in home.parts()}:
        raise HomeError("what the note is about is not there any more")
    note = Note(
        id=new_id(),
        about_id=about,
        text=fields.text("text", least=1, most=400, what="The note"),
        reason=fields.text("reason", most=400),
        on=fields.day("on"),
    )
    done_or_refuse(fields)
    return Done(replace(home, notes=(*home.notes, note)), "A note written", about)


def note_remove(home: Home, fields: Fields) -> Done:
    """Remove a note."""
    key = fields.text("note", least=1)
    return Done(replace(home, notes=tuple(n for n in home.notes if n.id != key)), "A note removed")


ACTS: dict[str, Act] = {
    "note-add": note_add,
    "note-remove": note_remove,
    "storey-add": storey_add,
    "storey-set": storey_set,
    "storey-remove": storey_remove,
    "room-add": room_add,
    "room-draw": room_draw,
    "room-move": room_move,
    "room-edge": room_edge,
    "room-join": room_join,
    "room-remove": room_remove,
    "room-set": room_set,
    "rect-set": rect_set,
    "rect-add": rect_add,
    "rect-remove": rect_remove,
    "overrule": overrule,
    "opening-add": opening_add,
    "opening-move": opening_move,
    "opening-set": opening_set,
    "item-add": item_add,
    "item-move": item_move,
    "item-set": item_set,
    "part-remove": part_remove,
    "design": design,
    "fix": fix,
}
