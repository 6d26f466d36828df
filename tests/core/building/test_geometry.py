"""Where things stand: rays of the sun traced one by one, distances, walls; and mends that take several steps."""

import unittest
from dataclasses import replace
from datetime import date
from itertools import product

import numpy as np

from tests.drawn import drawn_home, room
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.building.checks.zoning import can_cool
from warmeter.core.building.fixes import fixed
from warmeter.core.building.geometry import (
    DAYS,
    LOWEST_SUN_DEG,
    REFERENCE_YEAR_MS,
    SUN_STEP_MIN,
    heater_box,
    is_inside,
    nearest_side,
    outside_wall_at,
    sun_on_spot,
    thing_box,
)
from warmeter.core.building.room_envelope import wall_of
from warmeter.core.floor_plan.shape import SIDES, Rect
from warmeter.core.floor_plan.walls import bearing_deg
from warmeter.core.home.devices import ControlPath, Device
from warmeter.core.home.document import Home
from warmeter.core.home.part import Spot
from warmeter.core.home.plant import SplitUnit
from warmeter.core.home.rooms import Opening, Thing
from warmeter.core.home.zones import GuardLimits
from warmeter.core.weather.sun import sun_position

# The den lies at x 0 to 4, y 0 to 3; unit vectors on the plan of what each side faces.
OUTWARD = {"up": (0.0, -1.0), "down": (0.0, 1.0), "left": (-1.0, 0.0), "right": (1.0, 0.0)}
PLANE = {"up": 0.0, "down": 3.0, "left": 0.0, "right": 4.0}


def traced(home: Home, opening: Opening, spot: Spot) -> set[int]:
    """Return the months in which a ray from a spot to the sun passes a window, marched in three dimensions."""
    steps = 1440 // SUN_STEP_MIN
    months: set[int] = set()
    for month, day in enumerate(DAYS):
        at = REFERENCE_YEAR_MS + day * 86_400_000 + np.arange(steps, dtype=np.int64) * SUN_STEP_MIN * 60_000
        height, azimuth = sun_position(at, latitude_deg=home.place.latitude_deg, longitude_deg=home.place.longitude_deg)
        for h, a in zip(np.radians(height), np.radians(azimuth - home.design.north_deg), strict=True):
            if np.degrees(h) <= LOWEST_SUN_DEG:
                continue
            # North is up on the plan where the upper edge faces north: east is +x, north is −y.
            direction = np.array([np.sin(a) * np.cos(h), -np.cos(a) * np.cos(h), np.sin(h)])
            axis = 1 if opening.side in ("up", "down") else 0
            outward = OUTWARD[opening.side][axis]
            if direction[axis] * outward <= 1e-3 * np.cos(h):
                continue
            start = np.array([spot.x_m, spot.y_m, spot.z_m])
            hit = start + direction * (PLANE[opening.side] - start[axis]) / direction[axis]
            along = hit[0] if axis == 1 else hit[1]
            if (
                abs(along - opening.along_m) <= opening.width_m / 2
                and opening.sill_m <= hit[2] <= opening.sill_m + opening.height_m
            ):
                months.add(month)
    return months


class Sunlight(unittest.TestCase):
    def test_the_months_are_those_of_rays_traced_one_by_one(self) -> None:
        compared = 0
        for side, north, (x, y) in product(SIDES, (0.0, 35.0, 190.0), ((0.6, 0.7), (2.0, 1.5), (3.4, 2.2))):
            opening = Opening(
                id="w", room_id="den", kind="window", side=side, along_m=1.4, width_m=1.2, height_m=1.3, sill_m=0.8
            )
            home = drawn_home()
            # The study is taken away, so that all four walls of the den face outdoors.
            home = replace(
                home,
                rooms=home.rooms[:1],
                heaters=home.heaters[:1],
                devices=home.devices[:1],
                zones=home.zones[:1],
                openings=(opening,),
                design=replace(home.design, north_deg=north),
            )
            spot = Spot(x_m=x, y_m=y, z_m=1.4)
            found = sun_on_spot(home, home.room("den"), spot)
            wanted = traced(home, opening, spot)
            with self.subTest(side=side, north=north, spot=(x, y)):
                self.assertEqual(set(found[0].months) if found else set(), wanted)
            compared += bool(wanted)
        self.assertGreater(compared, 12, "the comparison must meet the sun")

    def test_bearings_follow_the_plans_north(self) -> None:
        self.assertEqual(
            [bearing_deg(side, 30.0) for side in ("up", "right", "down", "left")], [30.0, 120.0, 210.0, 300.0]
        )

    def test_words_name_months_in_a_row_and_hours(self) -> None:
        opening = Opening(
            id="w", room_id="den", kind="window", side="down", along_m=2.0, width_m=3.0, height_m=2.0, sill_m=0.3
        )
        home = replace(drawn_home(), openings=(opening,), design=replace(drawn_home().design, north_deg=0.0))
        lit = sun_on_spot(home, home.room("den"), Spot(x_m=2.0, y_m=2.5, z_m=1.0))[0]
        self.assertRegex(lit.sentence, r"^\d\d:\d\d to \d\d:\d\d, \w+")
        self.assertLess(lit.from_min, lit.to_min)


