"""Rooms drawn, reshaped and joined, and what their revisions say."""

import unittest

from tests.drawn import drawn_home
from warmeter.core.building.room_envelope import floor_area_m2
from warmeter.core.edits.room_commands import AddRect, ChangeRect, RemoveRect
from warmeter.core.errors import HomeError


class Shapes(unittest.TestCase):
    def test_a_rectangle_takes_the_numbers_that_are_typed(self) -> None:
        edit = ChangeRect(room_id="den", index=0, x_m=0, y_m=0, width_m=5, depth_m=3.5).edit(drawn_home())
        rect = edit.home.room("den").rects[0]
        self.assertEqual((rect.width_m, rect.depth_m), (5, 3.5))
        self.assertEqual(floor_area_m2(edit.home, edit.home.room("den")), 17.5)
        self.assertIn("Den", edit.summary)
        self.assertEqual(edit.selected, "den")

    def test_another_joins_and_goes_again(self) -> None:
        home = drawn_home()
        edit = AddRect(room_id="den").edit(home)
        joined = edit.home
        self.assertEqual((len(joined.room("den").rects), edit.selected), (2, "den"))
        self.assertGreater(floor_area_m2(joined, joined.room("den")), 12.0)
        self.assertEqual(RemoveRect(room_id="den", index=1).edit(joined).home.room("den").rects, home.room("den").rects)

    def test_a_rectangle_that_is_not_there_is_refused(self) -> None:
        with self.assertRaises(HomeError):
            ChangeRect(room_id="den", index=4, x_m=0, y_m=0, width_m=5, depth_m=3.5).edit(drawn_home())


if __name__ == "__main__":
    unittest.main()
