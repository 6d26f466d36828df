"""Commands on ducts: the plant and its fan, vents, stages, choices of leading sensors, rounds of trimming."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Gt, Le

from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import free_name, swapped, with_zone_for
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.plant_commands import AddSource
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem, HeatStage, RoomDifference, SensorChoice, Vent, VentRound
from warmeter.core.home.part import Id, Name, Unit
from warmeter.core.home.plant import SourceKind

SYSTEM_FIELDS = (
    "name",
    "source_id",
    "flow_m3_h",
    "static_pa",
    "static_most_pa",
    "flow_least_m3_h",
    "trunk_share",
    "most_notch",
    "most_share_shut",
    "fan_w",
    "fan_mode",
    "part_min",
    "overrun_min",
    "least_on_min",
    "cooling_w",
    "eer",
    "hysteresis_k",
    "thermostat_room_id",
)
VENT_FIELDS = ("name", "room_id", "area_cm2", "flow_m3_h", "notch")
Place = Annotated[int, Ge(0), Le(20)]


def _with(home: Home, system: DuctSystem, summary: str) -> Edit:
    return Edit(replace(home, ducts=swapped(home.ducts, system)), summary, system.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddDucts:
    """Write down a furnace or heat pump on ducts, with a vent in each heated room; all of them make one zone."""

    kind: SourceKind = "boiler"
    heat_w: Annotated[float, Gt(0), Le(200_000), Unit("W")] = 15_000.0

    def edit(self, home: Home) -> Edit:
        """Return the home with it; the first room that is heated has the thermostat."""
        source = next((s for s in home.sources if s.kind == self.kind), None)
        if source is None:
            home = AddSource(kind=self.kind).edit(home).home
            source = home.sources[-1]
        rooms = [room for room in home.rooms if room.condition == "heated"]
        if not rooms:
            raise HomeError("no room is heated yet; add the rooms first, then their vents")
        for room in rooms:
            if home.zone_of_room(room.id) is None:
                home = with_zone_for(home, room)
        system = DuctSystem(
            id=new_id(),
            name=free_name({d.name for d in home.ducts}, "Ducts"),
            source_id=source.id,
            stages=(HeatStage(heat_w=self.heat_w),),
            thermostat_room_id=rooms[0].id,
            vents=tuple(Vent(id=new_id(), name=f"{room.name} vent"[:80], room_id=room.id) for room in rooms),
        )
        return Edit(replace(home, ducts=(*home.ducts, system)), f"{system.name} added", system.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeDucts:
    """Type a duct system's fields."""

    id: Id
    values: Annotated[Values, FieldsOf(DuctSystem, SYSTEM_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        values = dict(self.values)
        if "thermostat_room_id" in values:
            values["thermostat_room_id"] = values["thermostat_room_id"] or None
        changed = replace(home.duct_system(self.id), **values)
        return _with(home, changed, f"{changed.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveDucts:
    """Remove a duct system with its vents."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        system = home.duct_system(self.id)
        left = tuple(d for d in home.ducts if d.id != self.id)
        return Edit(replace(home, ducts=left), f"{system.name} removed", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddVent:
    """Write down a vent in a room."""

    id: Id
    room_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        system, room = home.duct_system(self.id), home.room(self.room_id)
        name = free_name({v.name for v in system.vents}, f"{room.name} vent"[:78])
        vent = Vent(id=new_id(), name=name, room_id=room.id)
        return _with(home, replace(system, vents=(*system.vents, vent)), f"{name} added")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeVent:
    """Type a vent's area, its measured air, and how many notches it is shut."""

    id: Id
    vent_id: Id
    values: Annotated[Values, FieldsOf(Vent, VENT_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        system = home.duct_system(self.id)
        vent = next((v for v in system.vents if v.id == self.vent_id), None)
        if vent is None:
            raise HomeError("this vent is not there any more")
        changed = replace(vent, **self.values)
        if changed.notch > system.most_notch:
            raise HomeError(f"no vent of {system.name} is shut further than {system.most_notch} notches")
        return _with(home, replace(system, vents=swapped(system.vents, changed)), f"{changed.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeAirShares:
    """Take rooms' shares of the air, as a log told them, for the air of their vents; by area within a room."""

    id: Id
    shares: Mapping[str, float]

    def edit(self, home: Home) -> Edit:
        """Return the home with them."""
        system = home.duct_system(self.id)
        areas = {key: sum(v.area_cm2 for v in system.vents if v.room_id == key) for key in self.shares}
        vents = tuple(
            replace(v, flow_m3_h=round(system.flow_m3_h * self.shares[v.room_id] * v.area_cm2 / areas[v.room_id], 1))
            if v.room_id in self.shares
            else v
            for v in system.vents
        )
        return _with(home, replace(system, vents=vents), f"{system.name}: air of the vents as its log tells")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveVent:
    """Remove a vent."""

    id: Id
    vent_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        system = home.duct_system(self.id)
        left = tuple(v for v in system.vents if v.id != self.vent_id)
        return _with(home, replace(system, vents=left), "A vent removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetStage:
    """Type a stage of heat: how much, from how far under the setpoint, after how long; the next place adds one."""

    id: Id
    place: Place
    heat_w: Annotated[float, Gt(0), Le(200_000), Unit("W")]
    short_k: Annotated[float, Ge(0), Le(10), Unit("K")] = 0.3
    delay_min: Annotated[float, Ge(0), Le(240), Unit("min")] = 0.0
    is_auxiliary: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it.

        Raises
        ------
        HomeError
            If a stage before it is missing, or there are four.
        """
        system = home.duct_system(self.id)
        if self.place > min(len(system.stages), 3):
            raise HomeError("a duct system has one to four stages, one after another")
        stage = HeatStage(
            heat_w=self.heat_w, short_k=self.short_k, delay_min=self.delay_min, is_auxiliary=self.is_auxiliary
        )
        stages = (*system.stages[: self.place], stage, *system.stages[self.place + 1 :])
        return _with(home, replace(system, stages=stages), f"Stage {self.place + 1} of {system.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveStage:
    """Remove the last stage of heat."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it; ``HomeError`` for the only one."""
        system = home.duct_system(self.id)
        if len(system.stages) == 1:
            raise HomeError("one stage has to stay; change it instead")
        return _with(home, replace(system, stages=system.stages[:-1]), f"A stage of {system.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddChoice:
    """Write down which rooms' sensors could lead together."""

    id: Id
    name: Name
    rooms: tuple[str, ...] = ()

    def edit(self, home: Home) -> Edit:
        """Return the home with it; ``HomeError`` if no room is ticked."""
        system = home.duct_system(self.id)
        if not self.rooms:
            raise HomeError("tick the rooms whose sensors lead together")
        if len(system.choices) >= 8:
            raise HomeError("eight choices are enough; remove one first")
        for key in self.rooms:
            home.room(key)
        choice = SensorChoice(name=self.name, room_ids=self.rooms)
        others = tuple(c for c in system.choices if c.name != self.name)
        return _with(home, replace(system, choices=(*others, choice)), f"{self.name} may lead")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveChoice:
    """Remove a choice of leading sensors."""

    id: Id
    place: Place

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        system = home.duct_system(self.id)
        left = tuple(c for place, c in enumerate(system.choices) if place != self.place)
        return _with(home, replace(system, choices=left), "A choice of sensors removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasureRooms:
    """Write down what each room read at steady weather (empty where nobody read): a round of trimming."""

    id: Id
    on: date
    rooms: Mapping[str, Annotated[float, Ge(-30), Le(60), Unit("°C")]]
    is_cooling: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with the round; another of the same date is replaced.

        Raises
        ------
        HomeError
            If fewer than two rooms were read.
        """
        system = home.duct_system(self.id)
        read = {key: value for key, value in self.rooms.items() if key in system.room_ids}
        if len(read) < 2:
            raise HomeError("read two rooms or more, within an hour, at steady weather")
        mean = sum(read.values()) / len(read)
        found = VentRound(
            on=self.on,
            is_cooling=self.is_cooling,
            differences=tuple(
                RoomDifference(room_id=key, diff_k=round(value - mean, 3)) for key, value in read.items()
            ),
            notches=tuple((vent.id, vent.notch) for vent in system.vents),
        )
        rounds = (*(r for r in system.rounds if r.on != self.on), found)
        ordered = tuple(sorted(rounds, key=lambda each: each.on))
        return _with(home, replace(system, rounds=ordered), f"{len(read)} rooms measured on {self.on}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveRound:
    """Remove a round of trimming."""

    id: Id
    on: date

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        system = home.duct_system(self.id)
        left = tuple(r for r in system.rounds if r.on != self.on)
        return _with(home, replace(system, rounds=left), "A round of measuring removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetVents:
    """Note the vents as they were set, by notches."""

    id: Id
    notches: Mapping[str, Annotated[int, Ge(0), Le(40)]]

    def edit(self, home: Home) -> Edit:
        """Return the home with the vents so.

        Raises
        ------
        HomeError
            If a vent is shut further than it may be.
        """
        system = home.duct_system(self.id)
        if any(notch > system.most_notch for notch in self.notches.values()):
            raise HomeError(f"no vent of {system.name} is shut further than {system.most_notch} notches")
        vents = tuple(replace(v, notch=self.notches.get(v.id, v.notch)) for v in system.vents)
        moved = sum(a.notch != b.notch for a, b in zip(system.vents, vents, strict=True))
        return _with(home, replace(system, vents=vents), f"{moved} vents set")
