"""Layers of a wall in series and their ranges."""

import unittest

from warmeter.core.thermal.envelope import effective_air_change_1_h, infiltration_1_h, ventilation_loss_w


class Envelopes(unittest.TestCase):
    def test_air(self) -> None:
        leaks = infiltration_1_h(n50_1_h=8, shield=0.03)
        self.assertAlmostEqual(leaks, 0.48)
        self.assertEqual(effective_air_change_1_h(leaks, least_1_h=0.5), 0.5)
        self.assertAlmostEqual(
            effective_air_change_1_h(leaks, least_1_h=0.5, mechanical_1_h=0.5, recovery=0.8), leaks + 0.1
        )
        self.assertAlmostEqual(ventilation_loss_w(0.5, 100, 20), 340)


if __name__ == "__main__":
    unittest.main()
