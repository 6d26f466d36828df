"""A room's envelope as drawn and as described."""

import unittest
from dataclasses import replace
from math import sqrt

from tests.drawn import drawn_home, room
from tests.homes import small_home
from warmeter.core.building.losses import loss_of, surveyed_room
from warmeter.core.building.room_envelope import design_c, floor_area_m2
from warmeter.core.floor_plan.shape import Rect
from warmeter.core.home.rooms import Overrule, Room


class Described(unittest.TestCase):
    def test_a_room_in_words_is_taken_as_square_with_a_fifth_glass(self) -> None:
        home = small_home()
        rows = {r.label.split(",")[0]: r for r in loss_of(home, home.rooms[0]).rows}
        gross = sqrt(20) * 2.5 * 2
        self.assertAlmostEqual(rows["windows"].size, 0.2 * gross)
        self.assertAlmostEqual(rows["outside walls"].size, 0.8 * gross)
        self.assertEqual(floor_area_m2(home, home.rooms[0]), 20.0)

    def test_what_a_room_should_have_follows_its_use_until_typed(self) -> None:
        home = small_home()
        bath = replace(home.rooms[0], use="bath")
        self.assertEqual((design_c(bath), design_c(replace(bath, design_c=21.5))), (24.0, 21.5))

    def test_the_stores_lose_what_the_survey_says(self) -> None:
        home = drawn_home()
        for each in home.rooms:
            rc, loss = surveyed_room(home, each), loss_of(home, each)
            windows = sum(0.1 * r.size for r in loss.rows if r.group == "window")
            self.assertAlmostEqual(rc.loss_w_k, loss.loss_w_k, delta=0.01 * loss.loss_w_k + windows)


class Rooms(unittest.TestCase):
    def test_a_room_must_be_drawn_or_described(self) -> None:
        for wrong in ({"rects": ()}, {"storey_id": None}):
            with self.assertRaises(ValueError):
                room("bare", 0.0, 2.0, **wrong)
        with self.assertRaises(ValueError):
            room("twice", 0.0, 2.0, overrules=(Overrule(figure="a", value=1), Overrule(figure="a", value=2)))

    def test_an_l_shape_counts_each_square_once(self) -> None:
        parts = (Rect(x_m=0, y_m=0, width_m=4, depth_m=3), Rect(x_m=3, y_m=0, width_m=3, depth_m=2))
        shape: Room = room("el", 0.0, 4.0, rects=parts)
        home = drawn_home(rooms=(shape,), openings=(), heaters=(), devices=(), zones=())
        self.assertAlmostEqual(floor_area_m2(home, shape), 12 + 4)
        walls = sum(r.size for r in loss_of(home, shape).rows if r.group == "wall")
        self.assertAlmostEqual(walls, (6 + 6 + 3 + 3) * 2.5)


if __name__ == "__main__":
    unittest.main()
