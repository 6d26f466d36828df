"""Sensors and damp air against tables and other routes to the same number."""

import unittest

import numpy as np

from warmeter.core.errors import OutOfRange, WarmeterError
from warmeter.core.sensing.calibration import SensorValue, calibrate, counted
from warmeter.core.sensing.humidity import check_mould, dew_points_c, saturation_pa, u_at_mould_resistance
from warmeter.core.timetable.pair_gap import HeatCoolPair, PairRule, keep_apart, saves


class Calibration(unittest.TestCase):
    def test_one_point_shifts_two_points_also_stretch(self) -> None:
        self.assertAlmostEqual(calibrate([(20.6, 20.0)]).offset, -0.6)
        line = calibrate([(1.0, 0.0), (41.0, 40.4)])
        self.assertAlmostEqual(line.gain * 1.0 + line.offset, 0.0)
        self.assertAlmostEqual(line.gain * 41.0 + line.offset, 40.4)
        for bad in ([], [(1.0, 1.0), (1.0, 2.0)], [(1, 1), (2, 2), (3, 3)]):
            with self.assertRaises(WarmeterError):
                calibrate(bad)


class Counting(unittest.TestCase):
    def test_each_rule_and_a_stale_sensor(self) -> None:
        warm = SensorValue(value=22.0, age_s=10, weight=1.0)
        cool = SensorValue(value=18.0, age_s=20, weight=3.0, is_occupied=True)
        stale = SensorValue(value=5.0, age_s=2000)
        for rule, value, used in (
            ("one", 22.0, 1),
            ("mean", 20.0, 2),
            ("weighted", 19.0, 2),
            ("occupied", 18.0, 1),
            ("coldest", 18.0, 2),
            ("warmest", 22.0, 2),
        ):
            with self.subTest(rule):
                self.assertEqual(counted([warm, cool, stale], rule, max_age_s=1800), (value, used))  # type: ignore[arg-type]
        self.assertEqual(counted([stale], "mean", max_age_s=1800), (None, 0))
        self.assertEqual(counted([SensorValue(value=1, age_s=1800)], "one", max_age_s=1800), (1, 1))
        with self.assertRaises(OutOfRange):
            counted([SensorValue(value=1, age_s=0, weight=0)], "weighted", max_age_s=1)


class DampAir(unittest.TestCase):
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


class Gap(unittest.TestCase):
    rule = PairRule(gap_k=2.0, step_k=0.5, heat_range_c=(5.0, 25.0), cool_range_c=(20.0, 35.0))

    def test_every_pair_moved_apart_is_the_nearest_on_the_grid_that_keeps_the_gap(self) -> None:
        grid = [5 + 0.5 * k for k in range(61)]
        for heat in (18.0, 20.25, 24.0):
            for cool in (20.0, 21.5, 23.0):
                found = keep_apart(HeatCoolPair(heat, cool), self.rule, "heat")
                assert found is not None and found.heat_c is not None and found.cool_c is not None
                fits = [c for c in grid if 20 <= c <= 35 and c - heat >= 2.0 - 1e-9]
                wanted = cool if cool - heat >= 2.0 else min(fits)
                self.assertEqual((found.heat_c, found.cool_c), (heat, wanted))

    def test_no_room_is_no_pair_and_a_lone_side_is_only_clipped(self) -> None:
        tight = PairRule(gap_k=3.0, step_k=0.5, heat_range_c=(20.0, 25.0), cool_range_c=(20.0, 22.0))
        self.assertIsNone(keep_apart(HeatCoolPair(21.0, 22.0), tight, "heat"))
        self.assertEqual(keep_apart(HeatCoolPair(None, 60.0), self.rule, "cool"), HeatCoolPair(None, 35.0))
        self.assertEqual(saves(HeatCoolPair(18.0, None), HeatCoolPair(20.0, 25.0)), (True, None))
