"""Water where it should not be: where it would come out, what notices it, and who is told."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Ge, Gt, Le

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.floor_plan_edits import with_device
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.room_lines import RoomLine
from warmeter.core.home.devices import Device, DeviceKind, SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name, Unit
from warmeter.core.home.rooms import Room
from warmeter.core.home.rules import Loudness
from warmeter.core.nuisances.growing import USUAL_AREA_M2, with_named_room, with_people, with_started_rule

WATER_GROUP = ", water"


@dataclass(frozen=True, slots=True, kw_only=True)
class StrayWater:
    """A place where water could come out, whether a valve can shut it, who is told and how soon somebody is there.

    ``flow_l_min`` is what would flow [L/min]; ``there_min`` how long until somebody acts where no valve does [min];
    ``notice_h`` how long until it is seen where no sensor tells [h].
    """

    room: Name
    flow_l_min: Annotated[float, Gt(0), Le(200), Unit("L/min")] = 10.0
    has_valve: bool = False
    tell: Name = "Everybody"
    loudness: Loudness = "alarm"
    there_min: Annotated[float, Ge(0), Le(10_000), Unit("min")] = 30.0
    notice_h: Annotated[float, Ge(0), Le(1000), Unit("h")] = 12.0

    def edit(self, home: Home) -> Edit:
        """Return the home with the room, a leak sensor, its valve, the alarm path and the rule."""
        line = RoomLine(name=self.room, area_m2=USUAL_AREA_M2, outside_walls=1, condition="unheated")
        grown, room = with_named_room(home, line)
        # A group of its own: water knows no quiet hours, and must not take away those of anything else.
        grown, people = with_people(grown, f"{self.tell[:70]}{WATER_GROUP}", self.loudness, None, None)
        grown, sensor = _with_one(grown, "leak_sensor", room)
        valve = None
        if self.has_valve:
            grown, valve = _with_one(grown, "water_valve", room)
        path = next((c for c in grown.safety_chains if sensor.id in c.device_ids), None)
        ids = (sensor.id,) if valve is None else (sensor.id, valve.id)
        name = f"Water, {room.name}"[:80]
        chain = (
            SafetyChain(id=new_id(), name=name, kind="leak", device_ids=ids)
            if path is None
            else replace(path, name=name, device_ids=ids)
        )
        paths = tuple(c for c in grown.safety_chains if c.id != chain.id)
        grown = replace(grown, safety_chains=(*paths, chain))
        grown, rule = with_started_rule(grown, "leak", "valve" if valve is not None else "tell", sensor.id)
        others = tuple(group for group in grown.notification_groups if group.id != people.id)
        grown = replace(grown, notification_groups=(*others, people))
        return Edit(grown, f"Leak sensor in {room.name} added, {self.tell} is told", rule.id)


def _with_one(home: Home, kind: DeviceKind, room: Room) -> tuple[Home, Device]:
    """Return a home with a device of a kind in a room, the one that stands there where one does."""
    old = next((d for d in home.devices_in(room.id) if d.kind == kind), None)
    if old is not None:
        return home, old
    changed = with_device(home, kind, room.id)
    return changed, changed.devices[-1]
