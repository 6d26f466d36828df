"""Water learnt from its log against a stand-in whose truth is known, and what no log can tell."""

import unittest

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.water.store import WarmWater
from warmeter.core.water.water_fit import learn_water
from warmeter.simulators.machines.labelled import labelled_log
from warmeter.simulators.machines.tub_water import PUMP_SHARE, tub_water


class Learning(unittest.TestCase):
    def test_volume_and_loss_come_back_within_their_ranges(self) -> None:
        held = 0
        for seed in range(8):
            rng = np.random.default_rng(seed)
            truth = WarmWater(volume_l=float(rng.uniform(700, 1600)), loss_w_k=float(rng.uniform(12, 40)))
            log = labelled_log("tub", seed, 60, days=7, fault="")
            water, air = tub_water(rng, log.power_w, 60.0, truth, start_c=36.0, mean_air_c=6.0)
            found = learn_water(log.power_w, water, air, 60.0)
            self.assertAlmostEqual(found.store.volume_l / truth.volume_l, 1.0, delta=0.06)
            self.assertAlmostEqual(found.store.loss_w_k / truth.loss_w_k, 1.0, delta=0.12)
            held += found.loss_low_w_k <= truth.loss_w_k <= found.loss_high_w_k
            self.assertGreater(found.heating_w, 1400)
            self.assertTrue(50 < found.circulating_w < 400)
            self.assertAlmostEqual(found.hours, 24 * 7, delta=2.0)
        self.assertGreaterEqual(held, 6)

    def test_the_rate_is_power_less_loss_over_what_it_stores(self) -> None:
        log = labelled_log("tub", 3, 60, days=7, fault="")
        truth = WarmWater(volume_l=1000, loss_w_k=25.0)
        water, air = tub_water(np.random.default_rng(3), log.power_w, 60.0, truth, start_c=36.0, mean_air_c=6.0)
        found = learn_water(log.power_w, water, air, 60.0)
        # Half of the stand-in's pump warms the water: the other half must not count as heat.
        reaches_w = found.heating_w - (1 - PUMP_SHARE) * found.circulating_w
        expected = 3600 * (reaches_w - 25.0 * 30) / truth.heat_capacity_j_k
        self.assertAlmostEqual(found.rate_k_h(36.0, 6.0), expected, delta=0.06 * expected)

    def test_what_cannot_teach_says_what_to_record(self) -> None:
        steps = 24 * 60 * 3
        flat = np.full(steps + 1, 20.0)
        logs: tuple[tuple[Floats, Floats, str], ...] = (
            (np.full(steps, np.nan), flat, "whole hours"),
            (np.full(steps, 3.0), flat, "neither heated"),
            (
                np.where(np.arange(steps) % 600 < 100, 2000.0, 3.0),
                40 - 0.002 * np.arange(steps + 1, dtype=np.float64),
                "contradicts|neither",
            ),
        )
        for power, water, why in logs:
            with self.assertRaisesRegex(NotKnowable, why):
                learn_water(power, water, np.full(steps + 1, 10.0), 60.0)


if __name__ == "__main__":
    unittest.main()
