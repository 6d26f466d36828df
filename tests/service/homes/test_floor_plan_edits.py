"""Edits of the plan as values, homes as files, old documents, and sensors that carry calibrated readings."""

import json
import unittest
from dataclasses import replace
from datetime import date

import numpy as np

from tests.drawn import drawn_home, room
from tests.homes import small_home
from tests.places import DATA
from tests.served import NOW_MS, fresh_app
from warmeter.core.building.room_envelope import floor_area_m2, home_plan
from warmeter.core.edits import floor_plan_edits
from warmeter.core.errors import HomeError, ReadingError
from warmeter.core.floor_plan.shape import Rect
from warmeter.core.home.devices import Calibration
from warmeter.core.home.document import FORMAT
from warmeter.core.home.part import Spot
from warmeter.core.home.upgrade import upgraded
from warmeter.core.readings.csvlog import guess
from warmeter.service.app import Person
from warmeter.service.homes.homefile import bring_in, home_of_file, joined, put_in_place, take_rooms
from warmeter.service.readings.logs import keep_upload, take
from warmeter.service.readings.room_logs import instants, room_series
from warmeter.service.zones.grouping import compare_groupings, proposals_of, typical_week
from warmeter.store.codec import home_from_json, home_to_json

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


class Files(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        self.app.homes.create(drawn_home(), author="Ann", at_ms=NOW_MS, summary="made")

    def test_a_home_comes_in_as_a_copy_or_as_a_revision_of_itself(self) -> None:
        data = home_to_json(drawn_home())
        copy = bring_in(self.app, data, ANN, "home.json")
        self.assertNotEqual(copy, "drawn")
        self.assertEqual(self.app.homes.load(copy)[0].rooms, drawn_home().rooms)
        renamed = replace(drawn_home(), name="Renamed")
        number = put_in_place(self.app, "drawn", 1, home_to_json(renamed), ANN, "home.json")
        self.assertEqual((number, self.app.homes.load("drawn")[0].name), (2, "Renamed"))

    def test_other_homes_other_versions_and_rubbish_are_refused_and_nothing_is_lost(self) -> None:
        document = json.loads(home_to_json(drawn_home()))
        negative = json.loads(home_to_json(drawn_home()))
        negative["rooms"][0]["rects"][0]["width_m"] = -4
        for data, words in (
            (home_to_json(replace(drawn_home(), id="other")), "another home"),
            (json.dumps(document | {"format": "warmeter-home/9"}).encode(), "warmeter-home/9"),
            (json.dumps(document | {"colour": "red"}).encode(), "colour"),
            (json.dumps(negative).encode(), "rooms.0.rects.0.width_m"),
            (b"[1, 2]", "no JSON of a home"),
            (b"PK\x03\x04\xff", "no JSON of a home"),
        ):
            with self.subTest(words), self.assertRaises(HomeError) as caught:
                put_in_place(self.app, "drawn", 1, data, ANN, "f.json")
            self.assertIn(words, str(caught.exception))
        self.assertEqual(self.app.homes.load("drawn"), (drawn_home(), 1))
        for parts, words in (((b" ",), "empty"), ((b"x" * 9_000_000, b"y" * 9_000_000), "16 MB")):
            with self.assertRaises(HomeError) as caught:
                joined(parts)
            self.assertIn(words, str(caught.exception))

    def test_rooms_from_a_table_are_one_revision_with_zones(self) -> None:
        table = "name,x_m,y_m,width_m,depth_m\nPorch,0,3,2,1\n".encode("utf-8-sig")
        take_rooms(self.app, "drawn", 1, table, ANN, "rooms.csv")
        home, number = self.app.homes.load("drawn")
        self.assertEqual((number, home.rooms[2].name, home.zones[2].room_ids), (2, "Porch", (home.rooms[2].id,)))
        with self.assertRaises(ReadingError):
            take_rooms(self.app, "drawn", 2, b"name,x_m,y_m,width_m,depth_m\nPorch,0,3,-2,1\n", ANN, "rooms.csv")
        with self.assertRaises(HomeError):
            take_rooms(self.app, "drawn", 2, b"\xff\xfe", ANN, "rooms.csv")

    def test_an_old_document_opens_with_its_rooms_in_words(self) -> None:
        old = json.loads(OLD.read_bytes())
        home = home_from_json(OLD.read_bytes())
        self.assertEqual(home.format, FORMAT)
        for before, after in zip(old["rooms"], home.rooms, strict=True):
            assert after.described is not None
            self.assertEqual(after.described.floor_area_m2, before["floor_area_m2"])
            self.assertFalse(after.is_drawn)
        self.assertEqual(upgraded(old)["format"], FORMAT)
        self.assertEqual(old["format"], "warmeter-home/1", "what was given is not changed")
        self.assertEqual(home_of_file(OLD.read_bytes()), home)


class SensorReadings(unittest.TestCase):
    def test_a_sensors_log_is_its_rooms_and_its_calibration_applies_from_its_date(self) -> None:
        app = fresh_app()
        home = drawn_home()
        sensor = replace(
            home.devices[0],
            quantities=("room_temperature",),
            calibrations=(Calibration(offset=-0.5, on=date(2026, 1, 1)), Calibration(offset=-1.0, on=date(2026, 1, 6))),
        )
        home = replace(home, devices=(sensor, home.devices[1]))
        app.homes.create(home, author="Ann", at_ms=NOW_MS, summary="made")
        lines = ["time,den"] + [f"2026-01-{d:02d} 12:00,20.0" for d in (4, 5, 6, 7)]
        plan = guess(lines, rooms=[("den", "Den")], machines=[])
        column = replace(
            plan.columns[0], quantity="room_temperature", unit="°C", kind="instant", stamp="instant", subject=sensor.id
        )
        upload = keep_upload(app, "den.csv", ["\n".join(lines).encode()])
        take(app, "drawn", upload, replace(plan, columns=(column,)), ANN)
        series = room_series(app, home, "room_temperature", "den")
        self.assertEqual(len(series), 1)
        at = app.readings.readings(series[0].id).at_ms
        np.testing.assert_allclose(instants(app, home, series, at), [19.5, 19.5, 19.0, 19.0])
        raw = app.readings.readings(series[0].id).value
        np.testing.assert_allclose(raw, 20.0, err_msg="raw values stay")


class TryingGroupings(unittest.TestCase):
    def test_now_apart_together_and_ones_own_are_tried_and_one_is_favoured(self) -> None:
        app = fresh_app()
        home = drawn_home(rooms=(room("den", 0.0, 4.0), room("study", 4.0, 5.0, design_c=18.0)))
        app.homes.create(home, author="Ann", at_ms=NOW_MS, summary="made")
        proposals = proposals_of(home, "study", {"den": "A", "study": "A"}, "coldest")
        self.assertEqual([p.key for p in proposals], ["now", "one"])
        found = compare_groupings(app, home, proposals)
        self.assertIn("made-up week", found.weather)
        self.assertEqual(found.trials[0].found.cost, None, "without a tariff nothing is priced")
        self.assertIn(found.favoured, found.trials)
        self.assertIn("kWh", found.reason)
        for trial in found.trials:
            self.assertTrue(trial.low.heat_kwh < trial.found.heat_kwh < trial.high.heat_kwh)
        week, _ = typical_week(app, home, found.home)
        self.assertEqual(week.steps, 10 * 1440)
        with self.assertRaises(HomeError):
            compare_groupings(app, home, ())
