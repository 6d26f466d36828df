"""Heating curves and the flow that a load needs."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.emitters.heating_curve import heating_curve_c, required_flow_c
from warmeter.core.emitters.radiator import WaterTemperatures, output_by_mean_w


class Curve(unittest.TestCase):
    @settings(max_examples=60, deadline=None, derandomize=True)
    @given(st.floats(min_value=100, max_value=900))
    def test_flow_needed_and_output_are_each_others_inverse(self, load: float) -> None:
        flow, excess = required_flow_c(1000.0, load, room_c=20.0, spread_k=5.0)
        back = output_by_mean_w(1000.0, WaterTemperatures(flow, flow - 5.0, 20.0))
        self.assertAlmostEqual(back, load, places=6)
        self.assertAlmostEqual(excess, flow - 2.5 - 20.0)

    def test_a_heating_curve_falls_with_warmth_within_its_limits(self) -> None:
        curve = heating_curve_c(
            2000.0,
            np.array([-10.0, 0.0, 10.0, 25.0]),
            loss_w_k=40.0,
            room_c=20.0,
            design_outdoor_c=-10.0,
            spread_k=8.0,
            limits_c=(25.0, 60.0),
        )
        self.assertTrue((np.diff(curve) <= 0).all())
        self.assertEqual(curve[-1], 25.0)


if __name__ == "__main__":
    unittest.main()
