"""Commands on storeys and rooms: draw, move, join, describe, and figures typed over what was worked out."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Le, Len

from warmeter.core.building.room_envelope import home_plan
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import renamed_zones, rezoned, swapped, with_room
from warmeter.core.errors import within
from warmeter.core.floor_plan.shape import Rect, Side
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Name, Text, Unit, Word
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Described, Room, Storey
from warmeter.core.sentence import Measure, sentence

PlanM = Annotated[float, Ge(-500), Le(500), Unit("m")]
SizeM = Annotated[float, Ge(0.1), Le(100), Unit("m")]
RectIndex = Annotated[int, Ge(0), Le(11)]
ROOM_FIELDS = ("name", "height_m", "built", "mass_class", "use", "condition", "storey_id", "design_c")
_ROOM_WORDS = {
    "built": "built",
    "mass_class": "thermal mass",
    "use": "use",
    "condition": "condition",
    "name": "name",
    "height_m": "height",
    "storey_id": "storey",
    "design_c": "temperature on the design day",
}
_OVERRULE_LIMITS = {"u_": (0.02, 10.0), "air_1_h": (0.0, 50.0)}


@dataclass(frozen=True, slots=True, kw_only=True)
class AddStorey:
    """Add a storey on top."""

    name: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        changed = floor_plan_edits.with_storey(home, self.name)
        return Edit(changed, f"{changed.storeys[-1].name} added")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeStorey:
    """Name a storey, or say how high it is."""

    storey_id: Id
    values: Annotated[Values, FieldsOf(Storey, ("name", "height_m"))]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        changed = replace(home.storey(self.storey_id), **self.values)
        return Edit(replace(home, storeys=swapped(home.storeys, changed)), f"Storey is {changed.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveStorey:
    """Remove an empty storey."""

    storey_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        name = home.storey(self.storey_id).name
        return Edit(floor_plan_edits.without_storey(home, self.storey_id), f"{name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawRoom:
    """Draw a room, on a first storey if there is none; without a size at a free place."""

    storey_id: Word = ""
    name: Word = ""
    x_m: PlanM = 0.0
    y_m: PlanM = 0.0
    width_m: SizeM | None = None
    depth_m: SizeM = floor_plan_edits.FIRST_SIZE_M[1]

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        home = floor_plan_edits.with_first_storey(home)
        rect = None if self.width_m is None else _rect(self.x_m, self.y_m, self.width_m, self.depth_m)
        storey_id = self.storey_id or home.storeys[0].id
        changed, room = floor_plan_edits.drawn_room(home, storey_id, rect, self.name)
        return Edit(changed, f"{room.name} drawn", room.id)


def _rect(x_m: float, y_m: float, width_m: float, depth_m: float) -> Rect:
    """Return a rectangle to a tenth of a millimetre: whole inches stay whole."""
    return Rect(x_m=round(x_m, 4), y_m=round(y_m, 4), width_m=round(width_m, 4), depth_m=round(depth_m, 4))


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawDescribedRoom:
    """Draw a room that was described in words, as a square of its floor area."""

    room_id: Id
    storey_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it drawn."""
        home = floor_plan_edits.with_first_storey(home)
        changed = floor_plan_edits.draw_described(home, self.room_id, self.storey_id or home.storeys[0].id)
        return Edit(changed, f"{home.room(self.room_id).name} drawn from its description", self.room_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawDescribedRooms:
    """Draw every room that was described, side by side on its storey; where they lie is to be moved then."""

    def edit(self, home: Home) -> Edit:
        """Return the home with them drawn."""
        home = floor_plan_edits.with_first_storey(home)
        described = [room for room in home.rooms if not room.is_drawn]
        for room in described:
            home = floor_plan_edits.draw_described(home, room.id, room.storey_id or home.storeys[0].id)
        return Edit(home, f"{len(described)} rooms drawn from their descriptions")


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRoom:
    """Move a room with all that is in it."""

    room_id: Id
    dx_m: PlanM
    dy_m: PlanM

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        changed = floor_plan_edits.with_room_moved(home, self.room_id, self.dx_m, self.dy_m)
        return Edit(changed, f"{home.room(self.room_id).name} moved", self.room_id, fold=f"move-{self.room_id}")


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRoomEdge:
    """Move one edge of one of a room's rectangles."""

    room_id: Id
    index: RectIndex
    side: Side
    at_m: PlanM

    def edit(self, home: Home) -> Edit:
        """Return the home with the room reshaped."""
        changed = floor_plan_edits.with_edge_moved(home, self.room_id, self.index, self.side, self.at_m)
        return replace(_sized(changed, self.room_id), fold=f"edge-{self.room_id}-{self.side}")


def _sized(home: Home, room_id: str) -> Edit:
    return Edit(
        home, sentence("{} is {}", home.room(room_id).name, Measure(home_plan(home)[room_id].area_m2, "m²", 1)), room_id
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeRect:
    """Type one of a room's rectangles."""

    room_id: Id
    index: RectIndex
    x_m: PlanM
    y_m: PlanM
    width_m: SizeM
    depth_m: SizeM

    def edit(self, home: Home) -> Edit:
        """Return the home with the room reshaped."""
        rect = _rect(self.x_m, self.y_m, self.width_m, self.depth_m)
        return _sized(floor_plan_edits.with_rect(home, self.room_id, self.index, rect), self.room_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddRect:
    """Join another rectangle to a room."""

    room_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with the room reshaped."""
        changed = floor_plan_edits.with_rect_added(home, self.room_id)
        return Edit(changed, f"{home.room(self.room_id).name} has another rectangle", self.room_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveRect:
    """Take a rectangle away from a room."""

    room_id: Id
    index: RectIndex

    def edit(self, home: Home) -> Edit:
        """Return the home with the room reshaped."""
        changed = floor_plan_edits.without_rect(home, self.room_id, self.index)
        return Edit(changed, f"A rectangle of {home.room(self.room_id).name} removed", self.room_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class JoinRooms:
    """Join a second room to a first."""

    room_id: Id
    other_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with one room of both."""
        changed = floor_plan_edits.with_rooms_joined(home, self.room_id, self.other_id)
        names = home.room(self.other_id).name, home.room(self.room_id).name
        return Edit(changed, f"{names[0]} joined to {names[1]}", self.room_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveRoom:
    """Remove a room; its devices stay, in no room."""

    room_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        return Edit(floor_plan_edits.without_room(home, self.room_id), f"{home.room(self.room_id).name} removed", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeRoom:
    """Change what was told of a room; a zone of that room alone is named with it, and only what is heated has one."""

    room_id: Id
    values: Annotated[Values, FieldsOf(Room, ROOM_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        room = home.room(self.room_id)
        values = dict(self.values)
        if "storey_id" in values and room.rects:
            home.storey(values["storey_id"] or "")
        else:
            values.pop("storey_id", None)
        changed = replace(room, **values)
        named = renamed_zones(replace(home, rooms=swapped(home.rooms, changed)), room, changed.name)
        if changed.condition != room.condition:
            named = rezoned(named, changed)
        return Edit(named, f"{changed.name}: {', '.join(_ROOM_WORDS[name] for name in values)}", room.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class OverruleFigure:
    """Type a figure over what was worked out, or hand it back where no value is typed."""

    room_id: Id
    figure: Annotated[str, Len(1, 40)]
    value: float | None = None
    reason: Text = ""
    on: date | None = None
    back: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it typed over, or handed back."""
        name = home.room(self.room_id).name
        if self.back or self.value is None:
            changed = floor_plan_edits.with_overrule(home, self.room_id, self.figure, None)
            return Edit(changed, f"{name}: a figure reset to worked-out", self.room_id)
        found = (ends for key, ends in _OVERRULE_LIMITS.items() if self.figure.startswith(key))
        within("the value", self.value, *next(found, (0.0, 100_000.0)))
        changed = floor_plan_edits.with_overrule(
            home, self.room_id, self.figure, self.value, reason=self.reason, on=self.on
        )
        return Edit(changed, f"{name}: a figure entered by hand", self.room_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddDescribedRoom:
    """Add a room in words, with its heater and a zone of its own."""

    room: Room
    heater: Heater

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        return Edit(with_room(home, self.room, self.heater), f"{self.room.name} added", self.room.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class DescribeRoom:
    """Describe a room and its heater anew; what the words do not tell stays as it was."""

    room_id: Id
    name: Name
    values: Annotated[Values, FieldsOf(Room, ("height_m", "built", "mass_class"))]
    described: Described
    heater: Heater

    def edit(self, home: Home) -> Edit:
        """Return the home with both changed."""
        before = home.room(self.room_id)
        room = replace(before, name=self.name, described=self.described, **self.values)
        is_known = any(h.id == self.heater.id for h in home.heaters)
        heaters = swapped(home.heaters, self.heater) if is_known else (*home.heaters, self.heater)
        changed = replace(home, rooms=swapped(home.rooms, room), heaters=heaters)
        return Edit(renamed_zones(changed, before, room.name), f"{room.name} surveyed anew", room.id)
