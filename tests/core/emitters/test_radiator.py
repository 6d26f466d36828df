"""Radiators against their plates and the closed form."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.emitters.radiator import (
    WATER_J_KGK,
    WaterTemperatures,
    heating_curve_c,
    output_by_mean_w,
    output_w,
    rated_at_50_w,
    required_flow_c,
    target_return,
    water_flow,
)
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

    def test_impossible_temperatures_are_refused(self) -> None:
        for flow, back, room in ((40, 45, 20), (40, 15, 20), (99, 60, 20)):
            with self.assertRaises(OutOfRange):
                WaterTemperatures(flow, back, room)
        with self.assertRaises(OutOfRange):
            water_flow(500.0, flow_c=40.0, return_c=40.0)


if __name__ == "__main__":
    unittest.main()
