"""What a setback saves, against the closed form."""

import unittest

from warmeter.core.errors import OutOfRange
from warmeter.core.warmup.setback import SetbackCase, setback_energy


class Setback(unittest.TestCase):
    def test_saving_equals_loss_times_the_area_between(self) -> None:
        case = SetbackCase(
            loss_w_k=50, capacity_j_k=5e6, full_heat_w=3000, setpoint_c=20, setback_c=16, outdoor_c=0, period_s=28_800
        )
        found = setback_energy(case)
        theta, area, dt = 20.0, 0.0, 1.0
        for k in range(28_800):
            heat = 3000.0 if k >= 28_800 - found.reheat_s else (50 * 16.0 if theta <= 16.0 else 0.0)
            area += (20 - theta) * dt
            theta += dt * (heat - 50 * theta) / 5e6
        self.assertAlmostEqual(found.saving_kwh, 50 * area / 3.6e6, delta=0.002)
        self.assertAlmostEqual(theta, 20.0, delta=0.01)

    def test_a_heater_too_weak_to_hold_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            SetbackCase(
                loss_w_k=100, capacity_j_k=1e6, full_heat_w=1000, setpoint_c=20, setback_c=16, outdoor_c=0, period_s=100
            )


if __name__ == "__main__":
    unittest.main()
