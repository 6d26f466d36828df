"""What stands all year of a night floor, on stand-in homes whose heating follows a thermostat, not a line."""

import unittest
from datetime import date, timedelta

import numpy as np

from warmeter.core.signature.night_floor import Night, NightFloor, night_floor
from warmeter.core.signature.standing_floor import standing_floor
from warmeter.core.timegrid import LocalClock

STANDING_W = 140.0


def floor_of(floors: list[float]) -> NightFloor:
    """Return a floor of nights."""
    first = date(2026, 1, 1)
    nights = tuple(
        Night(date=first + timedelta(days=k), hours=4, intervals=16, known_share=1, floor_w=w)
        for k, w in enumerate(floors)
    )
    return NightFloor(nights=nights, floor_w=float(np.median(floors)), p10_w=None, p90_w=None, below_nights=0)


def stand_in(seed: int, days: int = 60) -> tuple[NightFloor, list[float | None]]:
    """Return the nights of a home whose heaters of 700 W each go on and off, from a frost to a mild April."""
    rng = np.random.default_rng(seed)
    outdoor = np.linspace(-3, 17, days) + rng.normal(0, 2.5, days)
    power = np.empty((days, 96))
    for day in range(days):
        share = np.clip(45.0 * (18.5 - 4 - outdoor[day]) / 4200, 0, 1)  # free gains of 4 K
        heaters = rng.binomial(6 * 15, share, 96) / 15
        power[day] = STANDING_W + 700 * heaters + rng.gamma(1.2, 5, 96)
    clock, first = LocalClock("UTC"), date(2026, 2, 1)
    at = clock.instant(first, 0) + np.arange(days * 96) * 900_000
    found = night_floor(at, power.ravel(), step_s=900, clock=clock, first=first, last=first + timedelta(days=days - 1))
    return found, [float(each) for each in outdoor]


class StandingFloors(unittest.TestCase):
    def test_it_holds_the_truth_of_homes_of_another_form_or_says_that_it_is_not_known(self) -> None:
        told = held = 0
        for seed in range(40, 52):
            found = standing_floor(*stand_in(seed), electric_heating=True)
            if found.floor_w is not None:
                told += 1
                held += found.floor_w - found.down_w - 15 <= STANDING_W <= found.floor_w + found.up_w + 15
        self.assertGreaterEqual(told, 6)
        self.assertGreaterEqual(held, 0.8 * told)

    def test_without_outdoors_a_home_heated_otherwise_keeps_its_floor(self) -> None:
        floor = floor_of([60.0, 64.0, 62.0])
        unknown: list[float | None] = [None] * 3
        self.assertEqual(standing_floor(floor, unknown, electric_heating=False).floor_w, 62.0)
        self.assertIsNone(standing_floor(floor, unknown, electric_heating=True).floor_w)

    def test_a_floor_that_does_not_follow_the_cold_may_hide_little_heat(self) -> None:
        rng = np.random.default_rng(4)
        floor = floor_of([float(w) for w in rng.normal(62, 1.5, 14)])
        found = standing_floor(floor, [float(v) for v in rng.uniform(-6, 6, 14)], electric_heating=True)
        self.assertEqual((found.floor_w, found.heating_w), (floor.floor_w, 0.0))
        self.assertLess(found.down_w, 10)

    def test_nights_as_cold_as_each_other_tell_nothing_of_heating(self) -> None:
        found = standing_floor(floor_of([900.0, 910.0] * 7), [2.0] * 14, electric_heating=True)
        self.assertIsNone(found.floor_w)
        self.assertIn("differ more in cold", found.why)
