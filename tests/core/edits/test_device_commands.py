"""Commands on the device register and on machines: what stands in the register, and in the labels of a log."""

import unittest
from datetime import date

from tests.drawn import drawn_home
from tests.homes import done
from warmeter.core.edits.device_commands import (
    AddControlPath,
    AddDevice,
    AddMode,
    AddSafetyChain,
    AdoptDevice,
    CalibrateDevice,
    ChangeControlPath,
    ChangeDevice,
    ChangeSafetyChain,
    RemoveCalibration,
    RemoveMode,
    ReplaceDevice,
)
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home

DAY = date(2026, 1, 14)
SENSOR, OTHER = "air-den", "air-study"


def sensor(home: Home, key: str = SENSOR) -> Device:
    return home.device(key)


class Register(unittest.TestCase):
    def test_an_address_is_typed_once_and_then_adopted_and_the_former_are_kept(self) -> None:
        home = done(drawn_home(), ChangeDevice(id=SENSOR, values={}, address="a1"))
        self.assertEqual(sensor(home).address, "a1")
        again = done(home, ChangeDevice(id=SENSOR, values={}, address="a2"))
        self.assertEqual(sensor(again).address, "a1", "a new one is an adoption, with its reason")
        adopted = done(home, AdoptDevice(id=SENSOR, address="a2", since=DAY, reason="moved"))
        self.assertEqual(
            [(i.address, i.since, i.reason) for i in sensor(adopted).identities],
            [("a1", None, ""), ("a2", DAY, "moved")],
        )

    def test_in_another_room_a_device_has_no_place_yet(self) -> None:
        home = drawn_home()
        self.assertIsNotNone(sensor(home).at)
        self.assertIsNone(sensor(done(home, ChangeDevice(id=SENSOR, values={"room_id": "study"}))).at)
        self.assertEqual(sensor(done(home, ChangeDevice(id=SENSOR, values={"room_id": "den"}))).at, sensor(home).at)
        for values, words in (({"room_id": "attic"}, "attic"), ({"quantities": ("mood",)}, "'mood' is no quantity")):
            with self.subTest(words), self.assertRaisesRegex(HomeError, words):
                done(home, ChangeDevice(id=SENSOR, values=values))

    def test_ways_to_command_it_and_its_modes(self) -> None:
        home = done(
            drawn_home(),
            AddControlPath(id=SENSOR, way="network", by="the hub", state="wanted"),
            AddControlPath(id=SENSOR, way="own_buttons", by="its own controls", state="open"),
            AddMode(id=SENSOR, word="ECO", does="lowers by 3 K"),
            AddMode(id=SENSOR, word="DRY"),
        )
        shut = done(home, ChangeControlPath(id=SENSOR, index=1, state="shut"))
        self.assertEqual([path.state for path in sensor(shut).commands], ["wanted", "shut"])
        self.assertEqual(
            [p.by for p in sensor(done(home, ChangeControlPath(id=SENSOR, index=0, remove=True))).commands],
            ["its own controls"],
        )
        with self.assertRaises(HomeError):
            done(home, ChangeControlPath(id=SENSOR, index=2))
        self.assertEqual([mode.word for mode in sensor(done(home, RemoveMode(id=SENSOR, index=0))).modes], ["DRY"])

    def test_an_offset_is_what_is_added_to_what_it_reads(self) -> None:
        home = done(
            drawn_home(),
            CalibrateDevice(id=SENSOR, raw_c=20.6, true_c=20.0, on=DAY),
            CalibrateDevice(id=SENSOR, offset=0.4, reference="the den's other"),
        )
        self.assertEqual([c.offset for c in sensor(home).calibrations], [-0.6, 0.4])
        self.assertEqual(
            [c.offset for c in sensor(done(home, RemoveCalibration(id=SENSOR, index=0))).calibrations], [0.4]
        )
        for half in (CalibrateDevice(id=SENSOR, raw_c=20.0), CalibrateDevice(id=SENSOR, raw_c=20.0, offset=0.1)):
            with self.subTest(half=half), self.assertRaisesRegex(HomeError, "type the offset"):
                done(home, half)

    def test_a_chain_goes_with_its_last_device(self) -> None:
        home = done(drawn_home(), AddSafetyChain(kind="leak", device_id=SENSOR))
        (chain,) = home.safety_chains
        self.assertEqual((chain.name, chain.device_ids), ("Leak alarm path of Den sensor", (SENSOR,)))
        both = done(home, ChangeSafetyChain(id=chain.id, add_id=OTHER), ChangeSafetyChain(id=chain.id, add_id=OTHER))
        self.assertEqual(both.safety_chains[0].device_ids, (SENSOR, OTHER))
        one = done(both, ChangeSafetyChain(id=chain.id, out_id=SENSOR))
        self.assertEqual(one.safety_chains[0].device_ids, (OTHER,))
        self.assertEqual(done(one, ChangeSafetyChain(id=chain.id, out_id=OTHER)).safety_chains, ())
        self.assertEqual(done(both, ChangeSafetyChain(id=chain.id, remove=True)).safety_chains, ())

    def test_a_new_one_takes_the_old_one_s_place_and_counting(self) -> None:
        edit = ReplaceDevice(id=SENSOR, by="new:air_sensor", on=DAY).edit(drawn_home())
        new = edit.home.device(edit.selected or "")
        self.assertEqual((new.room_id, new.at), ("den", sensor(drawn_home()).at))
        self.assertEqual((sensor(edit.home).retired_on, sensor(edit.home).replaced_by_id), (DAY, new.id))
        counted = [s.device_id for zone in edit.home.zones for rule in zone.sensing for s in rule.sensors]
        self.assertEqual(counted, [new.id, OTHER])
        added = AddDevice(kind="plug", room_id="study").edit(drawn_home())
        self.assertEqual(added.home.device(added.selected or "").room_id, "study")


if __name__ == "__main__":
    unittest.main()
