"""Commands on what stands in rooms (heaters, devices, things), and on any part: notes, fixes, removal."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Any, cast, get_args

from annotated_types import Ge, Le, Len

from warmeter.core.building.fixes import fixed
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.room_commands import PlanM
from warmeter.core.edits.water_commands import with_water_point
from warmeter.core.errors import HomeError
from warmeter.core.floor_plan.shape import bounds
from warmeter.core.home.devices import Device, DeviceKind
from warmeter.core.home.document import Design, Home
from warmeter.core.home.part import Id, Name, Note, Spot, Text, Unit, Word, part_names
from warmeter.core.home.plant import Heater, HeaterKind
from warmeter.core.home.rooms import Opening, Thing, ThingKind
from warmeter.core.home.water import WaterPoint, WaterPointKind

SpotM = Annotated[float, Ge(-100), Le(100), Unit("m")]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceItem:
    """Place a heater, a device or a thing: at a point of the plan, or in the middle of a room.

    ``what`` is its sort and kind, such as ``device:air_sensor``.
    """

    what: Annotated[str, Len(1, 80)]
    x_m: PlanM | None = None
    y_m: PlanM = 0.0
    storey_id: Word = ""
    room_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        room_id, at = self.room_id, None
        if self.x_m is not None:
            room = floor_plan_edits.room_at(home, self.storey_id, self.x_m, self.y_m)
            box = bounds(room.rects)
            room_id, at = room.id, Spot(x_m=round(self.x_m - box.x_m, 2), y_m=round(self.y_m - box.y_m, 2))
        sort, _, kind = self.what.partition(":")
        if sort == "heater" and kind in get_args(HeaterKind):
            changed = floor_plan_edits.with_heater(home, room_id, cast(HeaterKind, kind), at)
            placed: Any = changed.heaters[-1]
        elif sort == "device" and kind in get_args(DeviceKind):
            home.room(room_id)
            changed = floor_plan_edits.with_device(home, cast(DeviceKind, kind), room_id, at)
            placed = changed.devices[-1]
        elif sort == "water" and kind in get_args(WaterPointKind):
            changed = with_water_point(home, cast(WaterPointKind, kind), room_id, at)
            placed = changed.water_points[-1]
        elif sort == "thing" and kind in get_args(ThingKind):
            changed = floor_plan_edits.with_thing(home, cast(ThingKind, kind), room_id, at)
            placed = changed.things[-1]
        else:
            raise HomeError("choose what to place from the list")
        return Edit(changed, f"{placed.name} placed", placed.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveItem:
    """Move a heater, device or thing to a point of the plan."""

    id: Id
    x_m: PlanM
    y_m: PlanM
    storey_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        changed = floor_plan_edits.with_item_moved(home, self.id, self.x_m, self.y_m, self.storey_id)
        return Edit(changed, f"{_name_of(changed, self.id)} moved", self.id, fold=f"item-{self.id}")


def _name_of(home: Home, key: str) -> str:
    return part_names(home.heaters, home.devices, home.things, home.water_points).get(key, "A part")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeItem:
    """Type name, place or size of a heater, device or thing."""

    id: Id
    name: Name | None = None
    x_m: SpotM | None = None
    y_m: SpotM = 0.0
    z_m: Annotated[float, Ge(0), Le(20), Unit("m")] = 1.2
    width_m: Annotated[float, Ge(0.01), Le(30), Unit("m")] | None = None
    depth_m: Annotated[float, Ge(0.01), Le(30), Unit("m")] | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        spot = None if self.x_m is None else Spot(x_m=self.x_m, y_m=self.y_m, z_m=self.z_m)
        typed = {"name": self.name, "at": spot, "width_m": self.width_m, "depth_m": self.depth_m}
        values: dict[str, Any] = {name: value for name, value in typed.items() if value is not None}
        if self.id not in part_names(home.heaters, home.devices, home.things, home.water_points):
            raise HomeError("this part is not there any more")
        changed = replace(
            home,
            heaters=tuple(replace(h, **values) if h.id == self.id else h for h in home.heaters),
            devices=tuple(replace(d, **values) if d.id == self.id else d for d in home.devices),
            things=tuple(replace(t, **values) if t.id == self.id else t for t in home.things),
            water_points=tuple(replace(p, **values) if p.id == self.id else p for p in home.water_points),
        )
        return Edit(changed, f"{_name_of(changed, self.id)} changed", self.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemovePart:
    """Remove a window or door, heater, device, thing or point of water."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it; its room is chosen then."""
        parts: tuple[Opening | Thing | Heater | Device | WaterPoint, ...] = (
            *home.openings,
            *home.things,
            *home.heaters,
            *home.devices,
            *home.water_points,
        )
        room_id = next((part.room_id or "" for part in parts if part.id == self.id), "")
        return Edit(floor_plan_edits.without_part(home, self.id), f"{_name_of(home, self.id)} removed", room_id)


DESIGN_FIELDS = ("outdoor_c", "outdoor_from", "annual_mean_c", "north_deg", "bridge_w_m2k", "shelter")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeDesign:
    """Change what losses are worked out for, and where north is."""

    values: Annotated[Values, FieldsOf(Design, DESIGN_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with them changed; a temperature of which nothing else is said was typed."""
        values = dict(self.values)
        if "outdoor_c" in values and values["outdoor_c"] != home.design.outdoor_c:
            values.setdefault("outdoor_from", "typed")
        return Edit(replace(home, design=replace(home.design, **values)), "Design day and north")


@dataclass(frozen=True, slots=True, kw_only=True)
class FixFinding:
    """Do what a finding proposes; ``about`` are the ids that it names, with commas between."""

    kind: Annotated[str, Len(1, 80)]
    about: Annotated[str, Len(1, 400)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it done."""
        return Edit(fixed(home, self.kind, tuple(self.about.split(",")), new_id()), f"Corrected: {self.kind}")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddNote:
    """Write a note on any part of the home."""

    id: Id
    text: Annotated[str, Len(1, 400)]
    reason: Text = ""
    on: date | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        if self.id not in {part.id for part in home.parts()}:
            raise HomeError("what the note is about is not there any more")
        note = Note(id=new_id(), about_id=self.id, text=self.text, reason=self.reason, on=self.on)
        return Edit(replace(home, notes=(*home.notes, note)), "A note written", self.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveNote:
    """Remove a note."""

    note_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        return Edit(replace(home, notes=tuple(n for n in home.notes if n.id != self.note_id)), "A note removed")
