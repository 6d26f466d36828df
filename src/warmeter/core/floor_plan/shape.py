"""Rectangles of a room as one shape: its cells, area and outline.

Plan coordinates are metres, x to the right and y downwards; walls have no thickness.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, ClassVar, Literal

from annotated_types import Ge, Le

Side = Literal["up", "right", "down", "left"]
SIDES: tuple[Side, ...] = ("up", "right", "down", "left")
OPPOSITE: dict[Side, Side] = {"up": "down", "down": "up", "left": "right", "right": "left"}
EPS_M = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Rect:
    """A rectangle with inside dimensions [m]; (x, y) is its upper left corner."""

    __pydantic_config__: ClassVar[dict[str, object]] = {"extra": "forbid"}

    x_m: Annotated[float, Ge(-500), Le(500)]
    y_m: Annotated[float, Ge(-500), Le(500)]
    width_m: Annotated[float, Ge(0.1), Le(100)]
    depth_m: Annotated[float, Ge(0.1), Le(100)]

    @property
    def right_m(self) -> float:
        """x of the right edge [m]."""
        return self.x_m + self.width_m

    @property
    def bottom_m(self) -> float:
        """y of the lower edge [m]."""
        return self.y_m + self.depth_m


@dataclass(frozen=True, slots=True)
class WallStretch:
    """A straight part of an outline: ``at_m`` across, from ``start_m`` to ``end_m`` along, facing ``side``."""

    side: Side
    at_m: float
    start_m: float
    end_m: float

    @property
    def length_m(self) -> float:
        """Length [m]."""
        return self.end_m - self.start_m


def bounds(rects: Sequence[Rect]) -> Rect:
    """Return the rectangle around some rectangles (at least one)."""
    if len(rects) == 1:
        return rects[0]
    x, y = min(r.x_m for r in rects), min(r.y_m for r in rects)
    return Rect(x_m=x, y_m=y, width_m=max(r.right_m for r in rects) - x, depth_m=max(r.bottom_m for r in rects) - y)


def cells(rects: Sequence[Rect]) -> tuple[Rect, ...]:
    """Return disjoint rectangles that cover just what the given ones cover together."""
    if len(rects) == 1:
        return tuple(rects)
    xs = _marks([v for r in rects for v in (r.x_m, r.right_m)])
    ys = _marks([v for r in rects for v in (r.y_m, r.bottom_m)])
    return tuple(
        Rect(x_m=x0, y_m=y0, width_m=x1 - x0, depth_m=y1 - y0)
        for y0, y1 in itertools.pairwise(ys)
        for x0, x1 in itertools.pairwise(xs)
        if _covers(rects, (x0 + x1) / 2, (y0 + y1) / 2) and min(x1 - x0, y1 - y0) > EPS_M
    )


def _marks(values: Sequence[float]) -> list[float]:
    """Return values in order, each once; ones closer than a hundredth of a millimetre are one."""
    found: list[float] = []
    for value in sorted(values):
        if not found or value - found[-1] > 1e-5:
            found.append(value)
    return found


def _covers(rects: Sequence[Rect], x: float, y: float) -> bool:
    return any(r.x_m < x < r.right_m and r.y_m < y < r.bottom_m for r in rects)


def contains(rects: Sequence[Rect], x: float, y: float) -> bool:
    """Return whether a point lies in a shape or on its edge."""
    return any(r.x_m - EPS_M <= x <= r.right_m + EPS_M and r.y_m - EPS_M <= y <= r.bottom_m + EPS_M for r in rects)


def area_m2(rects: Sequence[Rect]) -> float:
    """Return the area that rectangles cover together [m2].

    Examples
    --------
    >>> a = Rect(x_m=0, y_m=0, width_m=4, depth_m=3)
    >>> b = Rect(x_m=2, y_m=2, width_m=4, depth_m=2)
    >>> area_m2([a, b])
    18.0
    """
    return float(sum(c.width_m * c.depth_m for c in cells(rects)))


def common_area_m2(a: Sequence[Rect], b: Sequence[Rect]) -> float:
    """Return the area that two shapes, given as disjoint cells, have in common [m2]."""
    return sum(
        max(0.0, min(p.right_m, q.right_m) - max(p.x_m, q.x_m))
        * max(0.0, min(p.bottom_m, q.bottom_m) - max(p.y_m, q.y_m))
        for p in a
        for q in b
    )


def outline(rects: Sequence[Rect]) -> tuple[WallStretch, ...]:
    """Return the straight parts of a shape's outline, joined where they run on."""
    return _outline(tuple(rects))


@lru_cache(maxsize=1024)
def _outline(rects: tuple[Rect, ...]) -> tuple[WallStretch, ...]:
    parts = cells(rects)
    stretches: list[WallStretch] = []
    for side in SIDES:
        edges = [_edge(cell, side) for cell in parts]
        inner = [_edge(cell, OPPOSITE[side]) for cell in parts]
        for at in _marks([e.at_m for e in edges]):
            mine = [(e.start_m, e.end_m) for e in edges if abs(e.at_m - at) < 1e-5]
            covered = [(e.start_m, e.end_m) for e in inner if abs(e.at_m - at) < 1e-5]
            stretches += [WallStretch(side, at, a, b) for a, b in without(joined(mine), covered)]
    return tuple(stretches)


def _edge(cell: Rect, side: Side) -> WallStretch:
    if side in ("up", "down"):
        return WallStretch(side, cell.y_m if side == "up" else cell.bottom_m, cell.x_m, cell.right_m)
    return WallStretch(side, cell.x_m if side == "left" else cell.right_m, cell.y_m, cell.bottom_m)


def joined(spans: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return spans in order with touching ones made one."""
    found: list[tuple[float, float]] = []
    for start, end in sorted(spans):
        if found and start <= found[-1][1] + 1e-5:
            found[-1] = (found[-1][0], max(found[-1][1], end))
        else:
            found.append((start, end))
    return found


def without(spans: Sequence[tuple[float, float]], taken: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return what is left of spans when others are taken away; crumbs under 0.01 mm are dropped."""
    left = list(spans)
    for start, end in joined(taken):
        left = [
            piece for a, b in left for piece in ((a, min(b, start)), (max(a, end), b)) if piece[1] - piece[0] > 1e-5
        ]
    return left
