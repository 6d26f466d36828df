"""Rooms and storeys copied, and usual parts: nothing of one device alone comes along, and nothing else changes."""

import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from warmeter.core.building.losses import loss_of
from warmeter.core.building.room_envelope import home_plan
from warmeter.core.edits.copies import with_room_copied, with_storey_copied, with_usual_parts
from warmeter.core.edits.copy_commands import AddUsualParts
from warmeter.core.edits.floor_plan_edits import with_device, with_storey, without_room
from warmeter.core.edits.home_edits import free_name
from warmeter.core.edits.room_commands import ChangeRoom
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Identity
from warmeter.core.home.document import Home


def furnished() -> Home:
    """Return a home whose den has a radiator, its valve with an address and a battery, and a sensor that counts."""
    home = with_device(with_device(drawn_home(), "radiator_valve", "den"), "air_sensor", "den")
    devices = tuple(
        replace(d, identities=(Identity(address="V1"),), battery_pct=40, own_timetable="running")
        if d.kind == "radiator_valve"
        else d
        for d in home.devices
    )
    return replace(home, devices=devices)


class Copies(unittest.TestCase):
    def test_a_rooms_copy_stands_beside_with_its_parts_and_touches_nothing_of_the_first(self) -> None:
        home = furnished()
        after, copy = with_room_copied(home, "den")
        self.assertEqual(copy.name, free_name({r.name for r in home.rooms}, home.room("den").name))
        self.assertAlmostEqual(home_plan(after)[copy.id].area_m2, home_plan(home)["den"].area_m2)
        self.assertEqual(
            [(h.kind, h.rated_heat_w) for h in after.heaters_of(copy.id)],
            [(h.kind, h.rated_heat_w) for h in home.heaters_of("den")],
        )
        for room in home.rooms:
            self.assertEqual(after.room(room.id), room)
        mine = {d.kind: d for d in after.devices_in(copy.id)}
        valve = mine["radiator_valve"]
        self.assertEqual((valve.address, valve.battery_pct, valve.own_timetable), ("", None, "off"))
        self.assertIn(valve.drives_id, {h.id for h in after.heaters_of(copy.id)})
        zone, like = after.zone_of_room(copy.id), home.zone_of_room("den")
        assert zone is not None
        assert like is not None
        self.assertEqual(
            [(p.start_min, p.level_id) for p in zone.all_points],
            [(p.start_min, p.level_id) for p in like.all_points],
            "timetables come along",
        )
        self.assertIn(mine["air_sensor"].id, zone.counted_ids)
        self.assertEqual(len({part.name for part in after.devices}), len(after.devices))

    def test_a_storeys_copy_has_each_room_at_its_place_on_top(self) -> None:
        home = furnished()
        storey = home.room("den").storey_id or ""
        after = with_storey_copied(home, storey)
        top = after.storeys[-1]
        self.assertEqual(
            [(r.rects, r.condition) for r in after.rooms if r.storey_id == top.id],
            [(r.rects, r.condition) for r in home.rooms if r.storey_id == storey and r.is_drawn],
        )
        self.assertLess(loss_of(after, after.room("den")).total_w, loss_of(home, home.room("den")).total_w, "no roof")
        with self.assertRaisesRegex(HomeError, "no room that could be copied"):
            bare = with_storey(home)
            with_storey_copied(bare, bare.storeys[-1].id)

    def test_names_count_on(self) -> None:
        self.assertEqual(free_name({"Bedroom"}, "Bedroom"), "Bedroom 2")
        self.assertEqual(free_name({"Bedroom 2", "Bedroom 3"}, "Bedroom 2"), "Bedroom 4")
        self.assertEqual(len(free_name({"x" * 80}, "x" * 80)), 80)

    def test_usual_parts_fill_what_lacks_and_no_more(self) -> None:
        whole = drawn_home()
        zones = tuple(replace(z, sensing=(), owner_id=None, heater_ids=None) for z in whole.zones)
        bare = replace(whole, heaters=(), devices=(), openings=(), zones=zones)
        home, put_in = with_usual_parts(bare, "den")
        (heater,) = home.heaters_of("den")
        self.assertEqual(heater.kind, "radiator")
        self.assertEqual(sorted(d.kind for d in home.devices_in("den")), ["air_sensor", "radiator_valve"])
        self.assertEqual([o.kind for o in home.openings_of("den")], ["window"])
        self.assertEqual(len(put_in), 4)
        self.assertEqual(with_usual_parts(home, "den")[1], ())
        with self.assertRaisesRegex(HomeError, "already"):
            AddUsualParts(room_id="den").edit(home)


class Outdoors(unittest.TestCase):
    def test_a_terrace_beside_a_room_leaves_its_walls_outside_and_has_no_zone(self) -> None:
        home = furnished()
        alone = without_room(replace(home, openings=()), "study")
        open_air = ChangeRoom(room_id="study", values={"condition": "outdoors"}).edit(replace(home, openings=())).home
        self.assertIsNone(open_air.zone_of_room("study"))
        self.assertAlmostEqual(
            loss_of(open_air, open_air.room("den")).total_w, loss_of(alone, alone.room("den")).total_w
        )
        self.assertEqual(home_plan(open_air)["den"].shared_m(), {})
        heated = ChangeRoom(room_id="study", values={"condition": "heated"}).edit(open_air).home
        self.assertIsNotNone(heated.zone_of_room("study"))


if __name__ == "__main__":
    unittest.main()
