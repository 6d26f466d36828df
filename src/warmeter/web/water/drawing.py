"""The picture of a storey's water: points, what shuts them, leak sensors and what they cover."""

from dataclasses import dataclass

from warmeter.core.building.geometry import on_plan
from warmeter.core.explain.home_water import HomeWater
from warmeter.core.home.document import Home
from warmeter.core.home.part import Spot
from warmeter.web.floor_plan.draw import FloorPlanPicture, RoomShape, draw_storey
from warmeter.web.floor_plan.labels import Box, covered_px2

WIDTH, HEIGHT = 600, 250
WATER_KINDS = frozenset({"leak_sensor", "water_valve"})
COVER_PX, MARK_PX, LETTER_PX = 14.0, 9.0, 6.2


@dataclass(frozen=True, slots=True, kw_only=True)
class PointMark:
    """A point of water on the picture [px], its label's place and how it is aligned."""

    id: str
    name: str
    kind: str
    x: float
    y: float
    label_y: float
    is_covered: bool
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterLine:
    """A line from a valve to a point that it shuts; ``is_warm`` carries warm water."""

    path: str
    is_warm: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterPicture:
    """A storey's water, ready to be drawn over its rooms."""

    plan: FloorPlanPicture
    points: tuple[PointMark, ...]
    lines: tuple[WaterLine, ...]
    covers: tuple[tuple[float, float, float, float], ...]
    valves: tuple[tuple[str, str, float, float, bool], ...]
    drops: tuple[tuple[str, str, float, float], ...]
    names: tuple[tuple[str, float, float], ...]


def water_picture(home: Home, found: HomeWater, storey_id: str, at: str) -> WaterPicture:
    """Return the picture of a storey's water; ``at`` is the chosen point."""
    wet = {point.room_id for point in home.water_points}
    shown = {room.id for room in home.rooms if room.condition != "outdoors" or room.id in wet}
    plan = draw_storey(
        home, storey_id, width=WIDTH, height=HEIGHT, kinds=WATER_KINDS, room_ids=shown, picture_id="water"
    )
    rooms = {room.id: room for room in home.rooms if room.storey_id == storey_id and room.id in shown and room.rects}

    def px(room_id: str | None, spot: Spot | None) -> tuple[float, float] | None:
        room = rooms.get(room_id or "")
        if room is None or spot is None:
            return None
        x_m, y_m = on_plan(room, spot)
        return round((x_m - plan.left_m) * plan.scale, 1), round((y_m - plan.top_m) * plan.scale, 1)

    places = {p.id: place for p in home.water_points if (place := px(p.room_id, p.at)) is not None}
    devices = {
        d.id: place
        for d in home.devices
        if d.kind in WATER_KINDS and d.is_in_service and (place := px(d.room_id, d.at)) is not None
    }
    told = {key for c in home.safety_chains if c.kind == "leak" for key in c.device_ids}
    marks = [(x - MARK_PX, y - MARK_PX, x + MARK_PX, y + MARK_PX) for x, y in (*places.values(), *devices.values())]
    names = tuple(_room_name(plan, shape, marks) for shape in plan.rooms)
    labels = _labels(home, places, marks, names)
    return WaterPicture(
        plan=plan,
        names=names,
        points=tuple(
            PointMark(
                id=p.id,
                name=p.name,
                kind=p.kind,
                x=places[p.id][0],
                y=places[p.id][1],
                label_y=labels[p.id],
                is_covered=found.is_covered(p.id),
                is_on=p.id == at,
            )
            for p in home.water_points
            if p.id in places
        ),
        lines=tuple(
            WaterLine(path=_elbow(devices[p.valve_ids[0]], places[p.id]), is_warm=p.is_warm)
            for p in home.water_points
            if p.id in places and p.valve_ids and p.valve_ids[0] in devices
        ),
        covers=tuple(box for key, place in devices.items() if (box := _cover(home, key, place, places)) is not None),
        valves=tuple(
            (key, home.device(key).name, *place, key in told)
            for key, place in devices.items()
            if home.device(key).kind == "water_valve"
        ),
        drops=tuple(
            (key, home.device(key).name, *place)
            for key, place in devices.items()
            if home.device(key).kind == "leak_sensor"
        ),
    )


def _name_box(name: str, x: float, y: float) -> Box:
    return x, y - 12, x + LETTER_PX * len(name), y + 4


def _room_name(plan: FloorPlanPicture, shape: RoomShape, marks: list[Box]) -> tuple[str, float, float]:
    """Return a room's name in the upper or lower left corner of its first rectangle, where it covers less [px]."""
    _, x_m, y_m, _, depth_m = shape.rects[0]
    x, top = (x_m - plan.left_m) * plan.scale + 8, (y_m - plan.top_m) * plan.scale
    choices = (top + 18, top + depth_m * plan.scale - 8)
    y = min(choices, key=lambda at: sum(covered_px2(_name_box(shape.name, x, at), mark) for mark in marks))
    return shape.name, round(x, 1), round(y, 1)


def _labels(
    home: Home, places: dict[str, tuple[float, float]], marks: list[Box], names: tuple[tuple[str, float, float], ...]
) -> dict[str, float]:
    """Return where each point's name stands [px]: above it, or below where that covers less."""
    taken = marks + [_name_box(name, x, y) for name, x, y in names]
    found = {}
    for point in home.water_points:
        if point.id not in places:
            continue
        x, y = places[point.id]
        half = LETTER_PX * len(point.name) / 2
        choices = [(x - half, at - 11, x + half, at + 3) for at in (y - 11, y + 19)]
        best = min(choices, key=lambda box: sum(covered_px2(box, other) for other in taken))
        taken.append(best)
        found[point.id] = best[3] - 3
    return found


def _elbow(valve: tuple[float, float], point: tuple[float, float]) -> str:
    return f"M{valve[0]} {valve[1]}H{point[0]}V{point[1]}"


def _cover(
    home: Home, sensor_id: str, place: tuple[float, float], places: dict[str, tuple[float, float]]
) -> tuple[float, float, float, float] | None:
    """Return the box round a sensor and the points whose water comes to it [px]; None where it covers none drawn."""
    near = [
        places[p.id]
        for p in home.water_points
        if p.id in places and sensor_id in {reach.device_id for reach in p.reaches}
    ]
    if not near:
        return None
    xs, ys = [place[0], *(x for x, _ in near)], [place[1], *(y for _, y in near)]
    left, top = min(xs) - COVER_PX, min(ys) - COVER_PX
    return left, top, max(xs) + COVER_PX - left, max(ys) + COVER_PX - top
