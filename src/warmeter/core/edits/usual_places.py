"""Where a part stands until somebody says where: heaters by an outside wall, sensors clear of them, nothing on another."""

from math import hypot

from warmeter.core.building.room_envelope import home_plan
from warmeter.core.floor_plan.shape import SIDES, bounds, contains
from warmeter.core.home.document import Home
from warmeter.core.home.part import Spot
from warmeter.core.home.rooms import Room

WALL_M = 0.1
BESIDE_M = 0.6
CLEAR_M = 1.5  # from every heater: beyond what a check asks
APART_M = 0.4
Point = tuple[float, float]


def middle_of(room: Room) -> Spot | None:
    """Return the middle of a room's first rectangle, None if it is not drawn."""
    if not room.rects:
        return None
    box, corner = room.rects[0], bounds(room.rects)
    return _spot((box.x_m - corner.x_m + box.width_m / 2, box.y_m - corner.y_m + box.depth_m / 2))


def heater_place(home: Home, room: Room) -> Spot | None:
    """Return a free place for a heater: the middle of the longest outside wall, else beside what stands there."""
    if not room.rects:
        return None
    drawing = home_plan(home)[room.id]
    sides = sorted(SIDES, key=lambda side: -drawing.outside_m(side))
    walls = _along_walls(room, WALL_M)
    return _spot(_freest([walls[side] for side in sides], _taken(home, room), APART_M))


def valve_place(home: Home, room: Room, heater_id: str | None) -> Spot | None:
    """Return the place of what works a heater: at its end; in the middle of the room where none is known."""
    at = next((h.at for h in home.heaters if h.id == heater_id), None)
    if at is None or not room.rects:
        return middle_of(room)
    corner = bounds(room.rects)
    beside = [(at.x_m + dx, at.y_m + dy) for dx, dy in ((BESIDE_M, 0), (-BESIDE_M, 0), (0, BESIDE_M), (0, -BESIDE_M))]
    inside = [p for p in beside if contains(room.rects, p[0] + corner.x_m, p[1] + corner.y_m)]
    return _spot(_freest(inside or [(at.x_m, at.y_m)], _taken(home, room), APART_M))


def sensor_place(home: Home, room: Room) -> Spot | None:
    """Return a place for a sensor: clear of every heater, inside the room rather than on an outside wall."""
    if not room.rects:
        return None
    box, corner = room.rects[0], bounds(room.rects)
    left, top = box.x_m - corner.x_m, box.y_m - corner.y_m
    inner = [
        (left + share_x * box.width_m, top + share_y * box.depth_m)
        for share_x in (0.5, 0.3, 0.7, 0.2, 0.8)
        for share_y in (0.5, 0.7, 0.3, 0.8, 0.2)
    ]
    heaters = [(h.at.x_m, h.at.y_m) for h in home.heaters_of(room.id) if h.at is not None]
    others = [place for place in _taken(home, room) if place not in heaters]
    clear = [p for p in inner if all(_apart(p, h) >= CLEAR_M for h in heaters)]
    if not clear and heaters:
        clear = [max(inner, key=lambda p: min(_apart(p, h) for h in heaters))]
    return _spot(_freest(clear or inner, others, APART_M))


def _along_walls(room: Room, inset_m: float) -> dict[str, Point]:
    box, corner = max(room.rects, key=lambda r: r.width_m * r.depth_m), bounds(room.rects)
    left, top = box.x_m - corner.x_m, box.y_m - corner.y_m
    across, down = left + box.width_m / 2, top + box.depth_m / 2
    return {
        "up": (across, top + inset_m),
        "down": (across, top + box.depth_m - inset_m),
        "left": (left + inset_m, down),
        "right": (left + box.width_m - inset_m, down),
    }


def _taken(home: Home, room: Room) -> list[Point]:
    spots = [heater.at for heater in home.heaters_of(room.id)] + [device.at for device in home.devices_in(room.id)]
    return [(at.x_m, at.y_m) for at in spots if at is not None]


def _freest(places: list[Point], taken: list[Point], apart_m: float) -> Point:
    """Return the first place with nothing near, else the one farthest from what stands there."""
    for place in places:
        if all(_apart(place, other) >= apart_m for other in taken):
            return place
    return max(places, key=lambda p: min(_apart(p, other) for other in taken))


def _apart(one: Point, other: Point) -> float:
    return hypot(one[0] - other[0], one[1] - other[1])


def _spot(at: Point) -> Spot:
    return Spot(x_m=round(at[0], 2), y_m=round(at[1], 2))
