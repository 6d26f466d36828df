"""Radiators, floors, split units, valves and envelopes against closed forms, balances and other routes."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.emitters.cycling import source_cycle, valve_in_steady_room
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
from warmeter.core.emitters.split_unit import SplitRating, split_output
from warmeter.core.emitters.warm_floor import check_floor, flux_w_m2, surface_c
from warmeter.core.errors import OutOfRange
from warmeter.core.thermal.envelope import effective_air_change_1_h, infiltration_1_h, ventilation_loss_w

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


class Floors(unittest.TestCase):
    def test_the_limits_give_about_a_hundred_watts_a_square_metre(self) -> None:
        for limit, room, flux in ((29, 20, 100), (33, 24, 100), (35, 20, 175)):
            self.assertAlmostEqual(flux_w_m2(limit, room), flux, delta=1)
            self.assertAlmostEqual(surface_c(flux_w_m2(limit, room), room), limit)

    def test_a_cover_that_bears_less_leaves_more_over(self) -> None:
        stone = check_floor(1500.0, area_m2=14.0, room_c=20.0)
        timber = check_floor(1500.0, area_m2=14.0, room_c=20.0, limit_c=27.0)
        self.assertGreater(timber.shortfall_w, stone.shortfall_w)
        self.assertFalse(timber.is_within)
        with self.assertRaises(OutOfRange):
            check_floor(500.0, area_m2=0.0, room_c=20.0)


class Units(unittest.TestCase):
    rating = SplitRating(
        capacity_w=3500, efficiency=3.4, rated_outdoor_c=35, capacity_slope_1_k=-0.007, efficiency_slope_1_k=-0.025
    )

    def test_at_its_rating_a_unit_gives_its_plate(self) -> None:
        got = split_output(self.rating, outdoor_c=35, load_w=3500)
        self.assertAlmostEqual(got.delivered_w, 3500)
        self.assertAlmostEqual(got.power_w, 3500 / 3.4)

    def test_what_is_delivered_and_unmet_add_up_to_the_load(self) -> None:
        for outdoor in (25, 35, 45):
            for load in (0.0, 900.0, 6000.0):
                got = split_output(self.rating, outdoor_c=outdoor, load_w=load)
                self.assertAlmostEqual(got.delivered_w + got.unmet_w, load)
                self.assertGreaterEqual(got.power_w, 0)

    def test_far_from_its_rating_it_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            split_output(self.rating, outdoor_c=120, load_w=100)


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


class Envelopes(unittest.TestCase):
    def test_air(self) -> None:
        leaks = infiltration_1_h(n50_1_h=8, shield=0.03)
        self.assertAlmostEqual(leaks, 0.48)
        self.assertEqual(effective_air_change_1_h(leaks, least_1_h=0.5), 0.5)
        self.assertAlmostEqual(
            effective_air_change_1_h(leaks, least_1_h=0.5, mechanical_1_h=0.5, recovery=0.8), leaks + 0.1
        )
        self.assertAlmostEqual(ventilation_loss_w(0.5, 100, 20), 340)
