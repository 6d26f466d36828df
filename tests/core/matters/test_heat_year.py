"""A year's money of changed setpoints, against a room stepped through its days minute by minute."""

import unittest
from dataclasses import replace

import numpy as np

from tests.core.matters.rooms import NIGHT, heated_room, known, steady_year
from warmeter.core.matters.evidence import ClimateYear
from warmeter.core.matters.heat_year import gap_cost_year, kelvin_costs, lower_saves


def stepped_year_kwh(low_c: float, outdoor_c: float, gain_w: float = 0.0) -> float:
    """Return a year's heat of the usual room by plain steps of a minute: set back from 22:30, warm at 6:30 in time."""
    loss, store, full, held = 100.0, 20e6, 4000.0, 20.0
    free = outdoor_c + gain_w / loss
    tau = store / loss
    begin, end = 0, 480
    lead = 0
    while True:  # the longest time off that still is warm at the end
        temperature = held
        for minute in range(begin, end):
            heat = full if minute >= end - lead else max(0.0, loss * (low_c - free)) if temperature <= low_c else 0.0
            temperature += 60 / tau * (free + heat / loss - temperature)
        if temperature >= held - 1e-6 or lead >= end:
            break
        lead += 1
    temperature, energy = held, 0.0
    for minute in range(begin, end):
        heat = full if minute >= end - lead else max(0.0, loss * (low_c - free)) if temperature <= low_c else 0.0
        temperature += 60 / tau * (free + heat / loss - temperature)
        energy += heat * 60 / 3.6e6
    return energy * 365


class Years(unittest.TestCase):
    def test_a_year_of_nights_costs_what_the_stepped_room_costs(self) -> None:
        for low_c in (19.0, 18.0, 17.0, 16.0):
            for outdoor_c in (-5.0, 4.0, 12.0):
                with self.subTest(low=low_c, outdoor=outdoor_c):
                    found = gap_cost_year(heated_room(), steady_year(outdoor_c), NIGHT, low_c)
                    stepped = 0.30 * stepped_year_kwh(low_c, outdoor_c)
                    # A minute's lead more or less is 2 kW·min a night.
                    self.assertAlmostEqual(found, stepped, delta=0.02 * stepped + 0.30 * 365 * 0.07)

    def test_a_kelvin_costs_the_loss_over_the_heated_year(self) -> None:
        # 100 W/K · 8760 h = 876 kWh at 0.30.
        self.assertAlmostEqual(kelvin_costs(heated_room(), steady_year(4.0)), 262.8)
        self.assertEqual(kelvin_costs(heated_room(), steady_year(25.0)), 0.0)
        half = ClimateYear(outdoor_c=np.array([4.0, 25.0]), share=np.array([0.5, 0.5]), logged_days=365)
        self.assertAlmostEqual(kelvin_costs(heated_room(heat_over_draw=np.array([2.0, 2.0])), half), 262.8 / 4)

    def test_lower_never_goes_under_the_protection_limit(self) -> None:
        at_limit = replace(NIGHT, low_c=10.0)
        self.assertEqual(lower_saves(heated_room(gaps=(at_limit,)), steady_year(), 1.0), 0.0)

    def test_gains_that_hold_the_room_leave_nothing_to_save(self) -> None:
        self.assertEqual(lower_saves(heated_room(gain_w=1700.0), steady_year(4.0), 1.0), 0.0)

    def test_a_lower_setpoint_saves_more_the_colder_it_is_and_the_better_it_pays(self) -> None:
        light = heated_room(store_j_k=known(5e6), gaps=(replace(NIGHT, low_c=18.0),))
        cold, mild = (lower_saves(light, steady_year(outdoor_c), 1.0) for outdoor_c in (-5.0, 8.0))
        self.assertGreater(cold, mild)
        self.assertGreater(mild, 0)
        dear = replace(light, gaps=(replace(NIGHT, low_c=18.0, price_held=0.6, price_reheat=0.6),))
        self.assertAlmostEqual(lower_saves(dear, steady_year(8.0), 1.0), 2 * mild, places=6)
