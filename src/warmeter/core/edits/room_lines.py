"""Rooms added as a list, each in one line: name, size, what bounds it, its heater and its devices."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import swapped, with_zone_for
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import DeviceKind
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name, Unit, Word
from warmeter.core.home.plant import HeaterKind
from warmeter.core.home.rooms import Condition, Described, Room, RoomUse, Storey

SideM = Annotated[float, Gt(0), Le(100), Unit("m")]
USE_WORDS: tuple[tuple[RoomUse, tuple[str, ...]], ...] = (
    ("kitchen", ("kitchen", "pantry")),
    ("bath", ("bath", "shower", "wc", "toilet", "ensuite", "washroom")),
    ("sleeping", ("bed", "nursery", "guest", "child", "sleep")),
    ("hall", ("hall", "corridor", "landing", "stair", "entrance", "lobby")),
    ("office", ("office", "study", "den", "work room")),
    ("workshop", ("workshop", "hobby")),
    ("store", ("store", "garage", "cellar", "utility", "attic", "loft")),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomLine:
    """A room as one line says it.

    ``width_m`` and ``depth_m`` or ``area_m2`` say its size. With ``outside_walls`` it is described, as nobody has said
    where it lies; without, it is drawn beside the others. ``heater`` None is none; ``heater_w`` None what is usual.
    """

    name: Name
    width_m: SideM | None = None
    depth_m: SideM | None = None
    area_m2: Annotated[float, Gt(0), Le(2000), Unit("m²")] | None = None
    height_m: Annotated[float, Ge(1), Le(20), Unit("m")] | None = None
    outside_walls: Annotated[int, Ge(0), Le(4)] | None = None
    has_roof: bool = False
    has_ground_floor: bool = False
    condition: Condition = "heated"
    heater: HeaterKind | None = None
    heater_w: Annotated[float, Ge(50), Le(100_000), Unit("W")] | None = None
    devices: Annotated[tuple[DeviceKind, ...], Len(0, 12)] = ()
    storey: Word = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class AddRooms:
    """Add several rooms at once."""

    rooms: Annotated[tuple[RoomLine, ...], Len(1, 100)]

    def edit(self, home: Home) -> Edit:
        """Return the home with them.

        Raises
        ------
        HomeError
            If a name stands already, or a line gives no size.
        """
        names = [room.name for room in home.rooms]
        for line in self.rooms:
            if line.name in names:
                raise HomeError(f"there is a room {line.name!r} already; give another name")
            names.append(line.name)
            home = _with_line(home, line)
        count = len(self.rooms)
        words = f"{self.rooms[0].name} added" if count == 1 else f"{count} rooms added"
        return Edit(home, words, home.rooms[-1].id if count == 1 else None)


def _with_line(home: Home, line: RoomLine) -> Home:
    home, storey = _with_storey(home, line.storey)
    sides = line.width_m is not None and line.depth_m is not None
    area_m2 = line.width_m * line.depth_m if line.width_m and line.depth_m else line.area_m2
    if area_m2 is None:
        raise HomeError(f"{line.name} has no size; write one such as 4.2 x 3.6 or 15 m²")
    if sides and line.outside_walls is None:
        place = floor_plan_edits.free_place(home, storey.id)
        rect = floor_plan_edits.rect_at(place, line.width_m or 0.0, line.depth_m or 0.0)
        home, room = floor_plan_edits.drawn_room(home, storey.id, rect, line.name, zoned=line.condition == "heated")
    else:
        home, room = _described(home, line, area_m2, storey)
    changed = replace(room, use=use_of(line.name), condition=line.condition, height_m=line.height_m or storey.height_m)
    home = replace(home, rooms=swapped(home.rooms, changed))
    if line.heater is not None:
        home = floor_plan_edits.with_heater(home, room.id, line.heater)
        if line.heater_w is not None:
            heater = replace(home.heaters[-1], rated_heat_w=line.heater_w)
            home = replace(home, heaters=swapped(home.heaters, heater))
    for kind in line.devices:
        home = floor_plan_edits.with_device(home, kind, room.id)
    return home


def _described(home: Home, line: RoomLine, area_m2: float, storey: Storey) -> tuple[Home, Room]:
    like = home.rooms[-1] if home.rooms else None
    room = Room(
        id=new_id(),
        name=line.name,
        height_m=storey.height_m,
        built=like.built if like else "1950_1977",
        mass_class=like.mass_class if like else "medium",
        storey_id=storey.id,
        described=Described(
            floor_area_m2=round(area_m2, 4),
            outside_walls=2 if line.outside_walls is None else line.outside_walls,
            has_roof=line.has_roof,
            has_ground_floor=line.has_ground_floor,
            width_m=line.width_m,
            depth_m=line.depth_m,
        ),
        condition=line.condition,
    )
    home = replace(home, rooms=(*home.rooms, room))
    return (with_zone_for(home, room) if line.condition == "heated" else home), room


def _with_storey(home: Home, name: str) -> tuple[Home, Storey]:
    """Return a home with a storey of a name, the lowest or a first one where none is named."""
    home = floor_plan_edits.with_first_storey(home) if not name or not home.storeys else home
    found = next((s for s in home.storeys if s.name.lower() == name.lower()), None) if name else home.storeys[0]
    if found is None:
        home = floor_plan_edits.with_storey(home, name)
        found = home.storeys[-1]
    return home, found


def use_of(name: str) -> RoomUse:
    """Return what a room is likely for by its name; living where nothing else is said."""
    plain = name.lower()
    return next((use for use, words in USE_WORDS if any(word in plain for word in words)), "living")
