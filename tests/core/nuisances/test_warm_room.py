"""Hours too warm by their cause, and how long a room takes to come down, by hand."""

import unittest

import numpy as np

from warmeter.core.nuisances.warm_room import minutes_to_come_down, warm_hours, warmest_hour

ASKED = np.array([20.0, 20.0, 20.0, 16.0, 16.0, 16.0, 16.0, 20.0])


class WarmRooms(unittest.TestCase):
    def test_each_hour_has_one_cause(self) -> None:
        room = np.array([22.0, 20.4, np.nan, 19.0, 17.0, 16.2, 18.0, 21.0])
        working = np.array([1, 1, 0, 0, 0, 0, 0, 0], dtype=bool)
        fell = np.array([0, 0, 0, 1, 1, 1, 0, 0], dtype=bool)
        found = warm_hours(room, ASKED, working, fell, 0.5)
        self.assertEqual((found.heard_h, found.over_h), (3.5, 2.5))
        self.assertEqual(found.by_cause, {"heated": 0.5, "stored": 1.0, "gains": 1.0})
        self.assertEqual(found.mean_over_k, {"heated": 2.0, "stored": 2.0, "gains": 1.5})

    def test_a_room_that_is_right_has_no_cause(self) -> None:
        none = np.zeros(8, dtype=bool)
        self.assertIsNone(warm_hours(ASKED, ASKED, none, none, 1.0).main_cause)

    def test_coming_down_is_timed_from_the_fall_to_half_a_kelvin(self) -> None:
        room = np.array([20.0, 20.0, 20.0, 19.0, 17.0, 16.4, 16.0, 17.0])
        self.assertEqual(minutes_to_come_down(room, ASKED, 10.0), (20.0,))

    def test_what_never_comes_down_is_none_and_a_log_that_ends_first_is_left_out(self) -> None:
        warm = np.full(8, 21.0)
        self.assertEqual(minutes_to_come_down(warm, ASKED, 10.0), (None,))
        self.assertEqual(minutes_to_come_down(warm[:6], ASKED[:6], 10.0), ())

    def test_the_warmest_hour_is_where_it_is_furthest_over(self) -> None:
        hour = np.repeat(np.arange(24.0), 2)
        room = np.where((hour >= 14) & (hour < 16), 24.0, 20.0) + np.where(hour == 15, 1.0, 0.0)
        self.assertEqual(warmest_hour(room, np.full(48, 20.0), room > 20.5, hour), 15)
