"""The rule that lets one thing of a room follow whether anybody is there: a heater, a split unit, a lamp, a plug, a blind."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.rule_edits import with_new_rule
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.document import Home
from warmeter.core.home.machines import CYCLES_BY_ITSELF
from warmeter.core.home.part import Id, Unit
from warmeter.core.home.presets import USE
from warmeter.core.home.rules import Blinds, PutBack, Rule, RuleLimits, Step, Switch
from warmeter.core.rule.checks.watch_checks import ABSENCE_WAIT_S, BACK_WAIT_S
from warmeter.core.starters.starter import COMPRESSOR_REST_S, rule_of
from warmeter.core.units import S_PER_DAY

SHADED = 0.8
OF_DEVICES = ("lamp_switch", "plug", "relay", "blind_motor")


def idle_things(home: Home, room_id: str) -> list[tuple[str, str]]:
    """Return what could follow a room by id and name; appliances of the home too, but none that must stay on."""
    devices = [d for d in home.devices_in(room_id) if d.kind in OF_DEVICES and d.is_in_service and d.drives_id is None]
    found = [(h.id, h.name) for h in home.heaters_of(room_id)] + [(d.id, d.name) for d in devices]
    return found + [(m.id, m.name) for m in home.appliances if m.kind not in CYCLES_BY_ITSELF]


def idle_thing_rule(home: Home, room_id: str, thing_id: str, wait_s: int) -> Rule:
    """Return the rule that switches a thing off, or lets a blind down, when a room has been empty for so long.

    Raises
    ------
    HomeError
        If the thing is none that could follow the room.
    """
    things = dict(idle_things(home, room_id))
    if thing_id not in things:
        raise HomeError("choose what shall follow the room")
    seen = Signal(quantity="is_in", subject_id=room_id)
    is_blind = any(d.id == thing_id and d.kind == "blind_motor" for d in home.devices)
    does: Step = (
        Blinds(target_ids=(thing_id,), down=SHADED) if is_blind else Switch(target_ids=(thing_id,), is_on=False)
    )
    cools = any(h.id == thing_id and h.may_cool for h in home.heaters)
    rest_s = COMPRESSOR_REST_S if cools else 0
    return rule_of(
        f"{things[thing_id]}, {home.room(room_id).name} empty",
        "rule",
        InState(of=seen, is_on=False),
        [does],
        reading="is",
        for_s=wait_s,
        only_while=((Hours(from_min=420, until_min=1260),), (Fact(word="guests are here", is_true=False),)),
        put_back=PutBack(when=((InState(of=seen),),), for_s=BACK_WAIT_S),
        intent="Off when nobody is there any more, after the wait that its own log proposes.",
        limits=RuleLimits(min_on_s=rest_s, min_off_s=rest_s, when_stale="put_back"),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class WriteIdleRule:
    """Write the rule that lets a thing follow a room after a wait beyond its sensors' own hold [s]."""

    room_id: Id
    thing_id: Id
    wait_s: Annotated[int, Ge(0), Le(S_PER_DAY), Unit("s")]

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        idle_s, for_s = waits_apart(home, self.room_id, self.wait_s)
        room = replace(home.room(self.room_id), idle_s=idle_s)
        home = replace(home, rooms=swapped(home.rooms, room))
        added, rule = with_new_rule(home, idle_thing_rule(home, room.id, self.thing_id, for_s))
        return Edit(added, f"{rule.name} written", room.id)


def waits_apart(home: Home, room_id: str, wait_s: int) -> tuple[int | None, int]:
    """Return the room's own idle time and the rule's wait, which together are what was asked [s].

    A room whose motion tells of it is empty only after its idle time, so that the rule waits for the rest; where that
    leaves it too little, or never ends, it is shortened. A presence sensor's word has no idle time.
    """
    room = home.room(room_id)
    if any(d.kind == "presence_sensor" and d.is_in_service for d in home.devices_in(room_id)):
        return room.idle_s, wait_s
    own_s = USE[room.use].empty_after_s if room.idle_s is None else room.idle_s
    least_s = min(wait_s, ABSENCE_WAIT_S)
    if own_s is not None and own_s <= wait_s - least_s:
        return room.idle_s, wait_s - round(own_s)
    return wait_s - least_s, least_s
