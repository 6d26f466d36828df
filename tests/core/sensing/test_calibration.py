"""Offsets of sensors, and sensors that count together."""

import unittest

from warmeter.core.errors import OutOfRange, WarmeterError
from warmeter.core.sensing.calibration import SensorValue, calibrate, counted


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


if __name__ == "__main__":
    unittest.main()
