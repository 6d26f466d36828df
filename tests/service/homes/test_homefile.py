"""Homes as files, old documents, and sensors that carry calibrated readings."""

import json
import unittest
from dataclasses import replace
from datetime import date

import numpy as np

from tests.drawn import drawn_home, room
from tests.logs import suggested
from tests.places import DATA
from tests.served import NOW_MS, fresh_app
from warmeter.core.errors import HomeError, ReadingError
from warmeter.core.home.devices import Calibration
from warmeter.core.home.document import FORMAT
from warmeter.core.home.links import LinkSettings
from warmeter.core.home.upgrade import upgraded
from warmeter.service.app import Person
from warmeter.service.homes.homefile import bring_in, home_of_file, joined, put_in_place, take_rooms
from warmeter.service.live.setting_up import linked
from warmeter.service.readings.logs import keep_upload, take
from warmeter.service.readings.room_logs import instants, room_series
from warmeter.service.zones.grouping import compare_groupings, proposals_of, typical_week
from warmeter.store.codec import home_from_json, home_to_json

ANN = Person("Ann")
OLD = DATA / "homes" / "warmeter-home-1.json"


class Files(unittest.TestCase):
    def setUp(self) -> None:
        self.app = fresh_app()
        self.app.homes.create(drawn_home(), author="Ann", at_ms=NOW_MS, summary="made")

    def test_a_copy_of_a_linked_home_neither_hears_nor_commands_the_first(self) -> None:
        home = linked(replace(drawn_home(), link=LinkSettings(mode="send")))
        copy = self.app.homes.load(bring_in(self.app, home_to_json(home), ANN, "home.json"))[0]
        self.assertEqual(copy.link.mode, "off")
        topics = [m.topic for m in copy.message_mappings] + [c.topic for c in copy.command_mappings]
        self.assertEqual(len(topics), len(home.message_mappings) + len(home.command_mappings))
        self.assertEqual([t for t in topics if not t.startswith(f"homes/{copy.id}/")], [])

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
            (json.dumps(document | {"format": "warmeter-home/99"}).encode(), "warmeter-home/99"),
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
        plan = suggested(lines, rooms=[("den", "Den")], machines=[])
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
