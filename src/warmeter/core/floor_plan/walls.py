"""What follows from a drawn plan: areas, walls to outside and to rooms, what lies above and below."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from warmeter.core.floor_plan.shape import (
    OPPOSITE,
    SIDES,
    Rect,
    Side,
    WallStretch,
    area_m2,
    bounds,
    cells,
    common_area_m2,
    outline,
    without,
)

TOUCH_M = 0.02  # rooms nearer than this share a wall
LEAST_SHARED_M = 0.05
LEAST_COMMON_M2 = 0.05
# Bearing of a wall that faces a side, with the plan's upper edge to the north [°].
BEARING_DEG: dict[Side, float] = {"up": 0.0, "right": 90.0, "down": 180.0, "left": 270.0}
_Box = tuple[float, float, float, float]
COMPASS = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")


@dataclass(frozen=True, slots=True)
class DrawnRoom:
    """A room on the plan: its storey by rank from below, and its rectangles."""

    id: str
    storey: int
    rects: tuple[Rect, ...]


@dataclass(frozen=True, slots=True)
class Wall:
    """A straight wall of a room; ``beyond`` is a room's id, empty for outdoors."""

    stretch: WallStretch
    beyond: str

    @property
    def side(self) -> Side:
        """Where it faces on the plan."""
        return self.stretch.side


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomDrawing:
    """What the drawing says of a room; areas in m2.

    ``above`` and ``below`` are rooms with the area shared; ``open_above_m2`` and ``open_below_m2`` what no
    room covers; ``overlaps`` rooms of the same storey drawn into it.
    """

    area_m2: float
    walls: tuple[Wall, ...]
    above: tuple[tuple[str, float], ...]
    below: tuple[tuple[str, float], ...]
    open_above_m2: float
    open_below_m2: float
    is_lowest: bool
    overlaps: tuple[tuple[str, float], ...]

    def outside_m(self, side: Side) -> float:
        """Length of walls to outdoors that face a side [m]."""
        return sum(w.stretch.length_m for w in self.walls if not w.beyond and w.side == side)

    @property
    def outside_edge_m(self) -> float:
        """Length of all walls to outdoors [m]."""
        return sum(self.outside_m(side) for side in SIDES)

    @property
    def facades(self) -> int:
        """How many sides face outdoors."""
        return sum(self.outside_m(side) > LEAST_SHARED_M for side in SIDES)

    def shared_m(self) -> dict[str, float]:
        """Length of wall shared with each touching room [m]."""
        found: dict[str, float] = {}
        for wall in self.walls:
            if wall.beyond:
                found[wall.beyond] = found.get(wall.beyond, 0.0) + wall.stretch.length_m
        return found


def bearing_deg(side: Side, north_deg: float) -> float:
    """Return where a side faces, from north clockwise [°]; ``north_deg`` is the upper edge's bearing."""
    return (BEARING_DEG[side] + north_deg) % 360


def compass(bearing: float) -> str:
    """Return a bearing as one of eight letters.

    Examples
    --------
    >>> compass(100.0)
    'E'
    """
    return COMPASS[round(bearing / 45) % 8]


@lru_cache(maxsize=32)
def plan_of(rooms: tuple[DrawnRoom, ...]) -> dict[str, RoomDrawing]:
    """Return what follows from the drawing, by room id."""
    shapes = {room.id: cells(room.rects) for room in rooms}
    boxes = {room.id: _box(room) for room in rooms}
    outlines = {room.id: outline(room.rects) for room in rooms}
    by_storey: dict[int, list[DrawnRoom]] = {}
    for room in rooms:
        by_storey.setdefault(room.storey, []).append(room)
    lowest = min(by_storey, default=0)
    return {room.id: _room(room, by_storey, shapes, outlines, boxes, is_lowest=room.storey == lowest) for room in rooms}


def _box(room: DrawnRoom) -> _Box:
    around = bounds(room.rects)
    return around.x_m, around.y_m, around.right_m, around.bottom_m


def _meet(a: _Box, b: _Box) -> bool:
    """Return whether two boxes overlap or nearly touch; rooms whose boxes do not have nothing in common."""
    return a[0] <= b[2] + TOUCH_M and b[0] <= a[2] + TOUCH_M and a[1] <= b[3] + TOUCH_M and b[1] <= a[3] + TOUCH_M


def _room(
    room: DrawnRoom,
    by_storey: dict[int, list[DrawnRoom]],
    shapes: dict[str, tuple[Rect, ...]],
    outlines: dict[str, tuple[WallStretch, ...]],
    boxes: dict[str, _Box],
    *,
    is_lowest: bool,
) -> RoomDrawing:
    mine, size = shapes[room.id], area_m2(room.rects)
    near = {
        step: [
            other
            for other in by_storey.get(room.storey + step, ())
            if other.id != room.id and _meet(boxes[room.id], boxes[other.id])
        ]
        for step in (-1, 0, 1)
    }
    others = near[0]
    above, below = _common(mine, near[1], shapes), _common(mine, near[-1], shapes)
    return RoomDrawing(
        area_m2=size,
        walls=tuple(_walls(outlines[room.id], [(o.id, outlines[o.id]) for o in others])),
        above=above,
        below=below,
        open_above_m2=_rest(size, above),
        open_below_m2=_rest(size, below),
        is_lowest=is_lowest,
        overlaps=_common(mine, others, shapes),
    )


def _common(
    mine: Sequence[Rect], others: Sequence[DrawnRoom], shapes: dict[str, tuple[Rect, ...]]
) -> tuple[tuple[str, float], ...]:
    found = ((other.id, common_area_m2(mine, shapes[other.id])) for other in others)
    return tuple((key, area) for key, area in found if area > LEAST_COMMON_M2)


def _rest(size: float, shared: Sequence[tuple[str, float]]) -> float:
    rest = size - sum(area for _, area in shared)
    return rest if rest > LEAST_COMMON_M2 else 0.0


def _walls(mine: Sequence[WallStretch], others: Sequence[tuple[str, tuple[WallStretch, ...]]]) -> list[Wall]:
    walls = []
    for stretch in mine:
        taken: list[tuple[float, float]] = []
        for key, theirs in others:
            for wall in theirs:
                if wall.side != OPPOSITE[stretch.side] or abs(wall.at_m - stretch.at_m) > TOUCH_M:
                    continue
                start, end = max(stretch.start_m, wall.start_m), min(stretch.end_m, wall.end_m)
                for a, b in without([(start, end)] if end > start else [], taken):
                    if b - a > LEAST_SHARED_M:
                        walls.append(Wall(WallStretch(stretch.side, stretch.at_m, a, b), key))
                        taken.append((a, b))
        walls += [
            Wall(WallStretch(stretch.side, stretch.at_m, a, b), "")
            for a, b in without([(stretch.start_m, stretch.end_m)], taken)
        ]
    return walls