class Places(unittest.TestCase):
    def test_inside_on_a_wall_and_nearest_side(self) -> None:
        home = drawn_home()
        den, study = home.rooms
        self.assertTrue(is_inside(den, Spot(x_m=4.0, y_m=3.0)))
        self.assertFalse(is_inside(den, Spot(x_m=4.1, y_m=1.0)))
        self.assertEqual(nearest_side(den, Spot(x_m=3.9, y_m=1.5)), "right")
        self.assertIsNone(outside_wall_at(home, den, Spot(x_m=3.95, y_m=1.5)), "the study is behind that wall")
        self.assertEqual(outside_wall_at(home, study, Spot(x_m=4.95, y_m=1.5)), "right")
        self.assertEqual(outside_wall_at(home, den, Spot(x_m=1.0, y_m=0.1)), "up")
        self.assertIsNone(outside_wall_at(home, den, Spot(x_m=1.0, y_m=1.0)))

    def test_a_heater_lies_along_its_wall_and_a_thing_about_its_middle(self) -> None:
        home = drawn_home()
        den, heater = home.rooms[0], home.heaters[0]
        lying = heater_box(den, replace(heater, at=Spot(x_m=2.0, y_m=0.1), length_m=2.0))
        standing = heater_box(den, replace(heater, at=Spot(x_m=0.1, y_m=1.5), length_m=2.0))
        assert lying is not None and standing is not None
        self.assertEqual((lying[0], lying[2]), (1.0, 3.0))
        self.assertEqual((standing[1], standing[3]), (0.5, 2.5))
        self.assertIsNone(heater_box(den, replace(heater, at=None)))
        thing = Thing(id="t", room_id="den", name="T", kind="furniture", at=Spot(x_m=1, y_m=1), width_m=2, depth_m=1)
        self.assertEqual(thing_box(den, thing), (0.0, 0.5, 2.0, 1.5))

    def test_in_an_l_an_opening_lies_in_the_outermost_wall_of_its_side(self) -> None:
        shape = room(
            "el", 0.0, 4.0, rects=(Rect(x_m=0, y_m=0, width_m=4, depth_m=3), Rect(x_m=4, y_m=1, width_m=2, depth_m=2))
        )
        home = drawn_home(rooms=(shape,), openings=(), heaters=(), devices=(), zones=())
        for along, at in ((0.5, 4.0), (2.0, 6.0)):
            opening = Opening(
                id="o", room_id="el", kind="window", side="right", along_m=along, width_m=0.4, height_m=1.0
            )
            wall, fits = wall_of(home, opening)
            assert wall is not None
            self.assertEqual((wall.stretch.at_m, fits), (at, True))
        wide = Opening(id="o", room_id="el", kind="window", side="right", along_m=0.5, width_m=1.4, height_m=1.0)
        self.assertEqual(wall_of(home, wide)[1], False)


class Commands(unittest.TestCase):
    def test_followers_guard_and_cooling_of_a_zone(self) -> None:
        home = drawn_home()
        zone = home.zones[0]
        self.assertEqual(home.following(zone), ("rad-den",))
        self.assertEqual(home.following(replace(zone, heater_ids=("rad-study",))), ("rad-study",))
        self.assertEqual(home.guard_of(None).low_c, 10.0)
        self.assertEqual(home.guard_of(replace(zone, guard=GuardLimits(low_c=14.0))).low_c, 14.0)
        self.assertFalse(can_cool(home, zone))
        cooled = replace(home.heaters[0], kind="split_unit", split=SplitUnit(cooling_w=2000.0))
        self.assertTrue(can_cool(replace(home, heaters=(cooled, home.heaters[1])), zone))

    def test_a_heater_that_follows_two_zones_is_let_follow_the_first(self) -> None:
        home = drawn_home()
        both = replace(home, zones=(home.zones[0], replace(home.zones[1], heater_ids=("rad-study", "rad-den"))))
        finding = next(f for f in findings_of(both) if f.kind == "controlled twice")
        self.assertEqual(finding.about, ("rad-den", "z-den", "z-study"))
        after = fixed(both, "controlled twice", finding.about, "new")
        self.assertEqual(after.zones[1].heater_ids, ("rad-study",))
        self.assertNotIn("controlled twice", {f.kind for f in findings_of(after)})

    def test_open_ways_are_shut_and_wanted_ones_left(self) -> None:
        home = drawn_home()
        ways = (ControlPath(way="voice", by="a guest"), ControlPath(way="wheel", by="us", state="wanted"))
        device = replace(home.devices[0], commands=ways)
        home = replace(home, devices=(device, home.devices[1]))
        after = fixed(home, "open way", ("air-den",), "new")
        self.assertEqual([c.state for c in after.device("air-den").commands], ["shut", "wanted"])

    def test_only_open_by_wheel_is_a_note_and_by_voice_a_warning(self) -> None:
        for way, severity in (
            ("wheel", "note"),
            ("own_buttons", "note"),
            ("voice", "warning"),
            ("maker_service", "warning"),
        ):
            device = replace(drawn_home().devices[0], commands=(ControlPath(way=way, by="somebody"),))  # type: ignore[arg-type]
            home = replace(drawn_home(), devices=(device, drawn_home().devices[1]))
            found = next(f for f in findings_of(home) if f.kind == "open way")
            self.assertEqual(found.severity, severity)

    def test_retired_devices_trip_nothing(self) -> None:
        home = drawn_home()
        worst = Device(
            id="old",
            name="Old",
            kind="radiator_valve",
            room_id="den",
            is_two_way=False,
            drives_id="rad-den",
            own_timetable="running",
            guard_c=1.0,
            commands=(ControlPath(way="voice", by="anybody"),),
        )
        tripped = {f.kind for f in findings_of(replace(home, devices=(*home.devices, worst)))}
        self.assertTrue(
            {"controlled twice", "open way", "no feedback, no witness", "protection limits differ"} <= tripped
        )
        retired = replace(worst, retired_on=date(2026, 1, 1))
        left = {f.kind for f in findings_of(replace(home, devices=(*home.devices, retired)))}
        self.assertEqual(left, {f.kind for f in findings_of(home)})
