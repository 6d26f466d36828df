"""Windows under the sun: overhangs against rays, a day against a sum by hand, when the sun stands before a side."""

import unittest
from dataclasses import replace
from datetime import date

import numpy as np

from tests.drawn import drawn_home
from warmeter.core.edits.device_commands import AddDevice
from warmeter.core.edits.item_commands import RemovePart
from warmeter.core.explain.sun_figures import sun_figure
from warmeter.core.home.document import Home
from warmeter.core.shading.room_windows import room_gains, sky_at
from warmeter.core.shading.window_gain import overhang_shaded
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.sun_states import bearing_stretches
from warmeter.core.units import MS_PER_DAY
from warmeter.core.weather.sun import sun_position


def south_home(**window: object) -> Home:
    """Return a den whose window faces south (the plan's lower edge looks there)."""
    home = drawn_home()
    opening = replace(home.openings[0], **window)  # type: ignore[arg-type]
    return replace(home, design=replace(home.design, north_deg=0.0), openings=(opening,))


class Overhang(unittest.TestCase):
    def test_as_rays_from_the_sun_find_it(self) -> None:
        """A ray from each point of the window to the sun: does it pass the overhang's edge above or below?"""
        rng = np.random.default_rng(11)
        points = (np.arange(4000) + 0.5) / 4000
        for _ in range(200):
            elevation, away = float(rng.uniform(2, 85)), float(rng.uniform(-85, 85))
            depth, gap, height = float(rng.uniform(0.1, 2)), float(rng.uniform(0, 0.5)), float(rng.uniform(0.5, 2.5))
            to_sun = np.array(
                [
                    np.cos(np.radians(elevation)) * np.cos(np.radians(away)),  # out of the wall
                    np.sin(np.radians(elevation)),
                ]
            )
            up_to_edge = points * height + gap  # below the overhang, from the top of the window downwards
            rises = to_sun[1] / to_sun[0] * depth
            expected = float((rises > up_to_edge).mean())
            found, _ = overhang_shaded(
                elevation_deg=np.array([elevation]),
                azimuth_deg=np.array([(200 + away) % 360]),
                wall_bearing_deg=200.0,
                depth_m=depth,
                gap_m=gap,
                height_m=height,
            )
            self.assertAlmostEqual(float(found[0]), expected, delta=1e-3)

    def test_a_deep_overhang_keeps_out_the_summer_sun_and_not_the_winter_one(self) -> None:
        for on, least, most in ((date(2026, 6, 21), 0.0, 0.55), (date(2026, 12, 21), 0.9, 1.0)):
            bare, under = (_day_kwh(south_home(overhang_m=depth, overhang_gap_m=0.1), on) for depth in (0.0, 1.0))
            self.assertTrue(least * bare <= under <= most * bare, (on, bare, under))


def _day_kwh(home: Home, on: date) -> float:
    return sun_figure(home, f"up.{on}.win").value or 0.0


class DayThroughAWindow(unittest.TestCase):
    def test_the_sum_of_the_day_by_hand(self) -> None:
        """Every minute of an equinox: the cosine to the wall, a fifth diffuse, half the sky, a fifth off the ground."""
        home = south_home(g_value=0.6, frame_share=0.3)
        start = LocalClock("Europe/London").day(date(2026, 3, 20)).start_ms
        total = 0.0
        for minute in range(1440):
            height, bearing = (
                float(each[0])
                for each in sun_position(
                    np.array([start + minute * 60_000 + 30_000]), latitude_deg=52.0, longitude_deg=0.0
                )
            )
            if height <= 0:
                continue
            level = 1098 * np.sin(np.radians(height)) * np.exp(-0.059 / np.sin(np.radians(height)))
            beam = 0.8 * level / np.sin(np.radians(height))
            across = np.cos(np.radians(height)) * np.cos(np.radians(bearing - 180))
            plane = beam * max(0.0, across) + 0.2 * level / 2 + 0.2 * level / 2
            total += 0.9 * 0.6 * 1.5 * 1.2 * 0.7 * plane / 60_000
        found = sun_figure(home, "up.2026-03-20.win")
        self.assertAlmostEqual(found.value or 0.0, total, delta=0.01 * total)

    def test_a_blind_lets_its_share_through_and_says_how_far_off_that_may_be(self) -> None:
        up = sun_figure(south_home(blind="outside", g_value=0.6), "up.2026-06-21.win").value or 0.0
        usual = sun_figure(south_home(blind="outside", g_value=0.6), "down.2026-06-21.win")
        self.assertAlmostEqual((usual.value or 0) / up, 0.17, places=6)
        self.assertAlmostEqual((usual.low or 0) / up, 0.10, places=6)
        self.assertAlmostEqual((usual.high or 0) / up, 0.25, places=6)
        typed = sun_figure(south_home(blind="outside", g_value=0.6, blind_lets=0.05), "down.2026-06-21.win")
        self.assertAlmostEqual((typed.value or 0) / up, 0.05, places=6)

    def test_a_sun_measured_on_the_level_comes_to_the_window_by_its_own_clouds(self) -> None:
        """At k_t 0.15 all but nothing is beam: the window gets half of what the level gets, and a tenth off the ground."""
        home = south_home(g_value=0.6, frame_share=0.3)
        noon = np.array([LocalClock("Europe/London").day(date(2026, 6, 21)).start_ms + 13 * 3_600_000])
        found = room_gains(home, home.room("den"), sky_at(home, noon, np.array([150.0])))[0]
        self.assertAlmostEqual(float(found.up_w[0]), 0.9 * 0.6 * 1.8 * 0.7 * 150 * 0.6, delta=4)
        self.assertEqual(float(found.is_sunlit[0]), 0.0)

    def test_a_motor_that_is_removed_leaves_the_blind_to_a_hand(self) -> None:
        home = AddDevice(kind="blind_motor", room_id="den").edit(south_home(blind="outside")).home
        motor = home.devices[-1].id
        home = replace(home, openings=tuple(replace(o, blind_motor_id=motor) for o in home.openings))
        left = RemovePart(id=motor).edit(home).home
        self.assertIsNone(left.openings[0].blind_motor_id)
        self.assertEqual(left.openings[0].blind, "outside")


class SunBeforeASide(unittest.TestCase):
    def test_stretches_as_looking_every_ten_seconds_finds_them(self) -> None:
        start = LocalClock("Europe/London").day(date(2026, 5, 3)).start_ms
        at = np.arange(start, start + 2 * MS_PER_DAY, 10_000, dtype=np.int64)
        for latitude, first, last, over in (
            (52.0, 185.0, 355.0, 5.0),
            (-33.0, 300.0, 60.0, 10.0),
            (69.0, 0.0, 90.0, 0.0),
        ):
            height, bearing = sun_position(at, latitude_deg=latitude, longitude_deg=10.0)
            inside = (bearing >= first) & (bearing <= last) if first < last else (bearing >= first) | (bearing <= last)
            expected = inside & (height > over)
            begin, until = bearing_stretches(
                latitude_deg=latitude,
                longitude_deg=10.0,
                from_deg=first,
                until_deg=last,
                over_deg=over,
                start_ms=start,
                end_ms=start + 2 * MS_PER_DAY,
            )
            found = np.zeros(at.size, dtype=bool)
            for low, high in zip(begin.tolist(), until.tolist(), strict=True):
                found |= (at >= low) & (at < high)
            self.assertLessEqual(int((found != expected).sum()), 2 * begin.size)
            self.assertGreater(int(expected.sum()), 0)
