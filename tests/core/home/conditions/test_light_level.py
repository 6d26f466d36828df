"""Light of a clear sky: known values of day, sunset and twilight, and the condition on them."""

import unittest
from dataclasses import replace

from warmeter.core.home.conditions.light_level import LightLevel, clear_sky_lx, height_of_light_deg
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.truth import TRUE
from warmeter.core.weather.sun import sun_height_deg

DAY = Scope(
    start_ms=parse_utc("2026-03-20T00:00:00Z"),
    end_ms=parse_utc("2026-03-22T00:00:00Z"),
    clock=LocalClock("UTC"),
    latitude_deg=52.0,
)


class Light(unittest.TestCase):
    def test_known_light_of_day_sunset_and_the_ends_of_twilight(self) -> None:
        # Tables of natural light: full day 100 klx, sunset some hundred lux, civil dusk 3.4 lx, nautical 0.008 lx.
        for height, low, high in (
            (60, 80_000, 110_000),
            (20, 25_000, 30_000),
            (0, 600, 800),
            (-6, 3, 4),
            (-12, 7e-3, 9e-3),
        ):
            with self.subTest(height=height):
                self.assertTrue(low < clear_sky_lx(height) < high, clear_sky_lx(height))

    def test_it_rises_with_the_sun_without_a_step_where_its_parts_meet(self) -> None:
        for height in (20.0, 5.0, -0.8, -5.0, -12.0):
            below, above = clear_sky_lx(height - 1e-6), clear_sky_lx(height + 1e-6)
            self.assertAlmostEqual(below / above, 1.0, delta=0.05)
        light = [clear_sky_lx(-18 + k / 4) for k in range(4 * 78)]
        self.assertEqual(light, sorted(light))

    def test_the_height_of_a_light_is_that_at_which_it_is_given(self) -> None:
        for light in (0.01, 3.4, 700.0, 20_000.0):
            self.assertAlmostEqual(clear_sky_lx(height_of_light_deg(light)) / light, 1.0, delta=0.03)

    def test_it_is_darker_than_so_many_lux_while_the_sun_is_low_and_over_them_else(self) -> None:
        darker = LightLevel(light_lx=500.0)
        evaluator = ConditionEvaluator(DAY)
        truth, other = evaluator.truth(darker, 60), evaluator.truth(darker.opposite, 60)
        begin, until = truth.stretches(TRUE)
        self.assertEqual(begin.size, 3, "night before, night between, night after")
        heights = sun_height_deg(begin[1:], latitude_deg=52.0, longitude_deg=0.0)
        for height in heights.tolist():
            self.assertAlmostEqual(clear_sky_lx(height), 500.0, delta=10.0)
        self.assertEqual(other.stretches(TRUE)[0].tolist(), until[:-1].tolist())
        brighter = evaluator.truth(replace(darker, light_lx=5000.0), 60).stretches(TRUE)
        self.assertTrue((brighter[0][1:] < begin[1:]).all(), "more light is lost sooner in the evening")


if __name__ == "__main__":
    unittest.main()
