"""A storey of a home as SVG parts: walls, openings, what stands there, labels and dimensions.

One metre is a whole number of px where it can be; numbers come ready from the core.
"""

import itertools
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from warmeter.core.building.geometry import heater_box, on_plan, thing_box
from warmeter.core.building.room_envelope import home_plan, wall_of
from warmeter.core.floor_plan.shape import Rect, bounds, outline
from warmeter.core.floor_plan.walls import Wall
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Opening, Room
from warmeter.core.units import M_PER_FT, LengthUnit, area_to
from warmeter.web import format as show
from warmeter.web.floor_plan.labels import Box, clear_place

EMPTY = Rect(x_m=0.0, y_m=0.0, width_m=12.0, depth_m=7.0)
MARGIN_PX = 46
LEAST_PX_M, MOST_PX_M = 8, 60
# Widths of a letter and of an area with its unit in a room's label [px].
LETTER_PX, AREA_PX, LEAST_LETTERS = 7.2, 62, 9
# Marks of devices by kind: a shape with a letter; no two kinds share both.
DEVICE_MARK = {
    "thermostat": ("square", "T"),
    "radiator_valve": ("bow", ""),
    "air_sensor": ("cross", ""),
    "floor_probe": ("grid", ""),
    "contact": ("square", "C"),
    "motion": ("round", "M"),
    "plug": ("round", "P"),
    "relay": ("square", "R"),
    "infrared_sender": ("round", "I"),
    "blind_motor": ("square", "B"),
    "leak_sensor": ("drop", ""),
    "water_valve": ("bow", "W"),
    "meter": ("square", "E"),
    "smoke_alarm": ("round", "S"),
    "pump_switch": ("round", "U"),
    "lamp_switch": ("round", "L"),
    "wall_switch": ("square", "S"),
    "controller": ("square", "Z"),
    "lamp_sensor": ("square", "L"),
    "telephone": ("round", "T"),
    "mattress": ("square", "M"),
    "presence_sensor": ("square", "P"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomFacts:
    """What a room's label shows beside its name: loss and output [W] as lengths and words."""

    loss_w: float
    output_w: float
    loss: str
    output: str
    is_short: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomShape:
    """A room: its outline as a path, its label's place, bars in px, handles when selected."""

    id: str
    name: str
    title: str
    path: str
    x: float
    y: float
    area: str
    is_narrow: bool
    bar_x: float
    flag: str
    facts: RoomFacts | None
    loss_px: float
    output_px: float
    is_on: bool
    is_other: bool
    rects: tuple[tuple[int, float, float, float, float], ...]
    handles: tuple[tuple[str, str, float, float, float, float, float], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class OpeningShape:
    """A window or door: the hole in the wall and its lines as paths, the box a door swings in [px]."""

    id: str
    kind: str
    title: str
    hole: str
    lines: str
    swing: Box | None
    axis: str
    along_m: float
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ItemShape:
    """A heater, device or thing at its place."""

    id: str
    sort: str
    kind: str
    mark: str
    letter: str
    title: str
    x: float
    y: float
    box: tuple[float, float, float, float] | None
    x_m: float
    y_m: float
    flag: str
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FloorPlanPicture:
    """A storey, ready to be drawn; lengths in px unless named otherwise."""

    id: str
    width: int
    height: int
    scale: float
    left_m: float
    top_m: float
    storey_id: str
    rooms: tuple[RoomShape, ...]
    outer_walls: str
    inner_walls: str
    below: str
    openings: tuple[OpeningShape, ...]
    items: tuple[ItemShape, ...]
    dims_x: tuple[tuple[float, float, str], ...]
    dims_y: tuple[tuple[float, float, str], ...]
    edges_x: tuple[float, ...]
    edges_y: tuple[float, ...]
    ruler: tuple[tuple[float, str], ...]
    length_unit: LengthUnit
    north_deg: float

    @property
    def floor_y(self) -> float:
        """Where the ruler stands."""
        return self.height - 16.0


class _Scale:
    """Metres of a storey to px of its picture."""

    def __init__(self, around: Rect, width: int, height: int) -> None:
        across = (width - 2 * MARGIN_PX) / around.width_m
        down = (height - 2 * MARGIN_PX) / around.depth_m
        fits = max(LEAST_PX_M, min(across, down, MOST_PX_M))
        self.px_m = float(int(fits)) if fits >= LEAST_PX_M else fits
        self.left_m = around.x_m - (width / self.px_m - around.width_m) / 2
        self.top_m = around.y_m - (height / self.px_m - around.depth_m) / 2

    def x(self, metres: float) -> float:
        """Return px across."""
        return round((metres - self.left_m) * self.px_m, 2)

    def y(self, metres: float) -> float:
        """Return px down."""
        return round((metres - self.top_m) * self.px_m, 2)


def draw_storey(
    home: Home,
    storey_id: str,
    *,
    width: int,
    height: int,
    facts: Mapping[str, RoomFacts] | None = None,
    flags: Mapping[str, str] | None = None,
    selected: str = "",
    picture_id: str = "plan",
    kinds: Collection[str] | None = None,
    room_ids: Collection[str] | None = None,
) -> FloorPlanPicture:
    """Return one storey's picture.

    ``facts`` label rooms, ``flags`` are letters of findings by part, ``selected`` is the id that is chosen; of what
    stands in rooms only some ``kinds`` are drawn, and only rooms of ``room_ids`` (None: all).
    """
    facts, flags = facts or {}, flags or {}
    shown = None if room_ids is None else set(room_ids)
    rooms = [r for r in home.rooms if r.storey_id == storey_id and r.rects and (shown is None or r.id in shown)]
    drawn = [rect for room in rooms for rect in room.rects]
    scale = _Scale(bounds(drawn) if drawn else EMPTY, width, height)
    walls = [(w, room) for room in rooms for w in home_plan(home)[room.id].walls]
    most = max((max(f.loss_w, f.output_w) for f in facts.values()), default=1.0)
    box = bounds(drawn) if drawn else None
    items = tuple(i for i in _items(home, rooms, scale, flags, selected) if kinds is None or i.kind in kinds)
    openings = tuple(
        shape for o in home.openings if home.room(o.room_id) in rooms and (shape := _opening(home, o, scale, selected))
    )
    taken = [b for item in items for b in _marks(item)] + [o.swing for o in openings if o.swing]
    return FloorPlanPicture(
        id=picture_id,
        width=width,
        height=height,
        scale=scale.px_m,
        left_m=scale.left_m,
        top_m=scale.top_m,
        storey_id=storey_id,
        rooms=tuple(
            _clear(
                replace(_room(home, room, scale, facts.get(room.id), most, selected), flag=flags.get(room.id, "")),
                room,
                scale,
                taken,
            )
            for room in rooms
        ),
        outer_walls=" ".join(_line(w, scale) for w, _ in walls if not w.beyond),
        inner_walls=" ".join(_line(w, scale) for w, room in walls if w.beyond and room.id < w.beyond),
        below=_storey_below(home, storey_id, scale),
        openings=openings,
        items=items,
        dims_x=_dims([r for rect in drawn for r in (rect.x_m, rect.right_m)], scale.x, home) if box else (),
        dims_y=_dims([r for rect in drawn for r in (rect.y_m, rect.bottom_m)], scale.y, home) if box else (),
        edges_x=tuple(sorted({round(v, 3) for r in drawn for v in (r.x_m, r.right_m)})),
        edges_y=tuple(sorted({round(v, 3) for r in drawn for v in (r.y_m, r.bottom_m)})),
        ruler=_ruler(scale, home),
        length_unit=home.length_unit,
        north_deg=home.design.north_deg,
    )


def _ruler(scale: _Scale, home: Home) -> tuple[tuple[float, str], ...]:
    """Return the marks of the ruler, the last with its unit."""
    step, unit_m = 1 if scale.px_m >= 24 else 5, 1.0
    if home.length_unit == "ft":
        step, unit_m = 5 * step, M_PER_FT
    return tuple((k * step * unit_m * scale.px_m, f"{k * step}{f' {home.length_unit}' * (k == 2)}") for k in range(3))


def _line(wall: Wall, scale: _Scale) -> str:
    line = wall.stretch
    if wall.side in ("up", "down"):
        return f"M{scale.x(line.start_m)} {scale.y(line.at_m)}H{scale.x(line.end_m)}"
    return f"M{scale.x(line.at_m)} {scale.y(line.start_m)}V{scale.y(line.end_m)}"


def _path(rects: Sequence[Rect], scale: _Scale) -> str:
    return "".join(
        f"M{scale.x(r.x_m)} {scale.y(r.y_m)}H{scale.x(r.right_m)}V{scale.y(r.bottom_m)}H{scale.x(r.x_m)}Z"
        for r in rects
    )


def _storey_below(home: Home, storey_id: str, scale: _Scale) -> str:
    """Return the outline of the storey below as a path of its walls."""
    order = sorted(home.storeys, key=lambda s: (s.level, s.id))
    place = next((k for k, s in enumerate(order) if s.id == storey_id), 0)
    if place == 0:
        return ""
    return " ".join(
        _line(Wall(stretch, ""), scale)
        for room in home.rooms
        if room.storey_id == order[place - 1].id
        for stretch in outline(room.rects)
    )


def _room(home: Home, room: Room, scale: _Scale, facts: RoomFacts | None, most_w: float, selected: str) -> RoomShape:
    area = home_plan(home)[room.id].area_m2
    widest = max(room.rects, key=lambda r: r.width_m * r.depth_m)
    longest = max(8.0, 0.4 * widest.width_m * scale.px_m)
    is_on = room.id == selected
    name = show.shortened(room.name, max(LEAST_LETTERS, int(widest.width_m * scale.px_m / LETTER_PX)))
    return RoomShape(
        id=room.id,
        name=name,
        title=f"{room.name}, {show.area(area, home)}",
        path=_path(room.rects, scale),
        x=scale.x(widest.x_m + widest.width_m / 2),
        y=scale.y(widest.y_m + widest.depth_m / 2),
        area=show.number(area_to(area, home.length_unit), 1 if home.length_unit == "m" else 0),
        is_narrow=LETTER_PX * len(name) + AREA_PX > widest.width_m * scale.px_m,
        bar_x=scale.x(widest.x_m + widest.width_m / 2) - min(44.0, 0.38 * widest.width_m * scale.px_m),
        flag="",
        facts=facts,
        loss_px=round(longest * facts.loss_w / most_w, 1) if facts else 0.0,
        output_px=round(longest * facts.output_w / most_w, 1) if facts else 0.0,
        is_on=is_on,
        is_other=room.condition != "heated",
        rects=tuple((k, r.x_m, r.y_m, r.width_m, r.depth_m) for k, r in enumerate(room.rects)),
        handles=tuple(_handles(room, scale)) if is_on else (),
    )


def _clear(shape: RoomShape, room: Room, scale: _Scale, taken: Sequence[Box]) -> RoomShape:
    """Return the room with its label moved clear of what stands there."""
    widest = max(room.rects, key=lambda r: r.width_m * r.depth_m)
    around = scale.x(widest.x_m), scale.y(widest.y_m), scale.x(widest.right_m), scale.y(widest.bottom_m)
    half = (LETTER_PX * len(shape.name) + (0 if shape.is_narrow else AREA_PX)) / 2
    left, right, top, bottom = shape.x - half, shape.x + half, shape.y - 12, shape.y + 4
    if shape.facts:
        words = LETTER_PX * max(len(shape.facts.loss), len(shape.facts.output)) + 5
        left, right = (min(left, shape.bar_x), max(right, shape.bar_x + words + max(shape.loss_px, shape.output_px)))
        top, bottom = shape.y - 26, shape.y + 15
    if shape.is_narrow:
        top, bottom = top - 4, bottom + 16
    if shape.flag:
        top = shape.y - 44
    dx, dy = clear_place(around, (left, top, right, bottom), taken)
    return replace(shape, x=shape.x + dx, y=shape.y + dy, bar_x=shape.bar_x + dx)


def _marks(item: ItemShape) -> list[Box]:
    """Return the boxes that an item's mark and its finding's letter cover [px]."""
    reach_x, reach_y = (26.0, 10.0) if item.kind == "warm_floor" else (8.0, 8.0)
    found = [(item.x - reach_x, item.y - reach_y, item.x + reach_x, item.y + reach_y)]
    if item.box is not None and item.kind != "warm_floor":
        found = [(item.box[0], item.box[1], item.box[0] + item.box[2], item.box[1] + item.box[3])]
    if item.flag:
        found.append((item.x + 9, item.y - 8, item.x + 25, item.y + 8))
    return found


def _handles(room: Room, scale: _Scale) -> list[tuple[str, str, float, float, float, float, float]]:
    """Return (id, side, x, y, width, height, place in m) of the handle in the middle of each edge."""
    found = []
    for k, r in enumerate(room.rects):
        middle_x, middle_y = scale.x(r.x_m + r.width_m / 2), scale.y(r.y_m + r.depth_m / 2)
        found += [
            (f"{k}-up", "up", middle_x - 9, scale.y(r.y_m) - 3, 18.0, 6.0, r.y_m),
            (f"{k}-down", "down", middle_x - 9, scale.y(r.bottom_m) - 3, 18.0, 6.0, r.bottom_m),
            (f"{k}-left", "left", scale.x(r.x_m) - 3, middle_y - 9, 6.0, 18.0, r.x_m),
            (f"{k}-right", "right", scale.x(r.right_m) - 3, middle_y - 9, 6.0, 18.0, r.right_m),
        ]
    return found


def _opening(home: Home, opening: Opening, scale: _Scale, selected: str) -> OpeningShape | None:
    wall, _ = wall_of(home, opening)
    if wall is None:
        return None
    room = home.room(opening.room_id)
    box = bounds(room.rects)
    flat = opening.side in ("up", "down")
    middle = opening.along_m + (box.x_m if flat else box.y_m)
    a, b = middle - opening.width_m / 2, middle + opening.width_m / 2
    at = wall.stretch.at_m
    start, end, level = (scale.x(a), scale.x(b), scale.y(at)) if flat else (scale.y(a), scale.y(b), scale.x(at))
    if flat:
        hole, lines = (
            f"M{start} {level}H{end}",
            f"M{start} {level - 3}H{end}M{start} {level}H{end}M{start} {level + 3}H{end}",
        )
    else:
        hole, lines = (
            f"M{level} {start}V{end}",
            f"M{level - 3} {start}V{end}M{level} {start}V{end}M{level + 3} {start}V{end}",
        )
    swing = None
    if opening.kind == "door":
        wide = end - start
        inward = wide if opening.side in ("up", "left") else -wide
        sweep = 1 if opening.side in ("up", "right") else 0
        if flat:
            swing = start, min(level, level + inward), end, max(level, level + inward)
            lines = f"M{start} {level}V{level + inward}A{wide} {wide} 0 0 {1 - sweep} {end} {level}"
        else:
            swing = min(level, level + inward), start, max(level, level + inward), end
            lines = f"M{level} {start}H{level + inward}A{wide} {wide} 0 0 {sweep if opening.side == 'right' else 1} {level} {end}"
    where = f"{show.length(opening.width_m, home)} × {show.length(opening.height_m, home)}"
    return OpeningShape(
        id=opening.id,
        kind=opening.kind,
        title=f"{opening.kind} of {room.name}, {where}",
        hole=hole,
        lines=lines,
        swing=swing,
        axis="x" if flat else "y",
        along_m=opening.along_m,
        is_on=opening.id == selected,
    )


def _items(
    home: Home, rooms: Sequence[Room], scale: _Scale, flags: Mapping[str, str], selected: str
) -> list[ItemShape]:
    by_id = {room.id: room for room in rooms}
    found = []
    for thing in home.things:
        if (room := by_id.get(thing.room_id)) is not None:
            x, y = on_plan(room, thing.at)
            found.append(
                _item(thing.id, "thing", thing.kind, thing.name, x, y, scale, flags, selected, thing_box(room, thing))
            )
    for heater in home.heaters:
        room = by_id.get(heater.room_id)
        if room is None or heater.at is None:
            continue
        x, y = on_plan(room, heater.at)
        title = f"{heater.name}, {show.number(heater.rated_heat_w, 0)} W"
        found.append(
            _item(heater.id, "heater", heater.kind, title, x, y, scale, flags, selected, heater_box(room, heater))
        )
    for device in home.devices:
        room = by_id.get(device.room_id or "")
        if room is None or device.at is None or not device.is_in_service:
            continue
        x, y = on_plan(room, device.at)
        found.append(_item(device.id, "device", device.kind, device.name, x, y, scale, flags, selected, None))
    for point in home.water_points:
        room = by_id.get(point.room_id or "")
        if room is None or point.at is None:
            continue
        x, y = on_plan(room, point.at)
        found.append(_item(point.id, "water", point.kind, point.name, x, y, scale, flags, selected, None))
    return found


def _item(
    key: str,
    sort: str,
    kind: str,
    title: str,
    x_m: float,
    y_m: float,
    scale: _Scale,
    flags: Mapping[str, str],
    selected: str,
    box: tuple[float, float, float, float] | None,
) -> ItemShape:
    mark, letter = DEVICE_MARK.get(kind, (kind, ""))
    shown = None
    if box is not None:
        x0, y0, x1, y1 = scale.x(box[0]), scale.y(box[1]), scale.x(box[2]), scale.y(box[3])
        grow_x, grow_y = max(0.0, (6 - (x1 - x0)) / 2), max(0.0, (6 - (y1 - y0)) / 2)
        shown = (
            round(x0 - grow_x, 1),
            round(y0 - grow_y, 1),
            round(x1 - x0 + 2 * grow_x, 1),
            round(y1 - y0 + 2 * grow_y, 1),
        )
    return ItemShape(
        id=key,
        sort=sort,
        kind=kind,
        mark=mark,
        letter=letter,
        title=title,
        x=scale.x(x_m),
        y=scale.y(y_m),
        box=shown,
        x_m=x_m,
        y_m=y_m,
        flag=flags.get(key, ""),
        is_on=key == selected,
    )


def _dims(values: Sequence[float], to_px, home: Home) -> tuple[tuple[float, float, str], ...]:  # type: ignore[no-untyped-def]
    """Return (from, to, length) of the stretches between the outermost walls, a few at most."""
    marks = sorted({round(v, 2) for v in values})
    if len(marks) > 8:
        marks = [marks[0], marks[-1]]
    return tuple(
        (to_px(a), to_px(b), show.length(b - a, home).removesuffix(" m"))
        for a, b in itertools.pairwise(marks)
        if b - a > 0.4
    )
