"""Edits of the floor plan as values."""

import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from tests.homes import small_home
from tests.places import DATA
from warmeter.core.building.room_envelope import floor_area_m2, home_plan
from warmeter.core.edits import floor_plan_edits
from warmeter.core.errors import HomeError
from warmeter.core.floor_plan.shape import Rect
from warmeter.core.home.part import Spot
from warmeter.service.app import Person

ANN = Person("Ann")
OLD = DATA / "homes" / "warmeter-home-1.json"


class Drawing(unittest.TestCase):
    def test_a_moved_room_takes_its_contents_and_a_resized_one_leaves_them_in_place(self) -> None:
        home = drawn_home()
        moved = floor_plan_edits.with_room_moved(home, "den", 1.0, 2.0)
        self.assertEqual(moved.device("air-den").at, home.device("air-den").at)
        self.assertEqual(moved.room("den").rects[0].x_m, 1.0)
        wider = floor_plan_edits.with_edge_moved(home, "den", 0, "left", -1.0)
        self.assertEqual(floor_area_m2(wider, wider.room("den")), 15.0)
        at = wider.device("air-den").at
        assert at is not None
        self.assertAlmostEqual(at.x_m, 4.9, msg="the corner moved by a metre, the sensor did not")
        self.assertAlmostEqual(wider.opening("win").along_m, 3.0)
        with self.assertRaises(HomeError):
            floor_plan_edits.with_edge_moved(home, "den", 0, "right", -3.0)
        with self.assertRaises(HomeError):
            floor_plan_edits.with_edge_moved(home, "den", 7, "right", 3.0)

    def test_joined_rooms_are_one_with_all_that_stood_in_both(self) -> None:
        home = drawn_home()
        one = floor_plan_edits.with_rooms_joined(home, "den", "study")
        self.assertEqual([r.id for r in one.rooms], ["den"])
        self.assertEqual(floor_area_m2(one, one.rooms[0]), 27.0)
        self.assertEqual({d.room_id for d in one.devices}, {"den"})
        at = one.device("air-study").at
        assert at is not None
        self.assertAlmostEqual(at.x_m, 4.1)
        self.assertEqual([len(one.heaters), len(one.zones)], [2, 1])
        apart = floor_plan_edits.with_room_moved(home, "study", 3.0, 0.0)
        for pair in (("den", "den"), ("den", "study")):
            with self.assertRaises(HomeError):
                floor_plan_edits.with_rooms_joined(apart, *pair)

    def test_an_l_from_a_second_rectangle_and_back(self) -> None:
        home = floor_plan_edits.with_rect_added(drawn_home(), "study", Rect(x_m=4, y_m=3, width_m=2, depth_m=2))
        self.assertEqual(floor_area_m2(home, home.room("study")), 19.0)
        self.assertEqual(floor_plan_edits.without_rect(home, "study", 1), drawn_home())
        with self.assertRaises(HomeError):
            floor_plan_edits.without_rect(drawn_home(), "study", 0)

    def test_a_removed_room_takes_heaters_and_zone_and_leaves_devices(self) -> None:
        home = floor_plan_edits.without_room(drawn_home(), "den")
        self.assertEqual(([r.id for r in home.rooms], [z.id for z in home.zones]), (["study"], ["z-study"]))
        self.assertIsNone(home.device("air-den").room_id)
        self.assertEqual((home.openings, [h.id for h in home.heaters]), ((), ["rad-study"]))

    def test_items_go_to_the_room_where_they_are_put(self) -> None:
        home = drawn_home()
        moved = floor_plan_edits.with_item_moved(home, "air-den", 6.0, 1.0, "ground")
        self.assertEqual(
            (moved.device("air-den").room_id, moved.device("air-den").at), ("study", Spot(x_m=2.0, y_m=1.0, z_m=1.4))
        )
        with self.assertRaises(HomeError):
            floor_plan_edits.with_item_moved(home, "air-den", 60.0, 1.0, "ground")
        for part in ("win", "rad-den", "air-den"):
            gone = floor_plan_edits.without_part(home, part)
            self.assertNotIn(part, {p.id for p in gone.parts()})
        with self.assertRaises(HomeError):
            floor_plan_edits.without_part(home, "nobody")

    def test_what_is_placed_gets_a_name_of_its_own(self) -> None:
        home = drawn_home()
        for _ in range(2):
            home = floor_plan_edits.with_device(home, "air_sensor", "den")
            home = floor_plan_edits.with_heater(home, "den", "split_unit")
            home = floor_plan_edits.with_thing(home, "furniture", "den")
            home = floor_plan_edits.with_opening(home, "den", "door", "left")
            home = floor_plan_edits.with_storey(home)
        self.assertEqual([d.name for d in home.devices[2:]], ["Den air sensor", "Den air sensor 2"])
        self.assertEqual(len({h.name for h in home.heaters}), 4)
        self.assertEqual([s.level for s in home.storeys], [0, 1, 2])
        self.assertEqual(len(floor_plan_edits.without_storey(home, home.storeys[2].id).storeys), 2)
        with self.assertRaises(HomeError):
            floor_plan_edits.without_storey(home, "ground")

    def test_a_first_room_brings_levels_and_a_zone_and_a_described_one_is_drawn_as_a_square(self) -> None:
        empty = replace(drawn_home(), rooms=(), openings=(), heaters=(), devices=(), zones=(), levels=())
        home, first = floor_plan_edits.drawn_room(empty, "ground", None)
        self.assertEqual((len(home.levels), home.zones[0].room_ids), (4, (first.id,)))
        home, second = floor_plan_edits.drawn_room(home, "ground", None)
        self.assertEqual(home_plan(home)[first.id].shared_m(), {second.id: 3.0})
        upper = floor_plan_edits.with_storey(small_home())
        drawn = floor_plan_edits.draw_described(upper, "study", upper.storeys[0].id)
        self.assertAlmostEqual(floor_area_m2(drawn, drawn.rooms[0]), 20.0, delta=0.05)
