"""Wants turned into slots on the home's clock, stores that end as they began, habit, kept plans."""

import unittest
from dataclasses import replace
from datetime import date

import numpy as np

from warmeter.core.day_plan.check import checked, store_course_c
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.day_plan.problem import PlanProblem
from warmeter.core.day_plan.wanted import (
    charge_of,
    habit_plan,
    kept_plan,
    load_of_hours,
    plan_time,
    planned_parts,
    price_levels,
    quiet_slots,
    run_of,
    store_of,
)
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.home.day_plans import (
    PlannedDay,
    PlanPractice,
    QuietHours,
    WantedCharge,
    WantedHours,
    WantedRun,
    WaterStore,
)
from warmeter.core.timegrid import LocalClock

LONDON = LocalClock("Europe/London")
PRACTICE = PlanPractice(step_min=30)
SPRING, AUTUMN, PLAIN = date(2026, 3, 29), date(2026, 10, 25), date(2026, 1, 13)


class Slots(unittest.TestCase):
    def test_days_over_a_clock_change_have_as_many_slots_and_deadlines_stay_on_the_clock(self) -> None:
        for on, slots, at_seven in ((SPRING, 46, 12), (PLAIN, 48, 14), (AUTUMN, 50, 16)):
            time = plan_time(LONDON, on, PRACTICE)
            self.assertEqual((time.slots, time.slot_from(420), time.slot_until(420)), (slots, at_seven, at_seven), on)
            self.assertEqual(time.slot_until(1440), slots)
        two = plan_time(LONDON, PLAIN, PlanPractice(step_min=30, days=2))
        self.assertEqual(two.slot_until(1440 + 420), 62)

    def test_a_time_within_a_slot_is_kept_on_the_safe_side(self) -> None:
        time = plan_time(LONDON, PLAIN, PRACTICE)
        self.assertEqual((time.slot_from(431), time.slot_until(449)), (15, 14))

    def test_quiet_hours_take_every_slot_that_they_touch(self) -> None:
        time = plan_time(LONDON, PLAIN, PRACTICE)
        quiet = quiet_slots((QuietHours(from_min=1330, to_min=400),), time)
        self.assertEqual(np.flatnonzero(quiet).tolist(), [*range(14), 44, 45, 46, 47])

    def test_a_run_is_cut_into_slots_with_its_highest_minute(self) -> None:
        time = plan_time(LONDON, PLAIN, PRACTICE)
        minutes = np.zeros(75)
        minutes[10], minutes[40] = 0.03, 0.02
        wanted = WantedRun(id="a", appliance_id="m", on=PLAIN)
        run = run_of(wanted, "Washer", minutes, time, np.zeros(48, dtype=bool))
        self.assertEqual(run.profile_kwh.tolist(), [0.03, 0.02, 0.0])
        np.testing.assert_allclose(run.peak_w, [1800.0, 1200.0, 0.0])
        with self.assertRaisesRegex(NotKnowable, "no learnt run"):
            run_of(wanted, "Washer", np.zeros(0), time, np.zeros(48, dtype=bool))
        tight = WantedRun(id="a", appliance_id="m", on=PLAIN, earliest_min=600, latest_end_min=650)
        with self.assertRaisesRegex(NotKnowable, "does not fit"):
            run_of(tight, "Washer", minutes, time, np.zeros(48, dtype=bool))

    def test_what_cannot_be_done_in_time_says_how_much_could(self) -> None:
        time = plan_time(LONDON, PLAIN, PRACTICE)
        car = WantedCharge(id="c", name="Car", on=PLAIN, kwh=20, earliest_min=0, latest_end_min=240, steps_kw=(3.7,))
        with self.assertRaisesRegex(NotKnowable, r"14\.8 kWh"):
            charge_of(car, time)
        pump = WantedHours(id="p", name="Pump", on=PLAIN, power_w=300, hours=3, earliest_min=0, latest_end_min=120)
        with self.assertRaises(NotKnowable):
            load_of_hours(pump, time, np.zeros(48, dtype=bool))
        for wrong in ({"earliest_min": 600, "latest_end_min": 600}, {"earliest_min": 700, "latest_end_min": 600}):
            with self.assertRaises(HomeError):
                WantedRun(id="a", appliance_id="m", on=PLAIN, **wrong)  # type: ignore[arg-type]

    def test_prices_as_levels(self) -> None:
        self.assertEqual(price_levels(np.array([0.1, 0.1, 0.2, 0.2, 0.4, 0.4])), [0, 0, 1, 1, 2, 2])


