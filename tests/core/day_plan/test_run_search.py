"""Runs moved about: never worse, never against a rule, and as cheap as trying everything."""

import itertools
import unittest
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.optimum import allowed_starts, cheapest_plan
from warmeter.core.day_plan.problem import DayPlan, PlanProblem
from warmeter.core.day_plan.run_search import moved_about
from warmeter.simulators.plan_cases import small_problem, some_problem


def searched(problem: PlanProblem, plan: DayPlan) -> DayPlan:
    return moved_about(problem, plan, {run.key: allowed_starts(problem, run) for run in problem.runs})


def every_kept(problem: PlanProblem, plan: DayPlan) -> Iterator[tuple[float, DayPlan]]:
    """Yield every plan of runs alone that breaks nothing, with its cost."""
    keys = [run.key for run in problem.runs]
    for at in itertools.product(*(allowed_starts(problem, run).tolist() for run in problem.runs)):
        tried = replace(plan, starts=dict(zip(keys, at, strict=True)))
        told = checked(problem, tried)
        if told.is_kept:
            yield told.cost, tried


class Search(unittest.TestCase):
    def test_from_the_dearest_plan_it_comes_to_what_trying_everything_finds(self) -> None:
        rng = np.random.default_rng(11)
        tried = 0
        while tried < 25:
            problem = small_problem(rng)
            some = None if problem.loads or problem.charges else cheapest_plan(problem).plan
            if some is None:
                continue
            tried += 1
            plans = sorted(every_kept(problem, some), key=lambda pair: pair[0])
            found = searched(problem, plans[-1][1])
            self.assertAlmostEqual(checked(problem, found).cost, plans[0][0], places=6)

    def test_beside_stores_loads_batteries_and_rooms_no_rule_is_broken_and_nothing_dearer(self) -> None:
        rng = np.random.default_rng(12)
        tried = better = 0
        while tried < 15:
            problem = some_problem(rng)
            plan = cheapest_plan(problem, seconds=2.0, gap=0.3).plan
            if plan is None or not checked(problem, plan).is_kept:
                continue
            tried += 1
            before, after = checked(problem, plan), checked(problem, searched(problem, plan))
            self.assertTrue(after.is_kept)
            self.assertLessEqual(after.cost, before.cost)
            better += after.cost < before.cost - 1e-9
        self.assertLess(better, tried, "the optimiser leaves something to others, and not everything")

    def test_a_plan_that_breaks_a_rule_comes_back_as_it_is(self) -> None:
        rng = np.random.default_rng(13)
        problem = next(p for p in iter(lambda: small_problem(rng), None) if cheapest_plan(p).plan is not None)
        plan = cheapest_plan(problem).plan
        assert plan is not None
        broken = replace(plan, starts=dict.fromkeys(plan.starts, problem.slots))
        self.assertIs(searched(problem, broken), broken)


if __name__ == "__main__":
    unittest.main()
