"""A source that cycles: starts an hour against the closed form."""

import unittest

from warmeter.core.emitters.cycling import source_cycle, valve_in_steady_room


class Cycling(unittest.TestCase):
    def test_energy_over_a_cycle_is_the_load(self) -> None:
        cycle = source_cycle(least_w=5000, load_w=1800, water_j_k=2e5, hysteresis_k=6)
        assert cycle is not None
        self.assertAlmostEqual(5000 * cycle.on_s / (cycle.on_s + cycle.off_s), 1800)
        self.assertIsNone(source_cycle(least_w=5000, load_w=5000, water_j_k=2e5, hysteresis_k=6))

    def test_a_valve_settles_where_a_simulation_does(self) -> None:
        found = valve_in_steady_room(closes_c=21, band_k=2, full_heat_w=1500, loss_w_k=40, outdoor_c=2)
        room = 10.0
        for _ in range(200_000):
            heat = 1500 * min(1.0, max(0.0, (21 - room) / 2))
            room += (heat - 40 * (room - 2)) * 60 / 2e6
        self.assertAlmostEqual(found.room_c, room, places=4)
        cold = valve_in_steady_room(closes_c=21, band_k=2, full_heat_w=500, loss_w_k=40, outdoor_c=-5)
        self.assertEqual((cold.is_saturated, round(cold.room_c, 3)), (True, 7.5))
        warm = valve_in_steady_room(closes_c=21, band_k=2, full_heat_w=500, loss_w_k=40, outdoor_c=26)
        self.assertEqual((warm.heat_w, warm.room_c), (0.0, 26))


if __name__ == "__main__":
    unittest.main()
