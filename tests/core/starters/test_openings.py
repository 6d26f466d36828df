"""Where openings can be told, and by how much of a fall."""

import unittest
from dataclasses import replace
from datetime import date

from warmeter.core.home.conditions.moving import Moving
from warmeter.core.starters.climate import blind_places
from warmeter.core.starters.household import fill_places
from warmeter.core.starters.openings import drop_rule, sensor_places, with_drop
from warmeter.core.starters.starter import USUAL_DROP_K
from warmeter.service.homes.demo import demo_home

WEIR = demo_home("weir-cottage")
RETIRED = date(2026, 1, 2)


class Falls(unittest.TestCase):
    def test_the_fall_is_what_the_sensors_log_allows(self) -> None:
        room_id = sensor_places(WEIR)[0][0]
        usual = drop_rule(WEIR, room_id)
        (watched,) = (c for clause in usual.watch for c in clause)
        assert isinstance(watched, Moving)
        self.assertEqual(watched.by, USUAL_DROP_K)
        (changed,) = (c for clause in with_drop(usual, 1.7).watch for c in clause)
        self.assertEqual(changed, replace(watched, by=1.7))

    def test_a_room_without_a_sensor_or_a_zone_is_no_place(self) -> None:
        heard = {d.room_id for d in WEIR.devices if "room_temperature" in d.quantities}
        self.assertEqual({room for room, _ in sensor_places(WEIR)}, heard)
        self.assertEqual(sensor_places(replace(WEIR, zones=())), [])


class Places(unittest.TestCase):
    def test_blinds_count_while_they_are_in_service(self) -> None:
        blind = replace(WEIR.devices[0], id="blind", kind="blind_motor", room_id=WEIR.rooms[0].id, drives_id=None)
        home = replace(WEIR, devices=(blind, *WEIR.devices))
        before = {room for room, _ in blind_places(WEIR)}
        self.assertEqual({room for room, _ in blind_places(home)}, before | {WEIR.rooms[0].id})
        gone = replace(home, devices=(replace(blind, retired_on=RETIRED), *WEIR.devices))
        self.assertEqual({room for room, _ in blind_places(gone)}, before)

    def test_what_drives_a_heater_is_not_filled_by_a_button(self) -> None:
        relay = replace(
            WEIR.devices[0], id="relay9", name="Garden valve", kind="relay", drives_id=None, retired_on=None
        )
        driving = replace(relay, id="relay8", drives_id=WEIR.heaters[0].id)
        away = replace(relay, id="relay7", retired_on=RETIRED)
        sensor = replace(relay, id="s9", kind="air_sensor")
        home = replace(WEIR, devices=(*WEIR.devices, relay, driving, away, sensor))
        self.assertEqual(set(fill_places(home)) - set(fill_places(WEIR)), {("relay9", "Garden valve")})


if __name__ == "__main__":
    unittest.main()
