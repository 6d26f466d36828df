"""A table of rooms read in and written out."""

import unittest
from collections.abc import Callable
from itertools import count

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.drawn import drawn_home
from tests.homes import small_home
from warmeter.core.building.rooms_csv import home_with_rooms, rooms_to_csv
from warmeter.core.errors import ReadingError
from warmeter.service.homes.demo import demo_home


def fresh() -> Callable[[], str]:
    """Return a maker of new ids."""
    numbers = count()
    return lambda: f"new{next(numbers)}"


class RoomsTable(unittest.TestCase):
    def test_out_and_in_again_nothing_changes(self) -> None:
        for home in (drawn_home(), demo_home("sail-loft"), demo_home("weir-cottage")):
            self.assertEqual(home_with_rooms(home, rooms_to_csv(home).splitlines(), fresh()), home)

    def test_figures_that_are_worked_out_are_written_for_the_reader(self) -> None:
        lines = rooms_to_csv(drawn_home()).splitlines()
        heads, den = lines[0].split(","), lines[1].split(",")
        self.assertEqual(den[heads.index("floor_area_m2")], "12.00")
        self.assertGreater(float(den[heads.index("loss_w")]), 300)
        self.assertIn("described", small_home().rooms[0].__dataclass_fields__)
        self.assertEqual((den[heads.index("storey")], den[heads.index("id")]), (drawn_home().storeys[0].name, "den"))
        self.assertEqual(rooms_to_csv(small_home()).splitlines()[1].split(",")[heads.index("x_m")], "")

    def test_new_rooms_storeys_and_l_shapes_come_in(self) -> None:
        lines = (
            "name,storey,x_m,y_m,width_m,depth_m,use",
            "Salle,Étage,0,0,4,3,living",
            'Salle,Étage,4,0,"2,5",1,living',
            "Bad,Étage,0,3,2,2,bath",
        )
        home = home_with_rooms(drawn_home(), lines, fresh())
        new = home.rooms[2:]
        self.assertEqual([(r.name, len(r.rects), r.use) for r in new], [("Salle", 2, "living"), ("Bad", 1, "bath")])
        self.assertEqual(new[0].rects[1].width_m, 2.5)
        self.assertEqual((home.storeys[1].name, home.storeys[1].level), ("Étage", 1))

    def test_what_cannot_be_taken_is_told_by_line(self) -> None:
        head = "name,x_m,y_m,width_m,depth_m"
        for lines, words in (
            ((), "empty"),
            (("name,x_ft,y_m,width_m,depth_m", "a,1,1,1,1"), "'x_ft' is not known"),
            (("name,x_m,y_m,width_m", "a,1,1,1"), "'depth_m' is missing"),
            ((head, "a,0,0,-2,3"), "line 2: width_m must be between 0.1"),
            ((head, "a,0,0,4,3", ",5,0,2,2"), "line 3: the room needs a name"),
            ((head, "a,zero,0,4,3"), "line 2: x_m is 'zero'"),
            ((head, "a,0,0,4,3,9"), "line 2: has 6 cells"),
            ((head + ",use", "a,0,0,4,3,cellar"), "line 2: use is 'cellar'"),
            ((head + ",height_m", "a,0,0,4,3,90"), "line 2: height_m must be between 1 and 20"),
            ((head, "a,,,,"), "line 2: a has no rectangle"),
        ):
            with self.subTest(words), self.assertRaises(ReadingError) as caught:
                home_with_rooms(drawn_home(), lines, fresh())
            self.assertIn(words, str(caught.exception))

    @settings(max_examples=60, deadline=None, derandomize=True)
    @given(st.lists(st.text(max_size=30), max_size=6))
    def test_no_table_breaks_the_reader(self, lines: list[str]) -> None:
        try:
            home_with_rooms(drawn_home(), ["name,x_m,y_m,width_m,depth_m", *lines], fresh())
        except ReadingError as error:
            self.assertTrue(str(error))


if __name__ == "__main__":
    unittest.main()
