"""The home's document, format 3: what has no meaning is refused, what is doubtful is not, and it survives the road."""

import json
import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.drawn import drawn_home, room
from warmeter.core.errors import HomeError
from warmeter.core.floor_plan.shape import Rect
from warmeter.core.home.devices import ControlPath, Device, Identity, SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.home.part import Note, Spot
from warmeter.core.home.plant import FanStep, Heater, Source, SplitUnit
from warmeter.core.home.rooms import Opening, Overrule, Thing
from warmeter.core.home.timetables import ChangePoint, Period, every_day
from warmeter.core.home.upgrade import upgraded
from warmeter.core.home.zones import CountedSensor, GuardLimits, Sensing, Zone
from warmeter.service.homes.demo import DEMO_HOMES, demo_home
from warmeter.store.codec import home_from_json, home_from_packed, home_to_json, pack

metres = st.floats(min_value=-400, max_value=400, allow_nan=False)
sizes = st.floats(min_value=0.1, max_value=99, allow_nan=False)


class Refused(unittest.TestCase):
    def test_names_of_what_is_not_there(self) -> None:
        home = drawn_home()
        study = home.devices[1]
        for broken, words in (
            ({"openings": (replace(home.openings[0], room_id="attic"),)}, "names a room"),
            (
                {"things": (Thing(id="t", room_id="attic", name="T", kind="lamp", at=Spot(x_m=0, y_m=0)),)},
                "names a room",
            ),
            ({"devices": (replace(study, room_id="attic"), home.devices[0])}, "names a room"),
            ({"devices": (replace(study, drives_id="stove"), home.devices[0])}, "names a heater"),
            ({"devices": (replace(study, witness_id="eye"), home.devices[0])}, "names a device"),
            ({"devices": (replace(study, fed_by_id="switch"), home.devices[0])}, "names a device"),
            ({"safety_chains": (SafetyChain(id="c", name="C", kind="leak", device_ids=("eye",)),)}, "names a device"),
            ({"zones": (replace(home.zones[0], owner_id="eye"),)}, "names a device"),
            ({"zones": (replace(home.zones[0], heater_ids=("stove",)),)}, "names a heater"),
            ({"zones": (replace(home.zones[0], room_ids=("attic",)),)}, "names a room"),
            ({"rooms": (room("den", 0, 4, storey_id="sky"), home.rooms[1])}, "names a storey"),
            ({"levels": ()}, "names a level"),
            ({"notes": (Note(id="den", about_id="den", text="twice"),)}, "stands twice"),
        ):
            with self.subTest(words=words, broken=str(broken)[:60]), self.assertRaises(HomeError) as caught:
                replace(home, **broken)
            self.assertIn(words, str(caught.exception))

    def test_parts_that_contradict_themselves(self) -> None:
        zone = drawn_home().zones[0]
        sensing = Sensing(rule="one", sensors=(CountedSensor(device_id="air-den"),))
        for make in (
            lambda: replace(zone, low_c=22.0, high_c=18.0),
            lambda: replace(zone, sensing=(sensing, sensing)),
            lambda: every_day("t"),
            lambda: every_day(
                "t", ChangePoint(start_min=60, level_id="in-use"), ChangePoint(start_min=60, level_id="in-use")
            ),
            lambda: replace(zone, calendar=(Period(timetable_id="gone"),)),
            lambda: Period(timetable_id="t", from_date=date(2026, 2, 2), to_date=date(2026, 2, 1)),
            lambda: Period(timetable_id="t", from_date=date(2026, 2, 2), every_year=True),
            lambda: GuardLimits(low_c=20.0, high_c=20.0),
            lambda: Source(id="s", name="S", kind="heat_pump"),
            lambda: Heater(id="h", room_id="den", name="H", kind="split_unit", source_id="boiler", rated_heat_w=2000),
        ):
            with self.assertRaises(HomeError):
                make()

    def test_wrong_fields_are_told_by_place(self) -> None:
        changes: tuple[tuple[Callable[[Any], object], str], ...] = (
            (lambda d: d["rooms"][0]["rects"][0].update(width_m=-1.0), "rooms.0.rects.0.width_m"),
            (lambda d: d["rooms"][0].update(use="cellar"), "rooms.0.use"),
            (lambda d: d["openings"][0].update(g_value=1.4), "openings.0.g_value"),
            (lambda d: d["devices"][0].update(power="steam"), "devices.0.power"),
            (lambda d: d["devices"][0].update(is_two_way="yes"), "devices.0.is_two_way"),
            (lambda d: d["heaters"][0].update(exponent=3.0), "heaters.0.exponent"),
            (lambda d: d["design"].update(north_deg=400.0), "design.north_deg"),
            (lambda d: d["storeys"][0].update(colour="red"), "storeys.0.colour"),
            (lambda d: d["zones"][0]["sensing"][0].update(rule="loudest"), "zones.0.sensing.0.rule"),
        )
        for change, place in changes:
            document = json.loads(home_to_json(drawn_home()))
            change(document)
            with self.subTest(place), self.assertRaises(ValueError) as caught:
                home_from_json(json.dumps(document))
            self.assertIn(place, str(caught.exception))

    def test_a_format_from_the_future_says_what_to_do(self) -> None:
        for wrong in ({"format": "warmeter-home/99"}, {"format": None}, {}):
            with self.assertRaises(HomeError) as caught:
                upgraded(wrong)
            self.assertIn("open it there", str(caught.exception))


