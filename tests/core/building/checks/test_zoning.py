"""Zones that heat against each other, and the fixes that part them."""

import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.building.fixes import fixed, zone_alone
from warmeter.core.errors import HomeError
from warmeter.core.home.plant import SplitUnit
from warmeter.core.home.zones import Level


class ZonesApart(unittest.TestCase):
    def test_a_room_made_a_zone_of_its_own_takes_its_sensor_heater_and_owner(self) -> None:
        home = drawn_home()
        one = replace(
            home.zones[0],
            room_ids=("den", "study"),
            sensing=(
                replace(
                    home.zones[0].sensing[0],
                    rule="mean",
                    sensors=(*home.zones[0].sensing[0].sensors, *home.zones[1].sensing[0].sensors),
                ),
            ),
            heater_ids=("rad-den", "rad-study"),
            owner_id="air-study",
        )
        home = replace(home, zones=(one,))
        after = zone_alone(home, one, "study", "fresh")
        left, alone = after.zones
        self.assertEqual((left.room_ids, left.counted_ids, left.heater_ids), (("den",), ("air-den",), ("rad-den",)))
        self.assertEqual(
            (alone.id, alone.counted_ids, alone.heater_ids, alone.owner_id),
            ("fresh", ("air-study",), ("rad-study",), "air-study"),
        )

    def test_widening_the_gap_moves_the_cooling_limit_only(self) -> None:
        level = Level(id="in-use", name="In use", heating_c=21.0, cooling_c=22.0)
        cooled = replace(drawn_home().heaters[0], kind="split_unit", split=SplitUnit(cooling_w=2000.0))
        home = replace(drawn_home(), levels=(level,), heaters=(cooled, drawn_home().heaters[1]))
        finding = next(f for f in findings_of(home) if f.kind == "heat meets cool")
        after = fixed(home, finding.kind, finding.about, "new")
        self.assertEqual((after.levels[0].heating_c, after.levels[0].cooling_c), (21.0, 23.5))

    def test_a_zone_without_any_sensor_in_its_rooms_says_so(self) -> None:
        home = replace(
            drawn_home(),
            devices=drawn_home().devices[1:],
            zones=(replace(drawn_home().zones[0], sensing=()), drawn_home().zones[1]),
        )
        with self.assertRaises(HomeError) as caught:
            fixed(home, "no sensor", ("z-den",), "new")
        self.assertIn("no sensor in its rooms yet", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
