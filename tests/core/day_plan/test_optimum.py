"""The planner against trying everything, the checker against spoilt plans, and what clashes."""

import unittest
from dataclasses import replace

import numpy as np

from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.day_plan.plan_rules import PlanRule, clash, other_starts, rule_costs, rules_of, without
from warmeter.core.day_plan.problem import Battery, PlannedRun, PlanProblem
from warmeter.core.errors import OutOfRange, TariffError
from warmeter.simulators.plan_cases import best_by_trying, rich_problem, small_problem, some_problem, spoilt


class AgainstTryingEverything(unittest.TestCase):
    def test_the_least_cost_is_that_of_all_plans_and_where_there_is_none_it_says_so(self) -> None:
        rng = np.random.default_rng(2026)
        infeasible = 0
        for case in range(24):
            problem = small_problem(rng)
            best, _ = best_by_trying(problem)
            found = cheapest_plan(problem)
            self.assertEqual(found.is_infeasible, np.isinf(best), case)
            infeasible += np.isinf(best)
            if found.plan is not None:
                told = checked(problem, found.plan)
                self.assertEqual(told.breaches, (), case)
                self.assertAlmostEqual(told.cost, best, places=6, msg=str(case))
        self.assertGreater(infeasible, 1)
        self.assertLess(infeasible, 15)

    def test_what_clashes_clashes_and_each_of_it_is_needed(self) -> None:
        rng = np.random.default_rng(11)
        seen = 0
        while seen < 3:
            problem = small_problem(rng)
            if not np.isinf(best_by_trying(problem)[0]):
                continue
            seen += 1
            rules = clash(problem)
            self.assertTrue(rules)
            only = problem
            for rule in rules_of(problem):
                if rule not in rules:
                    only = without(only, rule)
            self.assertTrue(np.isinf(best_by_trying(only)[0]))
            for rule in rules:
                self.assertFalse(np.isinf(best_by_trying(without(only, rule))[0]), rule)

    def test_the_checker_takes_the_plans_of_days_with_stores_and_batteries(self) -> None:
        rng = np.random.default_rng(5)
        plans = 0
        for case in range(25):
            problem = some_problem(rng)
            found = cheapest_plan(problem, seconds=20.0, gap=0.01)
            if found.plan is not None:
                plans += 1
                self.assertEqual(checked(problem, found.plan).breaches, (), case)
        self.assertGreater(plans, 12)


class SpoiltPlans(unittest.TestCase):
    def test_each_kind_of_spoilt_plan_is_found(self) -> None:
        problem = rich_problem()
        plan = cheapest_plan(problem).plan
        assert plan is not None
        self.assertTrue(checked(problem, plan).is_kept)
        kinds = []
        for kind, other, bad in spoilt(problem, plan):
            kinds.append(kind)
            self.assertIn(kind, {breach.kind for breach in checked(other, bad).breaches})
        self.assertGreaterEqual(len(set(kinds)), 10)


def run(key: str, kwh: list[float], **rest: object) -> PlannedRun:
    """Return a run."""
    profile = np.array(kwh)
    usual = {"earliest": 0, "latest_end": 6}
    return PlannedRun(key=key, name=key, profile_kwh=profile, peak_w=profile * 1000, **{**usual, **rest})  # type: ignore[arg-type]


def problem_of(*runs: PlannedRun, **rest: object) -> PlanProblem:
    """Return six hours whose prices are 5, 4, 3, 2, 1, 6."""
    usual = {
        "step_min": 60,
        "import_price": np.array([5.0, 4.0, 3.0, 2.0, 1.0, 6.0]),
        "export_price": np.zeros(6),
        "base_kwh": np.zeros(6),
        "sun_kwh": np.zeros(6),
    }
    return PlanProblem(runs=runs, **{**usual, **rest})  # type: ignore[arg-type]