class Doubtful(unittest.TestCase):
    def test_overlapping_rooms_wide_windows_and_lost_devices_load(self) -> None:
        home = drawn_home(
            rooms=(room("den", 0.0, 4.0), room("study", 1.0, 5.0)),
            openings=(
                Opening(id="w", room_id="den", kind="window", side="up", along_m=0.0, width_m=30.0, height_m=19.0),
            ),
        )
        lost = replace(home.devices[0], at=Spot(x_m=90.0, y_m=90.0), room_id=None)
        home = replace(home, devices=(lost, home.devices[1]))
        self.assertEqual(home_from_json(home_to_json(home)), home)


class Road(unittest.TestCase):
    @settings(max_examples=60, deadline=None, derandomize=True)
    @given(st.lists(st.tuples(metres, metres, sizes, sizes), min_size=1, max_size=4), st.text(min_size=1, max_size=40))
    def test_any_drawing_and_any_name_come_back_the_same(
        self, rects: list[tuple[float, float, float, float]], name: str
    ) -> None:
        shape = tuple(Rect(x_m=x, y_m=y, width_m=w, depth_m=d) for x, y, w, d in rects)
        home: Home = drawn_home(rooms=(room("den", 0, 4, rects=shape, name=name), drawn_home().rooms[1]))
        self.assertEqual(home_from_json(home_to_json(home)), home)

    def test_a_device_with_all_that_can_be_known_comes_back_the_same(self) -> None:
        full = replace(
            drawn_home().devices[0],
            identities=(Identity(address="1", since=date(2025, 1, 2), reason="new"), Identity(address="2")),
            commands=(ControlPath(way="voice", by="anybody"),),
            quantities=("room_temperature",),
            retired_on=date(2026, 1, 1),
            replaced_by_id="air-study",
        )
        home = replace(drawn_home(), devices=(full, drawn_home().devices[1]))
        back = home_from_json(home_to_json(home))
        self.assertEqual(back, home)
        self.assertEqual((back.devices[0].address, back.devices[0].is_in_service), ("2", False))

    def test_split_units_overrules_and_every_demo_home_come_back_the_same(self) -> None:
        split = SplitUnit(cooling_w=2500.0, fan_steps=(FanStep(word="low", share=0.4),))
        heater = replace(drawn_home().heaters[0], kind="split_unit", split=split)
        typed = room(
            "den", 0, 4, overrules=(Overrule(figure="u_wall", value=0.3, reason="probe", on=date(2026, 1, 1)),)
        )
        home = replace(drawn_home(), heaters=(heater, drawn_home().heaters[1]), rooms=(typed, drawn_home().rooms[1]))
        for each in (home, *(demo_home(name) for name in DEMO_HOMES)):
            self.assertEqual(home_from_json(home_to_json(each)), each)

    def test_the_same_stored_bytes_give_the_same_home(self) -> None:
        data = pack(home_to_json(drawn_home()))
        self.assertIs(home_from_packed(data), home_from_packed(bytes(bytearray(data))))


class Lookups(unittest.TestCase):
    def test_parts_are_found_by_id_and_heaters_by_strength(self) -> None:
        home = drawn_home()
        small = replace(home.heaters[0], id="small", rated_heat_w=100.0)
        more = replace(home, heaters=(small, *home.heaters))
        leading = more.heater_of("den")
        assert leading is not None
        self.assertEqual((leading.id, [h.id for h in more.heaters_of("den")]), ("rad-den", ["small", "rad-den"]))
        for find in (
            home.room,
            home.heater,
            home.device,
            home.opening,
            home.thing,
            home.storey,
            home.zone_of_id,
            home.level,
        ):
            with self.assertRaises(HomeError):
                find("nobody")
        retired = replace(home.devices[0], retired_on=date(2026, 1, 1))
        self.assertEqual(replace(home, devices=(retired, home.devices[1])).devices_in("den"), ())
        self.assertEqual(len(list(home.parts())), 14)

    def test_a_levels_own_rule_comes_before_the_common_one(self) -> None:
        common = Sensing(rule="mean", sensors=(CountedSensor(device_id="air-den"),))
        own = Sensing(rule="coldest", sensors=(CountedSensor(device_id="air-study"),), level_id="in-use")
        zone: Zone = replace(drawn_home().zones[0], sensing=(common, own))
        self.assertEqual(
            (zone.sensing_at("in-use"), zone.sensing_at("asleep"), zone.sensing_at(None)), (own, common, common)
        )
        self.assertEqual(zone.counted_ids, ("air-den", "air-study"))
        self.assertIsNone(replace(zone, sensing=(own,)).sensing_at("asleep"))

    def test_a_spare_device_is_in_no_room(self) -> None:
        spare = Device(id="spare", name="Spare", kind="plug")
        home = replace(drawn_home(), devices=(*drawn_home().devices, spare))
        self.assertEqual((spare.address, [d.id for d in home.devices_in("den")]), ("", ["air-den"]))