class Stores(unittest.TestCase):
    def problem(self, **rest: object) -> PlanProblem:
        """Return a day of a store of 200 L at night and day prices."""
        time = plan_time(LONDON, PLAIN, PRACTICE)
        wanted = WaterStore(id="s", name="Tank", litres=200, usual_c=50, ready_c=55, low_c=40, high_c=65, **rest)  # type: ignore[arg-type]
        store = store_of(wanted, time, np.full(48, 5.0), None)
        price = np.where(np.arange(48) < 14, 0.10, 0.30)
        return PlanProblem(
            step_min=30,
            import_price=price,
            export_price=np.zeros(48),
            base_kwh=np.zeros(48),
            sun_kwh=np.zeros(48),
            stores=(store,),
        )

    def test_it_ends_no_colder_than_it_began_in_plan_and_in_habit(self) -> None:
        problem = self.problem(hygiene_c=60.0)
        plan = cheapest_plan(problem).plan
        assert plan is not None
        habit = habit_plan(problem, {}, {})
        for each in (plan, habit):
            course = store_course_c(problem, each, problem.stores[0])
            self.assertGreaterEqual(course[-1], 50 - 0.3)
            self.assertGreaterEqual(max(course), 60 - 0.1)
            self.assertGreaterEqual(course[12], 55 - 0.3, "ready at half past six")
        self.assertLess(checked(problem, plan).cost, checked(problem, habit).cost)
        self.assertTrue(checked(problem, plan).is_kept)

    def test_a_cold_tub_is_held_to_its_limit_from_when_it_can_have_reached_it(self) -> None:
        time = plan_time(LONDON, PLAIN, PRACTICE)
        tub = WaterStore(
            id="t",
            name="Tub",
            kind="tub",
            litres=1000,
            power_w=6000,
            loss_w_k=20,
            surroundings_c=None,
            usual_c=12,
            low_c=30,
            high_c=40,
            ready_c=37,
            ready_min=1200,
            drawn_kwh=1,
        )
        store = store_of(tub, time, np.full(48, 4.0), None)
        self.assertLess(store.low_c[0], 15)
        self.assertEqual(store.low_c[30], 30)
        problem = PlanProblem(
            step_min=30,
            import_price=np.full(48, 0.2),
            export_price=np.zeros(48),
            base_kwh=np.zeros(48),
            sun_kwh=np.zeros(48),
            stores=(store,),
        )
        plan = cheapest_plan(problem).plan
        assert plan is not None
        self.assertTrue(checked(problem, plan).is_kept)
        self.assertGreaterEqual(store_course_c(problem, plan, store)[39], 37 - 1e-3)

    def test_a_kept_plan_comes_back_as_it_was_and_not_for_other_wants(self) -> None:
        problem = self.problem()
        plan = cheapest_plan(problem).plan
        assert plan is not None
        kept = PlannedDay(
            on=PLAIN, step_min=30, parts=planned_parts(plan), battery_in_wh=(0.0,) * 48, battery_out_wh=(0.0,) * 48
        )
        back = kept_plan(kept, problem)
        assert back is not None
        self.assertAlmostEqual(checked(problem, back).cost, checked(problem, plan).cost, places=5)
        self.assertIsNone(kept_plan(kept, replace(problem, stores=())))


if __name__ == "__main__":
    unittest.main()
