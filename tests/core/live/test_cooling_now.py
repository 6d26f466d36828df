"""Units that heat and cool are asked one of both: by the room, by what they did last, never while a window is open."""

import unittest
from dataclasses import replace

from warmeter.core.claims.arbiter import Claim
from warmeter.core.live.asked_now import AskedValue, setpoints_asked, zone_asked
from warmeter.core.live.cooling_now import cooling_limit, with_cooling
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.service.homes.demo import demo_home
from warmeter.service.live.setting_up import linked

HOME = linked(demo_home("terrace-nine"))
CLOCK = LocalClock(HOME.time_zone)
UNIT = "tn-split-living"
ZONE = next(zone for zone in HOME.zones if UNIT in HOME.following(zone))
EVENING = parse_utc("2026-07-20T18:00:00Z")


class HeatOrCool(unittest.TestCase):
    def asked(self, room_c: float | None, last: dict[tuple[str, str], int], claim: Claim | None = None) -> AskedValue:
        zone = zone_asked(HOME, ZONE, CLOCK, EVENING, {}, () if claim is None else (claim,))
        rows = with_cooling(HOME, setpoints_asked(HOME, [zone]), [zone], CLOCK, EVENING, {UNIT: room_c}, last)
        return next(each for each in rows if each.target_id == UNIT)

    def test_above_the_limit_it_cools_and_at_the_setpoint_it_heats(self) -> None:
        limit = cooling_limit(HOME, ZONE, CLOCK, EVENING).value
        heating = zone_asked(HOME, ZONE, CLOCK, EVENING, {}).now.value
        self.assertGreater(limit, heating + 2)
        cases: tuple[tuple[float | None, dict[tuple[str, str], int], str, float], ...] = (
            (limit + 0.1, {}, "cooling", limit),
            (heating - 0.1, {}, "setpoint", heating),
            # Between them it goes on as it was.
            (limit - 1.0, {}, "setpoint", heating),
            (limit - 1.0, {(UNIT, "cooling"): 2, (UNIT, "setpoint"): 1}, "cooling", limit),
            (limit - 1.0, {(UNIT, "cooling"): 1, (UNIT, "setpoint"): 2}, "setpoint", heating),
            (heating - 0.1, {(UNIT, "cooling"): 2, (UNIT, "setpoint"): 1}, "setpoint", heating),
            (None, {(UNIT, "cooling"): 2}, "cooling", limit),
        )
        for room_c, last, does, value in cases:
            with self.subTest(room_c=room_c, last=last):
                found = self.asked(room_c, last)
                self.assertEqual((found.does, found.value), (does, value))

    def test_before_a_room_with_a_thermometer_was_heard_nothing_is_asked(self) -> None:
        with self.assertRaises(StopIteration):
            self.asked(None, {})

    def test_what_was_the_other_last_is_asked_anew(self) -> None:
        limit = cooling_limit(HOME, ZONE, CLOCK, EVENING).value
        again = self.asked(limit + 1, {(UNIT, "cooling"): 5, (UNIT, "setpoint"): 9})
        self.assertEqual((again.is_start, again.from_ms), (True, 10))
        self.assertFalse(self.asked(limit + 1, {(UNIT, "cooling"): 9, (UNIT, "setpoint"): 5}).is_start)

    def test_while_a_window_is_open_nothing_is_cooled(self) -> None:
        limit = cooling_limit(HOME, ZONE, CLOCK, EVENING).value
        lock = Claim(kind="window_lock", value=12.0, from_ms=EVENING - 1, until_ms=EVENING + 10_000, reason="open")
        self.assertEqual(self.asked(limit + 5, {(UNIT, "cooling"): 5}, lock).does, "setpoint")

    def test_without_a_message_of_its_own_for_cooling_nothing_changes(self) -> None:
        zone = zone_asked(HOME, ZONE, CLOCK, EVENING, {})
        home = replace(HOME, command_mappings=tuple(m for m in HOME.command_mappings if m.does != "cooling"))
        rows = setpoints_asked(home, [zone])
        self.assertEqual(with_cooling(home, rows, [zone], CLOCK, EVENING, {UNIT: 40.0}, {}), rows)


if __name__ == "__main__":
    unittest.main()
