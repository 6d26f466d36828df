"""What the plan says of a place where a log found a sensor spoilt: it agrees, contradicts, or cannot tell."""

from dataclasses import dataclass
from typing import Literal

from warmeter.core.building.geometry import box_distance_m, heater_box, on_plan, outside_wall_at, sun_on_spot
from warmeter.core.building.room_envelope import wall_of
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.part import Spot
from warmeter.core.home.rooms import Room
from warmeter.core.sensing.placement import SpoiltBy
from warmeter.core.sentence import Measure, Sentence, sentence

Verdict = Literal["agrees", "contradicts", "not_told"]
NEAR_HEATER_M, NEAR_OPENING_M = 1.5, 1.5


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanSays:
    """What the plan says of a cause."""

    verdict: Verdict
    words: Sentence | str


def plan_says(home: Home, device: Device, by: SpoiltBy) -> PlanSays:
    """Return whether the plan agrees that a cause can spoil a sensor where it is placed."""
    if by in ("hand", "stale"):
        return PlanSays(verdict="not_told", words="")
    room = None if device.room_id is None else home.room(device.room_id)
    if room is None or device.at is None or not room.is_drawn:
        return PlanSays(verdict="not_told", words="It is not placed on the plan, which cannot tell.")
    if by == "sun":
        lit = sun_on_spot(home, room, device.at)
        if lit:
            return PlanSays(verdict="agrees", words=f"The plan agrees: the sun can come {lit[0].sentence}.")
        return PlanSays(
            verdict="contradicts",
            words="By the plan no sun reaches it: it hangs elsewhere, or light comes off something.",
        )
    if by == "heater":
        return _heater(home, room, device.at)
    if by == "outside_wall":
        if outside_wall_at(home, room, device.at) is not None:
            return PlanSays(verdict="agrees", words="The plan agrees: it hangs on an outside wall.")
        return PlanSays(
            verdict="contradicts",
            words="By the plan it hangs on no outside wall: look at where it hangs, or at a cold pipe behind it.",
        )
    return _opening(home, room, device.at)


def _heater(home: Home, room: Room, spot: Spot) -> PlanSays:
    x, y = on_plan(room, spot)
    near = [
        (box_distance_m(box, (x, y, x, y)), heater.name)
        for heater in home.heaters_of(room.id)
        if heater.kind != "warm_floor" and (box := heater_box(room, heater)) is not None
    ]
    if not near:
        return PlanSays(verdict="not_told", words="No heater of the room is placed on the plan.")
    away, name = min(near)
    words = sentence("{} stands {} from it", name, Measure(round(away, 1), "m", 1))
    if away <= NEAR_HEATER_M:
        return PlanSays(verdict="agrees", words=sentence("The plan agrees: {}.", words))
    return PlanSays(
        verdict="contradicts", words=sentence("By the plan {}: look for a pipe or a device that warms it.", words)
    )


def _opening(home: Home, room: Room, spot: Spot) -> PlanSays:
    x, y = on_plan(room, spot)
    for opening in home.openings_of(room.id):
        wall, _ = wall_of(home, opening)
        if wall is None:
            continue
        level = opening.side in ("up", "down")
        across = abs((y if level else x) - wall.stretch.at_m)
        box_x, box_y = min(r.x_m for r in room.rects), min(r.y_m for r in room.rects)
        along = abs((x if level else y) - (opening.along_m + (box_x if level else box_y)))
        if max(across, along - opening.width_m / 2) <= NEAR_OPENING_M:
            return PlanSays(verdict="agrees", words=f"The plan agrees: a {opening.kind} is near it.")
    return PlanSays(
        verdict="contradicts",
        words="By the plan no window or door is near it: look for a draught out of the wall's box.",
    )
