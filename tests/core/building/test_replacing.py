"""Replacing a device, moving a room, and rooms as a CSV table."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from itertools import count

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.drawn import drawn_home
from tests.homes import small_home
from warmeter.core.building.replacing import differences, findings_by_kind, no_longer_needed, replaced, room_into_zone
from warmeter.core.building.rooms_csv import home_with_rooms, rooms_to_csv
from warmeter.core.errors import HomeError, ReadingError
from warmeter.core.home.devices import Device, SafetyChain
from warmeter.core.home.document import Home
from warmeter.service.homes.demo import demo_home

ON = date(2026, 3, 1)


def fresh() -> Callable[[], str]:
    """Return a maker of new ids."""
    numbers = count()
    return lambda: f"new{next(numbers)}"


class Replacing(unittest.TestCase):
    def home(self) -> Home:
        """Return the drawn home with a sensor that counts, owns, witnesses and stands in a chain."""
        home = drawn_home()
        more = (
            Device(id="blind", name="Blind", kind="blind_motor", room_id="den", is_two_way=False, witness_id="air-den"),
            Device(id="fresh", name="New sensor", kind="air_sensor"),
            Device(id="lamp", name="Lamp", kind="relay"),
        )
        zones = (replace(home.zones[0], owner_id="air-den"), home.zones[1])
        chain = SafetyChain(id="c", name="Frost", kind="frost", device_ids=("air-den", "lamp"))
        return replace(home, devices=(*home.devices, *more), zones=zones, safety_chains=(chain,))

    def test_the_new_one_stands_in_every_place_and_the_old_keeps_its_history(self) -> None:
        home = self.home()
        after = replaced(home, "air-den", "fresh", ON)
        old, new = after.device("air-den"), after.device("fresh")
        self.assertEqual((old.retired_on, old.replaced_by_id), (ON, "fresh"))
        self.assertEqual((new.room_id, new.at), ("den", home.device("air-den").at))
        self.assertEqual(after.zones[0].counted_ids, ("fresh",))
        self.assertEqual((after.zones[0].owner_id, after.device("blind").witness_id), ("fresh", "fresh"))
        self.assertEqual(after.safety_chains[0].device_ids, ("fresh", "lamp"))
        places = {row.place for row in differences(home, after)}
        self.assertTrue(
            {"owner of Den", "counts for Den at every level", "Blind is witnessed by", "chain Frost"} <= places
        )
        self.assertEqual(findings_by_kind(home), findings_by_kind(after))

    def test_a_device_that_measures_no_air_does_not_count(self) -> None:
        home = self.home()
        after = replaced(home, "air-den", "lamp", ON)
        self.assertEqual(after.zones[0].counted_ids, ())
        self.assertIn("no sensor", findings_by_kind(after))

    def test_itself_and_a_retired_one_are_refused(self) -> None:
        home = self.home()
        with self.assertRaises(HomeError):
            replaced(home, "air-den", "air-den", ON)
        with self.assertRaises(HomeError):
            replaced(replaced(home, "air-den", "fresh", ON), "lamp", "air-den", ON)

    def test_a_room_moved_into_another_zone_takes_its_sensors_out_and_empties_its_zone(self) -> None:
        home = drawn_home()
        after = room_into_zone(home, "study", "z-den")
        self.assertEqual([z.room_ids for z in after.zones], [("den", "study")])
        self.assertEqual(after.zones[0].counted_ids, ("air-den",))
        self.assertEqual(no_longer_needed(home, after), ["Study sensor"])
        self.assertIn("rooms of Den", {row.place for row in differences(home, after)})
        self.assertEqual(room_into_zone(home, "den", "z-den"), home)


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
