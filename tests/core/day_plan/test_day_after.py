"""A plan against what was: costs worked by hand, and reasons that add up to the whole difference."""

import unittest
from dataclasses import replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.day_plan.check import checked, load_of
from warmeter.core.day_plan.day_after import MOST_REASONS, OTHER, SUN, DayAfter, UsedPart, day_after
from warmeter.core.day_plan.problem import DayPlan, PeakPrice, PlannedRun, PlanProblem
from warmeter.core.errors import OutOfRange

PRICE = np.array([0.1, 0.1, 0.4, 0.4])
ONES = np.ones(2)


def problem(**rest: object) -> PlanProblem:
    """Return four hours with a run of two kWh over two of them."""
    run = PlannedRun(key="w", name="Washer", profile_kwh=ONES, peak_w=1000 * ONES, earliest=0, latest_end=4)
    usual = {
        "step_min": 60,
        "import_price": PRICE,
        "export_price": np.full(4, 0.05),
        "base_kwh": np.full(4, 0.5),
        "sun_kwh": np.zeros(4),
        "runs": (run,),
    }
    return PlanProblem(**{**usual, **rest})  # type: ignore[arg-type]


def plan_at(slot: int) -> DayPlan:
    none = np.zeros(4)
    return DayPlan(
        starts={"w": slot}, on={}, charge_kw={}, store_kw={}, room_kw={}, battery_in_kwh=none, battery_out_kwh=none
    )


def part(day: PlanProblem, plan: DayPlan, used: list[float]) -> UsedPart:
    return UsedPart(name="Washer", planned_kwh=np.array(load_of(day, plan, "w")), used_kwh=np.array(used))


def costs(found: DayAfter) -> dict[str, float]:
    return {reason.name: round(reason.cost, 9) for reason in found.reasons}


def net(day: PlanProblem, used: list[float], sun: Floats | None = None, other: float = 0.0) -> Floats:
    """Return what the meter would have told of a day."""
    told: Floats = day.base_kwh + other + np.array(used) - (day.sun_kwh if sun is None else sun)
    return told


class Days(unittest.TestCase):
    def test_a_day_as_planned_has_no_reason(self) -> None:
        day, plan = problem(), plan_at(0)
        found = day_after(day, plan, [part(day, plan, [1, 1, 0, 0])], net_kwh=net(day, [1, 1, 0, 0]))
        self.assertEqual((found.reasons, found.unknown_slots), ((), 0))
        self.assertAlmostEqual(found.cost, checked(day, plan).cost)

    def test_a_run_that_was_moved_costs_the_dearer_hours(self) -> None:
        day, plan = problem(), plan_at(0)
        found = day_after(day, plan, [part(day, plan, [0, 0, 1, 1])], net_kwh=net(day, [0, 0, 1, 1]))
        self.assertEqual(costs(found), {"Washer": 0.6})
        self.assertEqual((found.reasons[0].planned_slot, found.reasons[0].used_slot), (0, 2))

    def test_a_run_that_was_left_out_saves_its_own_and_has_no_start(self) -> None:
        day, plan = problem(), plan_at(0)
        found = day_after(day, plan, [part(day, plan, [0, 0, 0.02, 0])], net_kwh=net(day, [0, 0, 0.02, 0]))
        self.assertAlmostEqual(found.reasons[0].cost, -0.2 + 0.02 * 0.4)
        self.assertIsNone(found.reasons[0].used_slot)

    def test_sun_that_did_not_come_is_bought_or_not_sold(self) -> None:
        sun = np.array([0, 0, 0.3, 2.0])
        day, plan = problem(sun_kwh=sun), plan_at(0)
        nothing = np.zeros(4)
        found = day_after(
            day, plan, [part(day, plan, [1, 1, 0, 0])], sun_kwh=nothing, net_kwh=net(day, [1, 1, 0, 0], nothing)
        )
        # 0.3 was used at home; of 2.0 half a kWh was, and 1.5 would have been sold.
        self.assertEqual(costs(found), {SUN: round(0.3 * 0.4 + 0.5 * 0.4 + 1.5 * 0.05, 9)})

    def test_what_the_meter_tells_beyond_the_parts_is_other_use(self) -> None:
        day, plan = problem(), plan_at(0)
        found = day_after(day, plan, [part(day, plan, [1, 1, 0, 0])], net_kwh=net(day, [1, 1, 0, 0], other=0.25))
        self.assertEqual(costs(found), {OTHER: round(0.25 * float(PRICE.sum()), 9)})

    def test_reasons_add_up_however_they_meet(self) -> None:
        rng = np.random.default_rng(5)
        for _ in range(40):
            peak = PeakPrice(price_per_kw=float(rng.uniform(0, 3)), so_far_kw=0.5, counted=rng.random(4) < 0.7)
            day = problem(
                import_price=rng.uniform(-0.1, 0.5, 4),
                export_price=rng.uniform(-0.2, 0.1, 4),
                sun_kwh=rng.uniform(0, 2, 4),
                peak=peak if rng.random() < 0.5 else None,
            )
            plan = plan_at(int(rng.integers(3)))
            used, sun = rng.uniform(0, 1, 4).tolist(), rng.uniform(0, 2, 4)
            told = net(day, used, sun, float(rng.uniform(-0.3, 0.3)))
            found = day_after(day, plan, [part(day, plan, used)], sun_kwh=sun, net_kwh=told)
            self.assertAlmostEqual(found.planned_cost, checked(day, plan).cost)
            self.assertAlmostEqual(found.cost - found.planned_cost, sum(each.cost for each in found.reasons))
            # What the meter told is what the day cost, whatever is made of it.
            as_was = replace(day, base_kwh=np.maximum(told, 0), sun_kwh=np.maximum(-told, 0), runs=())
            self.assertAlmostEqual(found.cost, checked(as_was, replace(plan, starts={})).cost)

    def test_two_that_lift_the_peak_only_together_share_its_price(self) -> None:
        peak = PeakPrice(price_per_kw=1.0, so_far_kw=2.5, counted=np.ones(4, dtype=bool))
        day, plan = problem(peak=peak, import_price=np.zeros(4)), plan_at(0)
        # Alone the run draws 2 kWh and other use half a kWh more: together 3 kW, half a kilowatt above the peak.
        told = net(day, [2.0, 1.0, 0.0, 0.0]) + np.array([0.5, 0, 0, 0])
        found = day_after(day, plan, [part(day, plan, [2.0, 1.0, 0.0, 0.0])], net_kwh=told)
        self.assertEqual(costs(found), {"Washer": 0.25, OTHER: 0.25})

    def test_what_was_not_heard_is_taken_as_planned_and_told(self) -> None:
        day, plan = problem(), plan_at(0)
        told = net(day, [1, 1, 0, 0])
        told[2:] = np.nan
        found = day_after(day, plan, [part(day, plan, [np.nan, np.nan, np.nan, np.nan])], net_kwh=told)
        self.assertEqual((found.reasons, found.unknown_slots), ((), 2))

    def test_more_parts_than_can_be_shared_out_are_refused(self) -> None:
        day, plan = problem(), plan_at(0)
        with self.assertRaises(OutOfRange):
            day_after(day, plan, [part(day, plan, [0, 0, 0, 0])] * (MOST_REASONS - 1))


if __name__ == "__main__":
    unittest.main()
