"""The sun: symmetry, limits and sums that hold anywhere."""

import unittest
from datetime import UTC, datetime

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.errors import OutOfRange
from warmeter.core.timegrid import to_ms
from warmeter.core.weather.sun import clear_sky_w_m2, plane_irradiance, sun_position

YEAR = to_ms(datetime(2026, 1, 1, tzinfo=UTC)) + np.arange(0, 365 * 24, dtype=np.int64) * 3_600_000


class Sun(unittest.TestCase):
    def test_highest_at_noon_in_the_south_of_the_north(self) -> None:
        day = to_ms(datetime(2026, 6, 21, tzinfo=UTC)) + np.arange(1440, dtype=np.int64) * 60_000
        elevation, azimuth = sun_position(day, latitude_deg=52.0, longitude_deg=0.0)
        top = int(np.argmax(elevation))
        self.assertAlmostEqual(float(elevation[top]), 90 - 52 + 23.44, delta=0.05)
        self.assertAlmostEqual(float(azimuth[top]), 180, delta=0.6)
        self.assertAlmostEqual(top, 722, delta=3)

    def test_half_of_the_year_is_day_everywhere(self) -> None:
        for latitude in (-60.0, -20.0, 0.0, 35.0, 66.0):
            elevation, _ = sun_position(YEAR, latitude_deg=latitude, longitude_deg=10.0)
            self.assertAlmostEqual(float((elevation > 0).mean()), 0.5, delta=0.012)

    def test_polar_night_has_no_sun(self) -> None:
        december = to_ms(datetime(2026, 12, 21, tzinfo=UTC)) + np.arange(24, dtype=np.int64) * 3_600_000
        elevation, _ = sun_position(december, latitude_deg=75.0, longitude_deg=0.0)
        self.assertTrue((elevation < 0).all())
        self.assertTrue((clear_sky_w_m2(elevation) == 0).all())

    def test_places_off_the_globe_are_refused(self) -> None:
        for latitude, longitude in ((91.0, 0.0), (0.0, 181.0), (float("nan"), 0.0)):
            with self.assertRaises(OutOfRange):
                sun_position(YEAR[:1], latitude_deg=latitude, longitude_deg=longitude)

    @settings(deadline=None, derandomize=True)
    @given(st.floats(0.5, 89), st.floats(0, 360), st.floats(0, 900), st.floats(0, 300))
    def test_a_level_plane_gets_the_horizontal_and_no_ground(
        self, height: float, azimuth: float, direct: float, diffuse: float
    ) -> None:
        plane = plane_irradiance(
            elevation_deg=np.array([height]),
            azimuth_deg=np.array([azimuth]),
            tilt_deg=0,
            surface_azimuth_deg=180,
            direct_w_m2=np.array([direct]),
            diffuse_w_m2=np.array([diffuse]),
        )
        self.assertAlmostEqual(float(plane.total_w_m2[0]), float(plane.horizontal_w_m2[0]), places=6)
        self.assertAlmostEqual(float(plane.ground_w_m2[0]), 0, places=6)

    def test_a_wall_in_its_own_shade_gets_no_beam(self) -> None:
        north = plane_irradiance(
            elevation_deg=np.array([30.0]),
            azimuth_deg=np.array([180.0]),
            tilt_deg=90,
            surface_azimuth_deg=0,
            direct_w_m2=np.array([800.0]),
            diffuse_w_m2=np.array([100.0]),
        )
        self.assertEqual((north.beam_w_m2[0], round(float(north.diffuse_w_m2[0]), 9)), (0.0, 50.0))

    def test_clear_sky_rises_with_the_sun(self) -> None:
        sky = clear_sky_w_m2(np.linspace(0.1, 90, 100))
        self.assertTrue((np.diff(sky) > 0).all())
        self.assertLess(float(sky[-1]), 1361)
