"""Radiators against their plates and the closed form."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.emitters.lockshield_balance import water_flow
from warmeter.core.emitters.radiator import WaterTemperatures, output_by_mean_w, output_w, rated_at_50_w
from warmeter.core.errors import OutOfRange

flows = st.floats(min_value=30, max_value=85)


spreads = st.floats(min_value=0.5, max_value=8)


class Radiators(unittest.TestCase):
    def test_a_radiator_gives_its_plate_at_the_plates_temperatures(self) -> None:
        self.assertAlmostEqual(output_w(1234.0, WaterTemperatures(75, 65, 20)), 1234.0)
        self.assertAlmostEqual(rated_at_50_w(1268.0, 60.0), 1268.0 * (50 / 60) ** 1.3)

    @settings(max_examples=80, deadline=None, derandomize=True)
    @given(flows, spreads)
    def test_the_arithmetic_mean_never_gives_less_than_the_logarithmic(self, flow: float, spread: float) -> None:
        at = WaterTemperatures(flow, flow - spread, 20.0)
        # Between the means of any two numbers; both norms are at 75/65/20.
        self.assertLessEqual(output_w(1000, at) * 49.8329**1.3, output_by_mean_w(1000, at) * 50**1.3 * 1.0001)

    def test_impossible_temperatures_are_refused(self) -> None:
        for flow, back, room in ((40, 45, 20), (40, 15, 20), (99, 60, 20)):
            with self.assertRaises(OutOfRange):
                WaterTemperatures(flow, back, room)
        with self.assertRaises(OutOfRange):
            water_flow(500.0, flow_c=40.0, return_c=40.0)


if __name__ == "__main__":
    unittest.main()
