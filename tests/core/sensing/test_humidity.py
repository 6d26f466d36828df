"""Sensors and damp air against tables and other routes to the same number."""

import unittest

import numpy as np

from warmeter.core.errors import OutOfRange
from warmeter.core.sensing.humidity import check_mould, dew_points_c, saturation_pa, u_at_mould_resistance


class DampAir(unittest.TestCase):
    def test_behind_furniture_the_inner_surface_resists_twice_as_much(self) -> None:
        for u in (0.2, 0.65, 2.1):
            self.assertAlmostEqual(1 / u_at_mould_resistance(u), 1 / u - 0.13 + 0.25, places=9)

    def test_saturation_by_the_table(self) -> None:
        for celsius, pascal in ((0, 611), (5, 872), (10, 1226), (15, 1702), (20, 2333), (25, 3160), (30, 4234)):
            self.assertAlmostEqual(float(saturation_pa(np.array([celsius]))[0]), pascal, delta=1.0)

    def test_at_the_dew_point_the_same_air_is_saturated(self) -> None:
        for celsius, rh in ((20, 0.5), (26, 0.7), (5, 0.9)):
            dew = dew_points_c(np.array([float(celsius)]), np.array([rh]))
            full = saturation_pa(np.array([float(celsius), dew[0]]))
            self.assertAlmostEqual(rh * full[0], full[1], places=6)
        self.assertTrue(np.isnan(dew_points_c(np.array([20.0]), np.array([0.0])))[0])

    def test_a_colder_or_damper_corner_is_worse_and_insulation_better(self) -> None:
        old = check_mould(indoor_c=20, outdoor_c=-5, rh=0.5, u_w_m2k=u_at_mould_resistance(1.5))
        new = check_mould(indoor_c=20, outdoor_c=-5, rh=0.5, u_w_m2k=u_at_mould_resistance(0.25))
        self.assertTrue(old.is_at_risk and not new.is_at_risk)
        self.assertLess(new.surface_rh, old.surface_rh)
        just = check_mould(indoor_c=20, outdoor_c=-5, rh=0.5, factor=old.least_factor)
        self.assertAlmostEqual(just.surface_rh, 0.8, places=6)
        for bad in ({"outdoor_c": 25.0, "factor": 0.7}, {"outdoor_c": 0.0}):
            with self.assertRaises(OutOfRange):
                check_mould(indoor_c=20, rh=0.5, **bad)
