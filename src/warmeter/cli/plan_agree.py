"""``warmeter plan-agree``: the planner against trying everything, and the checker against plans that are spoilt."""

import argparse

import numpy as np

from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.day_plan.plan_rules import clash, rules_of, without
from warmeter.core.day_plan.problem import PlanProblem
from warmeter.simulators.plan_cases import best_by_trying, rich_problem, small_problem, some_problem, spoilt

NEAR = 1e-6
# The leeway of rows is worth this much of a cost at most.
NEAR_COST = 1e-4
SECONDS = 5.0


def run(options: argparse.Namespace) -> int:
    """Print how often planner, checker and clash were right; 1 if one was not."""
    rng = np.random.default_rng(options.seed)
    wrong, infeasible, not_minimal = 0, 0, 0
    for _ in range(options.small):
        problem = small_problem(rng)
        best, _plan = best_by_trying(problem)
        found = cheapest_plan(problem)
        if np.isinf(best):
            infeasible += 1
            wrong += not found.is_infeasible
            not_minimal += not _is_minimal(problem)
        else:
            wrong += found.plan is None or abs(checked(problem, found.plan).cost - best) > NEAR
    print(f"{options.small} small cases: {wrong} unlike trying everything; {infeasible} without a plan, of these")
    print(f"  {not_minimal} with a clash that is none or larger than it need be")
    refused, none, both, unlike = 0, 0, 0, 0
    for _ in range(options.random):
        problem = some_problem(rng)
        found = cheapest_plan(problem, seconds=SECONDS)
        other = cheapest_plan(problem, seconds=SECONDS, is_presolved=False)
        if found.plan is None:
            none += 1
            continue
        told = checked(problem, found.plan)
        refused += not told.is_kept
        if other.plan is not None and found.gap == other.gap == 0.0:
            both += 1
            cost = checked(problem, other.plan).cost
            unlike += abs(told.cost - cost) > NEAR_COST * max(1.0, abs(cost))
    print(f"{options.random} random cases: {none} without a plan, {refused} whose plan the checker refused")
    print(f"  {both} proven by two ways of search: {unlike} unlike")
    problem = rich_problem()
    plan = cheapest_plan(problem).plan
    assert plan is not None  # it was made to have one
    missed = [
        kind for kind, other, bad in spoilt(problem, plan) if kind not in {b.kind for b in checked(other, bad).breaches}
    ]
    kinds = sum(1 for _ in spoilt(problem, plan))
    print(f"{kinds} kinds of spoilt plan: {len(missed)} not found {missed or ''}")
    return int(bool(wrong or not_minimal or refused or unlike or missed))


def _is_minimal(problem: PlanProblem) -> bool:
    """Return whether the rules that are said to clash do, and no fewer of them; none only where no dropping helps."""
    rules = clash(problem)
    every = problem
    for rule in rules_of(problem):
        if rule not in rules:
            every = without(every, rule)
    if not np.isinf(best_by_trying(every)[0]):
        return False
    return all(not np.isinf(best_by_trying(without(every, rule))[0]) for rule in rules)
