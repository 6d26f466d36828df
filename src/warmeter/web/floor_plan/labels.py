"""Where a room's label stands on the plan: near its middle, clear of what stands in the room."""

from collections.abc import Sequence
from itertools import product
from math import hypot

Box = tuple[float, float, float, float]
STEP_PX, MOST_STEPS = 4.0, 40
WALL_PX = 6.0


def clear_place(room: Box, label: Box, taken: Sequence[Box]) -> tuple[float, float]:
    """Return how far a label moves to cover least of what is taken, and then to stay nearest [px].

    Boxes are (left, top, right, bottom) [px]. A label larger than the room along an axis keeps its place there.
    """
    across = _moves(room[0] + WALL_PX - label[0], room[2] - WALL_PX - label[2])
    down = _moves(room[1] + WALL_PX - label[1], room[3] - WALL_PX - label[3])
    near = [b for b in taken if covered_px2(b, room) > 0.0]
    if not near:
        return 0.0, 0.0

    best, least = (0.0, 0.0), float("inf")
    for x, y in sorted(product(across, down), key=lambda move: hypot(*move)):
        moved = label[0] + x, label[1] + y, label[2] + x, label[3] + y
        cover = round(sum(covered_px2(moved, b) for b in near), 3)
        if cover < least:
            best, least = (x, y), cover
        if cover == 0.0:
            break
    return best


def _moves(least: float, most: float) -> list[float]:
    """Return the moves between two bounds in whole steps, among them none."""
    if least > 0.0 or most < 0.0:
        return [0.0]
    low, high = max(-MOST_STEPS, int(least / STEP_PX)), min(MOST_STEPS, int(most / STEP_PX))
    return [k * STEP_PX for k in range(low, high + 1)]


def covered_px2(a: Box, b: Box) -> float:
    """Return the area two boxes share [px²]."""
    return max(0.0, min(a[2], b[2]) - max(a[0], b[0])) * max(0.0, min(a[3], b[3]) - max(a[1], b[1]))
