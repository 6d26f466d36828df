"""A dehumidifier within its band, against sums by hand; and what is left out first."""

import unittest
from dataclasses import replace

import numpy as np

from warmeter.core.day_plan.check import checked, store_course_c
from warmeter.core.day_plan.dry_air import dry_air
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.day_plan.plan_rules import clash
from warmeter.core.day_plan.problem import Charge, DayPlan, PeakPrice, PlanProblem
from warmeter.core.day_plan.shedding import shedding
from warmeter.core.errors import HomeError
from warmeter.core.home.day_plans import HumidityBand

HOURS = 24
CELLAR = HumidityBand(
    id="cellar", name="Cellar", power_w=400, begin_pct=55, low_pct=45, high_pct=60, rise_pct_h=0.5, fall_pct_h=3.5
)


def day(band: HumidityBand = CELLAR, **rest: object) -> PlanProblem:
    """Return a day of hours, dear but for two at four in the morning."""
    price = np.full(HOURS, 0.4)
    price[4:6] = 0.1
    usual = {
        "step_min": 60,
        "import_price": price,
        "export_price": np.zeros(HOURS),
        "base_kwh": np.zeros(HOURS),
        "sun_kwh": np.zeros(HOURS),
        "stores": (dry_air(band, HOURS, 60),),
    }
    return PlanProblem(**{**usual, **rest})  # type: ignore[arg-type]


def humidity(problem: PlanProblem, plan: DayPlan) -> list[float]:
    return [100.0 - level for level in store_course_c(problem, plan, problem.stores[0])]


class Bands(unittest.TestCase):
    def test_it_dries_in_the_cheap_hours_and_no_more_than_a_day_brings(self) -> None:
        problem = day()
        plan = cheapest_plan(problem).plan
        assert plan is not None
        self.assertTrue(checked(problem, plan).is_kept)
        # A day brings 12 %; an hour takes 4 % out of what comes in: three hours, of which two are cheap.
        self.assertAlmostEqual(float(plan.store_kw["cellar"].sum()), 0.4 * 3, places=5)
        np.testing.assert_allclose(plan.store_kw["cellar"][4:6], 0.4, atol=1e-6)
        course = humidity(problem, plan)
        self.assertTrue(all(45 - 1e-4 <= each <= 60 + 1e-4 for each in course))
        self.assertAlmostEqual(course[-1], 55.0, places=3)

    def test_without_it_humidity_rises_and_with_it_falls_as_said(self) -> None:
        problem = day()
        empty = DayPlan(
            starts={}, on={}, charge_kw={}, store_kw={"cellar": np.zeros(HOURS)}, room_kw={},
            battery_in_kwh=np.zeros(HOURS), battery_out_kwh=np.zeros(HOURS),
        )  # fmt: skip
        self.assertAlmostEqual(humidity(problem, empty)[9], 60.0)
        on = replace(empty, store_kw={"cellar": np.full(HOURS, 0.4)})
        self.assertAlmostEqual(humidity(problem, on)[1], 48.0)
        kinds = {breach.kind for breach in checked(problem, on).breaches}
        self.assertEqual(kinds, {"too hot"}, "too dry")

    def test_a_room_that_begins_too_damp_is_dried_as_soon_as_it_can_be(self) -> None:
        problem = day(replace(CELLAR, begin_pct=75))
        plan = cheapest_plan(problem).plan
        assert plan is not None
        course = humidity(problem, plan)
        # 15 % at 3.5 an hour is within the band after five hours, and stays there.
        self.assertTrue(all(each <= 60.6 for each in course[5:]), course)

    def test_a_dehumidifier_that_is_too_weak_is_the_clash(self) -> None:
        weak = replace(CELLAR, begin_pct=60, rise_pct_h=4.0, fall_pct_h=0.01)
        problem = day(weak, import_cap_kwh=0.1)
        self.assertIsNone(cheapest_plan(problem).plan)
        self.assertLessEqual({rule.kind for rule in clash(problem)}, {"damp", "main fuse"})

    def test_a_band_upside_down_is_refused(self) -> None:
        with self.assertRaises(HomeError):
            replace(CELLAR, low_pct=60, high_pct=45)


class Shed(unittest.TestCase):
    def test_by_rank_above_what_the_month_has_paid_for(self) -> None:
        peak = PeakPrice(price_per_kw=8.0, so_far_kw=2.0, counted=np.ones(HOURS, dtype=bool))
        car = Charge(key="car", name="Car", amount_kwh=4.0, steps_kw=(1.4, 3.7), earliest=0, latest_end=HOURS)
        problem = day(peak=peak, charges=(car,))
        plan = cheapest_plan(problem).plan
        assert plan is not None
        found = shedding(problem, plan, {"cellar": 2, "car": 1})
        assert found is not None
        self.assertEqual([part.key for part in found.parts], ["car", "cellar"])
        self.assertEqual([round(part.together_kw, 3) for part in found.parts], [3.7, 4.1])
        # Everything fits below the two kilowatts that are paid for.
        self.assertAlmostEqual(found.above_kw, 2.0)
        self.assertIsNone(shedding(problem, plan, {}))
        self.assertIsNone(shedding(day(charges=(car,)), plan, {"car": 1}), "nothing to save power for")


if __name__ == "__main__":
    unittest.main()
