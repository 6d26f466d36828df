"""A lamp, a split unit or a blind follows a room: room's idle time and rule's wait together are what was asked."""

import unittest
from dataclasses import replace

from tests.core.starters.test_catalogue import WEIR
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.presets import USE
from warmeter.core.home.rooms import RoomUse
from warmeter.core.home.rules import Blinds, Switch
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.starters.idle_thing import WriteIdleRule, idle_things, waits_apart

ROOM = next(room for room in WEIR.rooms if WEIR.heaters_of(room.id))
LAMP = Device(id="lamp9", name="Reading lamp", kind="lamp_switch", room_id=ROOM.id)
BLIND = Device(id="blind9", name="South blind", kind="blind_motor", room_id=ROOM.id)
MOTION = Device(id="motion9", name="Motion", kind="motion", room_id=ROOM.id, power="battery", hold_s=60.0)


def home(use: RoomUse = "kitchen", *more: Device) -> Home:
    """Return a home without rules whose heated room is of a use and has a lamp, a blind and motion."""
    rooms = tuple(replace(r, use=use, idle_s=None) if r.id == ROOM.id else r for r in WEIR.rooms)
    return replace(WEIR, rules=(), rooms=rooms, devices=(*WEIR.devices, LAMP, BLIND, MOTION, *more))


class Things(unittest.TestCase):
    def test_heaters_lamps_and_blinds_of_the_room_follow_but_nothing_that_must_stay_on(self) -> None:
        found = dict(idle_things(home(), ROOM.id))
        self.assertTrue({"lamp9", "blind9", *(h.id for h in WEIR.heaters_of(ROOM.id))} <= set(found))
        kinds = {m.kind for m in WEIR.appliances if m.id in found}
        self.assertFalse(kinds & {"fridge", "freezer", "pump", "tub"})
        with self.assertRaises(HomeError):
            WriteIdleRule(room_id=ROOM.id, thing_id="gone", wait_s=600).edit(home())

    def test_both_waits_together_are_what_was_asked(self) -> None:
        for use in USE:
            for asked in (30, 60, 240, 600, 1800, 7200):
                idle_s, for_s = waits_apart(home(use), ROOM.id, asked)
                own = USE[use].empty_after_s if idle_s is None else idle_s
                assert own is not None
                self.assertEqual(own + for_s, asked, (use, asked))
                self.assertGreater(for_s, 0)

    def test_a_presence_sensor_has_no_idle_time_so_that_the_rule_waits_for_all(self) -> None:
        sensor = Device(id="seen9", name="Seen", kind="presence_sensor", room_id=ROOM.id)
        self.assertEqual(waits_apart(home("kitchen", sensor), ROOM.id, 240), (None, 240))

    def test_what_is_written_switches_the_thing_off_and_has_no_finding(self) -> None:
        for thing in ("lamp9", WEIR.heaters_of(ROOM.id)[0].id):
            edit = WriteIdleRule(room_id=ROOM.id, thing_id=thing, wait_s=900).edit(home())
            rule = edit.home.rules[0]
            self.assertEqual(rule.then, (Switch(target_ids=(thing,), is_on=False),))
            self.assertEqual([(f.check, f.severity) for f in rule_findings(edit.home)], [], thing)
        edit = WriteIdleRule(room_id=ROOM.id, thing_id="blind9", wait_s=900).edit(home())
        self.assertIsInstance(edit.home.rules[0].then[0], Blinds)


if __name__ == "__main__":
    unittest.main()
