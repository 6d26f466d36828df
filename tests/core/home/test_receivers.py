"""What is typed into a receiver: on its own grid, in its unit, and what is lost said."""

import unittest
from dataclasses import replace

from tests.homes import small_home
from warmeter.core.home.devices import Device
from warmeter.core.home.plant import SplitUnit
from warmeter.core.home.receivers import (
    Receiver,
    grid_of,
    receiver_of_device,
    receiver_of_heater,
    receivers_of_zone,
    typed_setpoint,
    typed_switch,
)

HOME = small_home()
PANEL = HOME.heaters[0]
UNIT = replace(PANEL, id="unit", name="Unit", kind="split_unit", split=SplitUnit(cooling_w=2000.0), step_k=0.5)


def remote(unit: str = "C") -> Receiver:
    """Return an infra-red sender that drives a split unit in a home of a unit."""
    sender = Device(
        id="ir", name="Sender", kind="infrared_sender", room_id=PANEL.room_id, drives_id="unit", is_two_way=False
    )
    home = replace(HOME, temperature_unit=unit, heaters=(UNIT,), devices=(sender,), zones=())  # type: ignore[arg-type]
    return receiver_of_heater(home, UNIT)


class Receivers(unittest.TestCase):
    def test_a_remote_that_knows_whole_degrees_gets_whole_degrees_of_its_own_unit(self) -> None:
        self.assertEqual(typed_setpoint(remote("F"), 20.0).setpoint, 68)
        self.assertEqual(typed_setpoint(remote("F"), 20.4).setpoint, 69)  # 68.72 °F
        self.assertEqual(typed_setpoint(remote("C"), 20.4).setpoint, 20)
        for celsius in (14.0, 17.3, 19.99, 26.6):
            found = typed_setpoint(remote("F"), celsius).setpoint
            self.assertEqual(found, round(found or 0.0))

    def test_under_its_lowest_setpoint_it_says_how_much_warmer_the_room_is_held(self) -> None:
        found = typed_setpoint(remote("F"), 14.0)  # 57.2 °F
        self.assertEqual(found.setpoint, 61)
        self.assertIn("57.2 °F", found.lost[0])
        self.assertIn("61 to 86 °F", found.lost[0])
        self.assertIn("3.8 °F warmer", found.lost[0])
        self.assertEqual(typed_setpoint(remote("C"), 16.0).lost, ())

    def test_one_mode_at_a_time_loses_the_other_side(self) -> None:
        both = typed_setpoint(remote(), 20.0, 26.0, "low")
        self.assertEqual((both.mode, both.setpoint, both.fan), ("heat", 20, "low"))
        self.assertIn("cooling limit of 26 °C is lost", both.lost[0])
        cold = typed_setpoint(remote(), None, 26.0)
        self.assertEqual((cold.mode, cold.setpoint, cold.lost), ("cool", 26, ()))

    def test_a_plug_holds_no_temperature_and_a_remote_no_end(self) -> None:
        plug = Device(id="plug", name="Plug", kind="plug", room_id=PANEL.room_id, drives_id=PANEL.id)
        home = replace(HOME, devices=(plug,))
        receiver = receiver_of_heater(home, PANEL)
        lost = typed_setpoint(receiver, 20.0)
        self.assertIsNone(lost.setpoint)
        self.assertIn("holds no temperature", lost.lost[0])
        self.assertEqual(typed_switch(receiver, is_on=True, for_s=900).lost, ())
        brain = Device(id="brain", name="Controller", kind="controller")
        held = receiver_of_heater(replace(home, devices=(plug, brain)), PANEL)
        self.assertEqual(
            (held.id, held.name, typed_setpoint(held, 20.0).setpoint), ("brain", "Controller, for Plug", 20.0)
        )
        run = typed_switch(remote(), is_on=True, for_s=900)
        self.assertIn("hard stop is lost", run.lost[0])
        off = typed_switch(remote(), is_on=False)
        self.assertEqual(off.mode, "off")
        self.assertIn("never a toggle", off.lost[0])

    def test_only_what_holds_a_setpoint_of_something_that_cools_has_modes(self) -> None:
        for kind, heater, has_modes in (
            ("thermostat", UNIT, True),
            ("thermostat", PANEL, False),
            ("plug", UNIT, False),
            ("thermostat", None, False),
        ):
            device = Device(id="d", name="D", kind=kind, room_id=PANEL.room_id)  # type: ignore[arg-type]
            found = receiver_of_device(replace(HOME, devices=(device,)), device, heater)
            with self.subTest(kind=kind, heater=heater):
                self.assertEqual((found.has_modes, found.has_fan), (has_modes, has_modes))

    def test_a_heater_without_a_device_is_typed_at_its_own_controls_in_its_steps(self) -> None:
        receiver = receiver_of_heater(replace(HOME, devices=()), replace(PANEL, step_k=0.5))
        self.assertEqual(typed_setpoint(receiver, 20.3).setpoint, 20.5)
        self.assertIn("cooling limit is lost", typed_setpoint(receiver, None, 25.0).lost[0])
        self.assertIn("no fan", typed_setpoint(receiver, 20.0, None, "high").lost[0])

    def test_a_zone_is_typed_into_the_device_that_owns_its_timetable_else_into_each_heater(self) -> None:
        owner = Device(id="wall", name="Wall thermostat", kind="thermostat", room_id=PANEL.room_id, drives_id=PANEL.id)
        home = replace(HOME, devices=(owner,), zones=(replace(HOME.zones[0], owner_id="wall"),))
        self.assertEqual([r.id for r in receivers_of_zone(home, home.zones[0])], ["wall"])
        plain = replace(HOME, devices=())
        self.assertEqual([r.id for r in receivers_of_zone(plain, plain.zones[0])], [PANEL.id])

    def test_limits_are_rounded_inwards_to_the_grid(self) -> None:
        grid = grid_of((16.0, 30.0), 1.0, "F")
        self.assertEqual((grid.low, grid.high, grid.step), (62.0, 86.0, 2.0))
        self.assertEqual(grid_of((5.0, 30.0), 0.5, "C").nearest(31.0), 30.0)


if __name__ == "__main__":
    unittest.main()
