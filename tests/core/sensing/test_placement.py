"""Where a sensor hangs, told from its log: each planted cause is found with its hours, a sound one is accused of nothing."""

import unittest
from dataclasses import replace

import numpy as np

from tests.drawn import drawn_home
from tests.hung_sensors import hung
from warmeter.core.building.sensor_place import plan_says
from warmeter.core.home.part import Spot
from warmeter.core.sensing.excursions import both_ways, excursions
from warmeter.core.sensing.health import HealthLimits, sensor_health
from warmeter.core.sensing.placement import SpoiltBy, spoilt_readings


class Placement(unittest.TestCase):
    def test_a_sensor_that_hangs_well_is_accused_of_nothing(self) -> None:
        for seed, beside in ((1, False), (2, True)):
            self.assertEqual(spoilt_readings(hung(seed, beside=beside).log), [])

    def test_each_cause_is_found_with_its_hours_and_no_other(self) -> None:
        """Hours within a third of those in which it really reads more than half a kelvin off."""
        cases: tuple[tuple[SpoiltBy, bool], ...] = (
            ("sun", False),
            ("sun", True),
            ("heater", True),
            ("outside_wall", True),
            ("hand", False),
            ("draught", True),
        )
        for cause, beside in cases:
            with self.subTest(cause, beside=beside):
                planted = hung(3, cause, beside=beside)
                found = spoilt_readings(planted.log)
                self.assertEqual([each.by for each in found], [cause])
                self.assertTrue(0.6 < found[0].hours / planted.spoilt_h < 1.6, (found[0].hours, planted.spoilt_h))

    def test_readings_that_stand_still_while_the_room_moves(self) -> None:
        found = spoilt_readings(hung(3, "stale").log)
        self.assertEqual([each.by for each in found], ["stale"])
        self.assertAlmostEqual(found[0].hours, 48.0, delta=4.0)  # four times twelve hours

    def test_a_cold_wall_cannot_be_told_without_another_sensor(self) -> None:
        self.assertEqual(spoilt_readings(hung(3, "outside_wall").log), [])

    def test_windows_that_are_opened_are_no_draught_where_a_contact_tells(self) -> None:
        planted = hung(3, "draught", beside=True)
        opened = replace(planted.log, is_open=np.ones(planted.log.day.size))
        self.assertEqual(spoilt_readings(opened), [])


class Excursions(unittest.TestCase):
    def test_a_rise_that_comes_back_and_one_that_stays(self) -> None:
        values = np.array([20, 20, 23, 22, 20.5, 20, 20, 23, 23, 23, 23, 23, 23, 23, 23.0])
        found = excursions(values, least_k=2.0, within=2, longest=5)
        self.assertEqual([(e.begin, e.peak, e.end, e.size_k) for e in found], [(1, 2, 4, 3.0)])
        fall = both_ways(-values, least_k=2.0, within=2, longest=5)
        self.assertEqual([(e.begin, e.size_k) for e in fall], [(1, -3.0)])

    def test_nothing_is_told_over_what_was_not_heard(self) -> None:
        values = np.array([20, 20, np.nan, 23, 20, 20.0])
        self.assertEqual(excursions(values, least_k=2.0, within=3, longest=5), [])


class PlanSays(unittest.TestCase):
    def test_it_agrees_or_contradicts(self) -> None:
        home = drawn_home()
        near = replace(home.devices[0], at=Spot(x_m=2.0, y_m=0.4, z_m=1.2))
        far = replace(home.devices[0], at=Spot(x_m=3.9, y_m=2.9, z_m=1.2))
        nowhere = replace(home.devices[0], at=None)
        self.assertEqual(plan_says(home, near, "heater").verdict, "agrees")
        self.assertEqual(plan_says(home, far, "heater").verdict, "contradicts")
        self.assertEqual(plan_says(home, nowhere, "heater").verdict, "not_told")
        self.assertEqual(plan_says(home, near, "hand").verdict, "not_told")
        # The window looks north: by the plan no sun comes to the middle of the room.
        self.assertEqual(plan_says(home, near, "sun").verdict, "contradicts")
        wall = replace(home.devices[0], at=Spot(x_m=0.05, y_m=1.5, z_m=1.2))
        self.assertEqual(plan_says(home, wall, "outside_wall").verdict, "agrees")
        self.assertEqual(plan_says(home, near, "outside_wall").verdict, "contradicts")


class Health(unittest.TestCase):
    def test_silence_to_the_limit_is_no_fault(self) -> None:
        at, value = np.arange(0, 3600, 600.0), np.array([20, 20.1, 20.2, 20.1, 20.3, 20.2])
        limits = HealthLimits()
        self.assertEqual(sensor_health(at, value, now_s=3000 + limits.stale_s, limits=limits), ())
        self.assertEqual(sensor_health(at, value, now_s=3001 + limits.stale_s, limits=limits), ("stale",))
        self.assertEqual(sensor_health(at[:0], value[:0], now_s=0.0, limits=limits), ("stale",))