class ByHand(unittest.TestCase):
    def starts(self, problem: PlanProblem) -> dict[str, int]:
        """Return the starts of the cheapest plan."""
        plan = cheapest_plan(problem).plan
        assert plan is not None
        return plan.starts

    def test_a_front_heavy_run_does_not_start_at_the_cheapest_hour(self) -> None:
        self.assertEqual(self.starts(problem_of(run("a", [1.0, 0.1]))), {"a": 4})
        self.assertEqual(self.starts(problem_of(run("a", [0.1, 1.0]))), {"a": 3})

    def test_one_after_another_within_a_time_and_kept_apart(self) -> None:
        pair = problem_of(run("a", [1.0]), run("b", [1.0], after="a", after_within=1))
        self.assertEqual(self.starts(pair), {"a": 3, "b": 4})
        apart = problem_of(run("a", [1.0], apart=("x",)), run("b", [1.0], apart=("x",)))
        self.assertEqual(sorted(self.starts(apart).values()), [3, 4])

    def test_a_pin_and_quiet_hours_are_kept_and_cost_what_they_cost(self) -> None:
        quiet = np.array([False, False, False, False, True, False])
        problem = problem_of(run("a", [1.0], quiet=quiet, latest_end=5))
        self.assertEqual(self.starts(problem), {"a": 3})
        cost = checked(problem, cheapest_plan(problem).plan).cost  # type: ignore[arg-type]
        costs = {each.rule.kind: each.saves for each in rule_costs(problem, cost)}
        self.assertAlmostEqual(costs["quiet"] or 0, 1.0)
        self.assertAlmostEqual(costs["deadline"] or 0, 0.0)
        self.assertEqual(self.starts(problem_of(run("a", [1.0], pinned=1))), {"a": 1})

    def test_what_another_start_would_cost_and_break(self) -> None:
        problem = problem_of(run("a", [1.0], earliest=1))
        plan = cheapest_plan(problem).plan
        assert plan is not None
        found = other_starts(problem, plan, "a")
        self.assertEqual([round(each.more, 9) for each in found], [4.0, 3.0, 2.0, 1.0, 0.0, 5.0])
        self.assertEqual([each.breaks for each in found], [("window",), (), (), (), (), ()])

    def test_nothing_fits_says_which_rules_and_no_more(self) -> None:
        fuse = problem_of(run("a", [1.0], latest_end=1), run("b", [1.0], latest_end=1), import_cap_kwh=1.5)
        self.assertTrue(cheapest_plan(fuse).is_infeasible)
        kinds = {rule.kind for rule in clash(fuse)}
        self.assertIn("main fuse", kinds)
        self.assertLessEqual(len(clash(fuse)), 3)
        self.assertEqual(clash(problem_of(run("a", [1.0]))), ())

    def test_a_battery_buys_cheap_and_pays_its_losses(self) -> None:
        # 1 kWh wanted at 6; put in 1/0.81 at 1 with 0.9 in and 0.9 out.
        battery = Battery(capacity_kwh=2, charge_kw=2, discharge_kw=2, efficiency_in=0.9, efficiency_out=0.9)
        problem = problem_of(base_kwh=np.array([0, 0, 0, 0, 0, 1.0]), battery=battery)
        plan = cheapest_plan(problem).plan
        assert plan is not None
        told = checked(problem, plan)
        self.assertTrue(told.is_kept)
        self.assertAlmostEqual(told.cost, 1 / 0.81, places=5)

    def test_levels_carried_through_two_days_of_five_minutes_are_kept_to(self) -> None:
        slots = 576
        rng = np.random.default_rng(6)
        tank = rich_problem().stores[0]
        long_tank = replace(
            tank,
            surroundings_c=np.full(slots, 15.0),
            start_c=52.0,
            low_c=np.full(slots, 48.0),
            high_c=np.full(slots, 65.0),
            drawn_kwh=np.where(np.arange(slots) % 288 == 84, 1.0, 0.0),
            hygiene_c=None,
            hygiene_by=None,
        )
        battery = Battery(capacity_kwh=5, charge_kw=2, discharge_kw=2, start_kwh=2.5, end_kwh=2.5, reserve_kwh=0.5)
        problem = problem_of(
            step_min=5,
            import_price=np.repeat(rng.uniform(0.05, 0.5, 48), 12),
            export_price=np.full(slots, 0.04),
            base_kwh=rng.uniform(0, 0.05, slots),
            sun_kwh=np.clip(0.2 * np.sin((np.arange(slots) % 288 - 84) / 120 * np.pi), 0, None),
            stores=(long_tank,),
            battery=battery,
        )
        plan = cheapest_plan(problem).plan
        assert plan is not None
        self.assertEqual(checked(problem, plan).breaches, ())

    def test_rules_that_can_be_dropped_are_all_named(self) -> None:
        kinds = {rule.kind for rule in rules_of(rich_problem())}
        self.assertLessEqual({"quiet", "after", "apart", "circuit", "main fuse", "amount", "hygiene", "low"}, kinds)
        self.assertTrue(PlanRule("hygiene", "tank").is_safety)
        self.assertFalse(PlanRule("quiet", "a").is_safety)


class BadInput(unittest.TestCase):
    def test_what_cannot_be_planned_is_refused_with_its_name(self) -> None:
        with self.assertRaisesRegex(TariffError, "a must end after it may begin"):
            problem_of(run("a", [1.0], earliest=4, latest_end=3))
        with self.assertRaisesRegex(TariffError, "no price"):
            problem_of(import_price=np.array([1, np.nan, 1, 1, 1, 1]))
        with self.assertRaisesRegex(TariffError, "follows a run"):
            problem_of(run("a", [1.0], after="b"))
        with self.assertRaises(OutOfRange):
            Battery(capacity_kwh=0.0, charge_kw=1, discharge_kw=1)
        with self.assertRaises(OutOfRange):
            problem_of(base_kwh=np.zeros(5))
        with self.assertRaisesRegex(TariffError, "one key"):
            problem_of(run("a", [1.0]), run("a", [1.0]))

    def test_a_run_longer_than_its_time_has_no_plan(self) -> None:
        short = problem_of(run("a", [1.0, 1.0, 1.0], earliest=1, latest_end=3))
        self.assertTrue(cheapest_plan(short).is_infeasible)
        self.assertFalse(cheapest_plan(replace(short, runs=(replace(short.runs[0], latest_end=4),))).is_infeasible)


if __name__ == "__main__":
    unittest.main()
