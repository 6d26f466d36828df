"""Steps and conditions as they first stand in a sentence."""

import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from warmeter.core.edits.rule_defaults import condition_of, step_of
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Device
from warmeter.core.home.rules import SetLevel, SetPoint, ShutOff, Switch, TimedRun


class AsTheyFirstStand(unittest.TestCase):
    def test_each_step_acts_on_what_the_home_has(self) -> None:
        home = drawn_home()
        level, point, lower = (step_of(home, kind) for kind in ("set_level", "set_point", "lower"))
        self.assertEqual(level, SetLevel(zone_ids=("z-den",), level_id="in-use"))
        self.assertEqual(point, SetPoint(zone_ids=("z-den",), value_c=17.0))
        self.assertEqual(lower, SetPoint(zone_ids=("z-den",), change_k=-0.5))
        self.assertEqual(step_of(home, "switch"), Switch(target_ids=("rad-den",), is_on=False))
        self.assertEqual(step_of(home, "timed_run"), TimedRun(target_ids=("rad-den",), for_s=900))
        self.assertEqual(step_of(home, "shut_off"), ShutOff(target_ids=("rad-den",)))
        valve = Device(id="stop", name="Stop", kind="water_valve", room_id="den")
        self.assertEqual(
            step_of(replace(home, devices=(*home.devices, valve)), "shut_off"), ShutOff(target_ids=("stop",))
        )
        for kind in ("blinds", "tell", "sing"):
            with self.subTest(kind), self.assertRaisesRegex(HomeError, "enter the device in the survey"):
                step_of(home, kind)

    def test_what_is_not_in_the_home_is_refused(self) -> None:
        for key in ("signal:room_temperature:attic", "the weather"):
            with self.subTest(key), self.assertRaises(HomeError):
                condition_of(drawn_home(), key)


if __name__ == "__main__":
    unittest.main()
