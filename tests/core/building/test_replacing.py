"""Replacing a device, moving a room, and rooms as a CSV table."""

import unittest
from dataclasses import replace
from datetime import date

from tests.drawn import drawn_home
from warmeter.core.building.replacing import differences, findings_by_kind, no_longer_needed, replaced, room_into_zone
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Device, SafetyChain
from warmeter.core.home.document import Home

ON = date(2026, 3, 1)


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
            {"what controls Den", "counts for Den at every level", "Blind is witnessed by", "chain Frost"} <= places
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
