"""Lines without the points that nobody can see."""

import math

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats

THIN_PX = 0.3


@njit(cache=True, nogil=True)
def _kept(points, tolerance):  # type: ignore[no-untyped-def]
    size = points.shape[0]
    kept = np.zeros(size, dtype=np.bool_)
    kept[0] = kept[size - 1] = True
    stack = np.empty((size, 2), dtype=np.int64)
    stack[0, 0], stack[0, 1] = 0, size - 1
    depth = 1
    while depth:
        depth -= 1
        begin, end = stack[depth, 0], stack[depth, 1]
        if end - begin < 2:
            continue
        along_x, along_y = points[end, 0] - points[begin, 0], points[end, 1] - points[begin, 1]
        length = math.sqrt(along_x * along_x + along_y * along_y)
        if length == 0.0:
            length = 1.0
        worst, furthest = begin, -1.0
        for k in range(begin + 1, end):
            away = abs(along_x * (points[k, 1] - points[begin, 1]) - along_y * (points[k, 0] - points[begin, 0]))
            if away > furthest:
                worst, furthest = k, away
        if furthest > tolerance * length:
            kept[worst] = True
            stack[depth, 0], stack[depth, 1] = begin, worst
            stack[depth + 1, 0], stack[depth + 1, 1] = worst, end
            depth += 2
    return kept


def thinned(points: Floats, tolerance: float = THIN_PX) -> Floats:
    """Return a polyline (point, 2) without points that lie within a tolerance of their neighbours' line.

    Douglas and Peucker 1973, with a stack.
    """
    if len(points) < 3:
        return points
    thinned: Floats = points[_kept(np.ascontiguousarray(points), tolerance)]
    return thinned
