"""Water that gives each radiator just its part."""

import unittest

from warmeter.core.emitters.lockshield_balance import target_return, water_flow
from warmeter.core.emitters.radiator import WATER_J_KGK, WaterTemperatures, output_w


class Lockshields(unittest.TestCase):
    def test_balanced_water_gives_the_load_and_no_radiator_gives_more_than_it_can(self) -> None:
        found = target_return(1000.0, 500.0, flow_c=55.0, room_c=20.0)
        assert found.return_c is not None and found.mass_kg_h is not None
        self.assertAlmostEqual(output_w(1000.0, WaterTemperatures(55.0, found.return_c, 20.0)), 500.0, places=4)
        device_schedule = found.mass_kg_h / 3600 * WATER_J_KGK * (55.0 - found.return_c)
        self.assertAlmostEqual(device_schedule, 500.0, places=3)
        self.assertIsNone(target_return(1000.0, found.most_w, flow_c=55.0, room_c=20.0).return_c)

    def test_water_by_the_rule_of_thumb(self) -> None:
        _, litres = water_flow(1000.0, flow_c=55.0, return_c=45.0, density_kg_l=1.0)
        self.assertAlmostEqual(litres, 86.0, delta=0.1)


if __name__ == "__main__":
    unittest.main()
