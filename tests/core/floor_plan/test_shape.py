"""Shapes made of rectangles."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.floor_plan.shape import Rect, area_m2, bounds, cells, common_area_m2, joined, outline, without

HALF = 0.5


whole = st.integers(min_value=0, max_value=8)


size = st.integers(min_value=1, max_value=6)


rects = st.builds(
    lambda x, y, w, d: Rect(x_m=x * HALF, y_m=y * HALF, width_m=w * HALF, depth_m=d * HALF), whole, whole, size, size
)


shapes = st.lists(rects, min_size=1, max_size=4)


def box(x: float, y: float, w: float, d: float) -> Rect:
    """Return a rectangle."""
    return Rect(x_m=x, y_m=y, width_m=w, depth_m=d)


def squares(shape: list[Rect]) -> set[tuple[int, int]]:
    """Return the half-metre squares that a shape covers, counted one by one."""
    return {
        (i, j)
        for r in shape
        for i in range(round(r.x_m / HALF), round(r.right_m / HALF))
        for j in range(round(r.y_m / HALF), round(r.bottom_m / HALF))
    }


def open_edges(covered: set[tuple[int, int]]) -> dict[str, int]:
    """Return how many half-metre edges face each side with nothing beyond."""
    beyond = {"up": (0, -1), "down": (0, 1), "left": (-1, 0), "right": (1, 0)}
    return {side: sum((i + dx, j + dy) not in covered for i, j in covered) for side, (dx, dy) in beyond.items()}


class Shapes(unittest.TestCase):
    @settings(max_examples=200, deadline=None, derandomize=True)
    @given(shapes)
    def test_area_outline_and_cells_are_those_of_counted_squares(self, shape: list[Rect]) -> None:
        covered = squares(shape)
        self.assertAlmostEqual(area_m2(shape), len(covered) * HALF**2)
        counted = open_edges(covered)
        for side, edges in counted.items():
            length = sum(s.length_m for s in outline(shape) if s.side == side)
            self.assertAlmostEqual(length, edges * HALF, msg=side)
        parts = cells(shape)
        self.assertAlmostEqual(sum(c.width_m * c.depth_m for c in parts), len(covered) * HALF**2)

    @settings(max_examples=100, deadline=None, derandomize=True)
    @given(shapes, shapes)
    def test_common_area_is_that_of_counted_squares(self, a: list[Rect], b: list[Rect]) -> None:
        both = squares(a) & squares(b)
        self.assertAlmostEqual(common_area_m2(cells(a), cells(b)), len(both) * HALF**2)

    def test_an_l_shape_has_six_walls_and_its_bounds(self) -> None:
        shape = [box(0, 0, 4, 3), box(4, 0, 2, 5)]
        self.assertEqual(area_m2(shape), 22.0)
        self.assertEqual(len(outline(shape)), 6)
        self.assertEqual(bounds(shape), box(0, 0, 6, 5))

    def test_spans_are_joined_and_cut(self) -> None:
        self.assertEqual(joined([(2, 3), (0, 1), (1, 2)]), [(0, 3)])
        self.assertEqual(without([(0, 10)], [(2, 3), (5, 7)]), [(0, 2), (3, 5), (7, 10)])
        self.assertEqual(without([(0, 1)], [(-1, 2)]), [])


if __name__ == "__main__":
    unittest.main()
