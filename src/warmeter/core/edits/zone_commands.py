"""Commands on zones: rooms, owner, who follows, which sensors count, guard, the gap between heating and cooling."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.building.fixes import fixed, zone_alone
from warmeter.core.building.replacing import room_into_zone
from warmeter.core.edits.edit import UNSET, Edit, FieldsOf, Unset, Values
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import HeatCoolGap, Home
from warmeter.core.home.part import Id, SetpointC, Word
from warmeter.core.home.zones import CountedSensor, GuardLimits, Sensing, Zone
from warmeter.core.sensing.calibration import CountRule
from warmeter.core.sentence import kelvin, sentence


def _with_zone(home: Home, zone: Zone, summary: str) -> Edit:
    return Edit(replace(home, zones=swapped(home.zones, zone)), summary, zone.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeZone:
    """Type a zone's name, owner, range, what off means, and its own lower guard limit; without one the home's holds."""

    id: Id
    values: Annotated[Values, FieldsOf(Zone, ("name", "owner_id", "low_c", "high_c", "off_means", "off_c"))]
    guard_low_c: SetpointC | Unset | None = UNSET

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        zone = home.zone_of_id(self.id)
        changed = replace(zone, **self.values)
        if self.guard_low_c is None:
            changed = replace(changed, guard=None)
        elif not isinstance(self.guard_low_c, Unset):
            high_c = home.guard_of(zone).high_c
            changed = replace(changed, guard=GuardLimits(low_c=self.guard_low_c, high_c=high_c))
        if changed.owner_id is not None:
            home.device(changed.owner_id)
        return _with_zone(home, changed, f"{changed.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRoomToZone:
    """Move a room into a zone, or with none named into one of its own."""

    room_id: Id
    zone_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        room = home.room(self.room_id)
        if self.zone_id:
            name = home.zone_of_id(self.zone_id).name
            return Edit(room_into_zone(home, room.id, self.zone_id), f"{room.name} joined to {name}", self.zone_id)
        summary, zone = f"{room.name} is a zone of its own", home.zone_of_room(room.id)
        if zone is not None and len(zone.room_ids) == 1:
            return Edit(home, summary, zone.id)
        if zone is None:
            changed = fixed(home, "room in no zone", (room.id,), new_id())
        else:
            changed = zone_alone(home, zone, room.id, new_id())
        return Edit(changed, summary, changed.zones[-1].id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ToggleFollower:
    """Let a heater follow a zone or not; all of its rooms' heaters follow until one is told not to."""

    id: Id
    heater_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with it following, or not."""
        zone, heater = home.zone_of_id(self.id), home.heater(self.heater_id)
        following = home.following(zone)
        is_out = heater.id in following
        ids = tuple(h for h in following if h != heater.id) if is_out else (*following, heater.id)
        every = home.following(replace(zone, heater_ids=None))
        changed = replace(zone, heater_ids=None if set(ids) == set(every) else ids)
        return _with_zone(home, changed, f"{zone.name}: what is controlled by it")


@dataclass(frozen=True, slots=True, kw_only=True)
class CountSensors:
    """Say which sensors count for a zone at a level, and how; none gives the level back to the common rule."""

    id: Id
    rule: CountRule
    level_id: Word = ""
    counted: tuple[str, ...] = ()
    weight: Mapping[str, Annotated[float, Ge(0.01), Le(100)]] = field(default_factory=dict)

    def edit(self, home: Home) -> Edit:
        """Return the home with them counted."""
        zone, level_id = home.zone_of_id(self.id), self.level_id or None
        if level_id:
            home.level(level_id)
        if self.rule == "one" and len(self.counted) > 1:
            raise HomeError("one sensor counts, but several are ticked; tick one, or choose how they count together")
        sensors = tuple(
            CountedSensor(device_id=device.id, weight=self.weight.get(device.id, 1.0))
            for device in home.devices
            if device.id in self.counted
        )
        others = tuple(s for s in zone.sensing if s.level_id != level_id)
        own = (Sensing(rule=self.rule, sensors=sensors, level_id=level_id),) if sensors else ()
        return _with_zone(home, replace(zone, sensing=(*others, *own)), f"{zone.name}: which sensors count")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeGap:
    """Set how far heating and cooling keep apart, and why."""

    values: Annotated[Values, FieldsOf(HeatCoolGap, ("gap_k", "reason"))]

    def edit(self, home: Home) -> Edit:
        """Return the home with it set."""
        gap = replace(home.gap, **self.values)
        return Edit(replace(home, gap=gap), sentence("Heating and cooling keep {} apart", kelvin(gap.gap_k)))
