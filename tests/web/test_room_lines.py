"""Rooms typed as lines of one text box."""

import unittest

from tests.web.test_pages import ANN, Case
from warmeter.core.building.room_envelope import floor_area_m2
from warmeter.core.edits.room_lines import use_of
from warmeter.service.homes import editing
from warmeter.web.form_reader import FormError
from warmeter.web.survey.room_lines import rooms_typed

EIGHT = """Ground floor:
Kitchen 4.2 x 3.6, 2 outside walls, radiator 1200 W, thermostat
Living room 5.1 x 4.0, 2 outside walls, radiator 1.8 kW, radiator valve, air sensor
Hall 2 x 5, 1 outside wall, not heated
First floor:
Bedroom 1 3.9 x 3.6, 2 outside walls, under the roof, radiator
Bedroom 2 3,6 x 3,0; 2 outside walls; under the roof; radiator
Nursery 9.5 m², 1 outer wall, electric heater
Bath 2.4 x 2.1, one outside wall, warm floor 300 W
Box room 2.9 x 2.4, no outside walls, 2.3 m high"""


class Lines(unittest.TestCase):
    def test_eight_rooms_are_read_with_all_that_their_lines_say(self) -> None:
        rooms = {room.name: room for room in rooms_typed({"lines": EIGHT}, "m").rooms}
        self.assertEqual(len(rooms), 8)
        kitchen, living, hall = (rooms[name] for name in ("Kitchen", "Living room", "Hall"))
        self.assertEqual((kitchen.width_m, kitchen.depth_m, kitchen.outside_walls), (4.2, 3.6, 2))
        self.assertEqual((kitchen.heater, kitchen.heater_w, kitchen.devices), ("radiator", 1200, ("thermostat",)))
        self.assertEqual((living.heater_w, living.devices), (1800, ("radiator_valve", "air_sensor")))
        self.assertEqual((hall.condition, hall.heater, hall.storey), ("unheated", None, "Ground floor"))
        self.assertEqual((rooms["Bedroom 2"].width_m, rooms["Bedroom 2"].has_roof), (3.6, True))
        self.assertEqual((rooms["Nursery"].area_m2, rooms["Nursery"].heater), (9.5, "electric_panel"))
        self.assertEqual((rooms["Bath"].heater, rooms["Bath"].storey), ("warm_floor", "First floor"))
        self.assertEqual((rooms["Box room"].outside_walls, rooms["Box room"].height_m), (0, 2.3))

    def test_feet_and_inches_are_read_where_they_stand_and_where_the_home_counts_so(self) -> None:
        for text, unit in (("Den 12' 6\" x 10'", "m"), ("Den 12 ft 6 in x 10 ft", "m"), ("Den 12.5 x 10", "ft")):
            (room,) = rooms_typed({"lines": text}, unit).rooms  # type: ignore[arg-type]
            self.assertAlmostEqual(room.width_m or 0, 3.81, places=4)
            self.assertAlmostEqual(room.depth_m or 0, 3.048, places=4)

    def test_what_is_not_understood_is_told_with_its_line(self) -> None:
        for text, words in (
            ("Kitchen", "Line 1.*name and the size"),
            ("Kitchen 4 x 3\nBath 2 x 2, fountain", "Line 2.*fountain"),
            ("Kitchen 400 x 3", "Line 1"),
            ("", "Write a room a line"),
        ):
            with self.subTest(text), self.assertRaisesRegex(FormError, words):
                rooms_typed({"lines": text}, "m")

    def test_a_use_is_told_by_a_name(self) -> None:
        self.assertEqual(
            [use_of(n) for n in ("Bathroom", "Bedroom 2", "Landing", "Snug")], ["bath", "sleeping", "hall", "living"]
        )


class TypedRooms(Case):
    def add(self, lines: str, status: int = 200) -> str:
        base = self.app.homes.load("home1")[1]
        answer = self.client.post(
            "/homes/home1/plan/room-lines", data={"base": base, "lines": lines}, headers={"HX-Request": "true"}
        )
        self.assertEqual(answer.status_code, status, answer.text[:400])
        return str(answer.text)

    def test_eight_rooms_are_one_edit_that_one_undo_takes_back(self) -> None:
        before, number = self.app.homes.load("home1")
        self.add(EIGHT)
        home, after = self.app.homes.load("home1")
        self.assertEqual((len(home.rooms) - len(before.rooms), after), (8, number + 1))
        self.assertEqual({s.name for s in home.storeys}, {"Ground floor", "First floor"})
        kitchen = next(r for r in home.rooms if r.name == "Kitchen")
        self.assertAlmostEqual(floor_area_m2(home, kitchen), 4.2 * 3.6, places=6)
        self.assertEqual(home.devices[0].drives_id, home.heaters_of(kitchen.id)[0].id)
        hall = next(r for r in home.rooms if r.name == "Hall")
        self.assertIsNone(home.zone_of_room(hall.id))
        for page in ("survey", "zones", "timetable", "survey/record"):
            self.get(f"/homes/home1/{page}")
        editing.undo(self.app, "home1", after, ANN)
        self.assertEqual(self.app.homes.load("home1")[0], before)

    def test_described_rooms_are_drawn_with_their_sides_in_one_edit(self) -> None:
        self.add("Kitchen 4.2 x 3.6, 2 outside walls\nBath 2.4 x 2.1, 1 outside wall")
        base = self.app.homes.load("home1")[1]
        self.client.post("/homes/home1/plan/rooms-draw", data={"base": base})
        home, number = self.app.homes.load("home1")
        self.assertEqual(number, base + 1)
        kitchen = next(r for r in home.rooms if r.name == "Kitchen")
        self.assertEqual([(r.width_m, r.depth_m) for r in kitchen.rects], [(4.2, 3.6)])

    def test_a_name_that_stands_is_refused_and_nothing_of_the_list_is_kept(self) -> None:
        before = self.app.homes.load("home1")
        self.assertIn("already", self.add("Den 3 x 3\nStudy 3 x 3", 422))
        self.assertEqual(self.app.homes.load("home1"), before)


if __name__ == "__main__":
    unittest.main()
