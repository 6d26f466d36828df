"""The plan's geometry against counting squares, and against walls measured by hand."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.floor_plan.shape import Rect
from warmeter.core.floor_plan.walls import DrawnRoom, bearing_deg, compass, plan_of

whole = st.integers(min_value=0, max_value=8)


def box(x: float, y: float, w: float, d: float) -> Rect:
    """Return a rectangle."""
    return Rect(x_m=x, y_m=y, width_m=w, depth_m=d)


class Walls(unittest.TestCase):
    def test_two_rooms_side_by_side_share_the_length_that_they_have_in_common(self) -> None:
        plan = plan_of((DrawnRoom("a", 0, (box(0, 0, 4, 3),)), DrawnRoom("b", 0, (box(4, 1, 3, 4),))))
        self.assertEqual(plan["a"].shared_m(), {"b": 2.0})
        self.assertEqual(plan["b"].shared_m(), {"a": 2.0})
        self.assertEqual(plan["a"].outside_m("right"), 1.0)
        self.assertEqual(plan["b"].outside_m("left"), 2.0)
        self.assertEqual((plan["a"].outside_edge_m, plan["a"].facades), (12.0, 4))

    @settings(max_examples=60, deadline=None, derandomize=True)
    @given(st.lists(st.tuples(whole, whole), min_size=2, max_size=6, unique=True))
    def test_touching_is_mutual_and_walls_add_up(self, corners: list[tuple[int, int]]) -> None:
        rooms = tuple(DrawnRoom(f"r{k}", 0, (box(2 * x, 2 * y, 2, 2),)) for k, (x, y) in enumerate(corners))
        plan = plan_of(rooms)
        for room in rooms:
            mine = plan[room.id]
            self.assertAlmostEqual(mine.outside_edge_m + sum(mine.shared_m().values()), 8.0)
            for other, length in mine.shared_m().items():
                self.assertAlmostEqual(plan[other].shared_m()[room.id], length)
            near = {(x, y) for x, y in corners}
            x, y = corners[int(room.id[1:])]
            neighbours = sum((x + dx, y + dy) in near for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)))
            self.assertAlmostEqual(sum(mine.shared_m().values()), 2.0 * neighbours)

    def test_above_and_below_share_what_lies_over_one_another(self) -> None:
        plan = plan_of(
            (
                DrawnRoom("ground", 0, (box(0, 0, 6, 4),)),
                DrawnRoom("upper", 1, (box(4, 0, 4, 4),)),
                DrawnRoom("attic", 2, (box(4, 0, 4, 2),)),
            )
        )
        self.assertEqual(plan["ground"].above, (("upper", 8.0),))
        self.assertEqual((plan["ground"].open_above_m2, plan["ground"].open_below_m2), (16.0, 24.0))
        self.assertEqual(plan["upper"].below, (("ground", 8.0),))
        self.assertEqual((plan["upper"].open_below_m2, plan["upper"].open_above_m2), (8.0, 8.0))
        self.assertTrue(plan["ground"].is_lowest)
        self.assertFalse(plan["upper"].is_lowest)

    def test_rooms_drawn_into_each_other_are_told(self) -> None:
        plan = plan_of((DrawnRoom("a", 0, (box(0, 0, 4, 3),)), DrawnRoom("b", 0, (box(3, 2, 3, 3),))))
        self.assertEqual(plan["a"].overlaps, (("b", 1.0),))

    def test_a_gap_of_a_centimetre_is_still_one_wall_and_ten_are_not(self) -> None:
        for gap, shared in ((0.01, 3.0), (0.1, 0.0)):
            plan = plan_of((DrawnRoom("a", 0, (box(0, 0, 4, 3),)), DrawnRoom("b", 0, (box(4 + gap, 0, 3, 3),))))
            self.assertAlmostEqual(sum(plan["a"].shared_m().values()), shared)

    def test_bearings_turn_with_the_plan(self) -> None:
        self.assertEqual([compass(bearing_deg(side, 0)) for side in ("up", "right", "down", "left")], list("NESW"))
        self.assertEqual([compass(bearing_deg(side, 90)) for side in ("up", "right", "down", "left")], list("ESWN"))
        self.assertEqual(compass(bearing_deg("up", 330)), "NW")
