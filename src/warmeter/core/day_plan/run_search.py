"""Runs of a plan moved about while all else stays, for where the search for the proven optimum ends before its end."""

from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.day_plan.check import checked, load_of
from warmeter.core.day_plan.problem import DayPlan, PlannedRun, PlanProblem
from warmeter.core.units import W_PER_KW

TRIES = 600
# In so many tries of a hundred it begins anew from runs anywhere, else a few runs of the best are moved.
ANEW_PCT = 5
LEAST_BETTER = 1e-9
LEHMER, PRIME = 16_807, 2**31 - 1


def moved_about(problem: PlanProblem, plan: DayPlan, starts: dict[str, Ints]) -> DayPlan:
    """Return a plan that costs no more, its runs elsewhere; a plan that breaks a rule comes back as it is.

    Parameters
    ----------
    starts : dict of str to int array
        At which slots each run may start by itself, rising.

    Notes
    -----
    docs/methods I9: one run after another goes to its cheapest start until none moves; then some are thrown about and it
    begins again, the same number of times and the same way each time. Nothing is proven by it.
    """
    if len(problem.runs) == 0 or not checked(problem, plan).is_kept:
        return plan
    search = _Search.of(problem, plan, starts)
    numbers = _Sequence()
    best = dict(plan.starts)
    least = search.settled(best)
    for _ in range(TRIES):
        trial = dict(best)
        anew = numbers.below(100) < ANEW_PCT
        count = len(problem.runs) if anew else min(len(problem.runs), 2 + numbers.below(2))
        left = list(range(len(problem.runs)))
        thrown = [left.pop(numbers.below(len(left))) for _ in range(count)]
        for place in thrown:
            del trial[problem.runs[place].key]
        if not all(search.throw(trial, place, numbers) for place in thrown):
            continue
        cost = search.settled(trial)
        if cost < least - LEAST_BETTER:
            best, least = trial, cost
    found = replace(plan, starts=best)
    told = checked(problem, found)
    return found if told.is_kept and told.cost < checked(problem, plan).cost else plan


@dataclass(slots=True)
class _Sequence:
    """Whole numbers spread without order, the same ones each time (Lehmer's generator of 1988, Park and Miller)."""

    state: int = 1

    def below(self, count: int) -> int:
        """Return the next number, 0 to count − 1."""
        self.state = self.state * LEHMER % PRIME
        return self.state * count // PRIME


@dataclass(slots=True)
class _Search:
    """What stands besides the runs: energy [kWh] and power [W] by slot, and where each run may lie."""

    problem: PlanProblem
    fixed_kwh: Floats
    fixed_w: dict[str, Floats]
    starts: list[Ints]
    slots: list[Ints]

    @classmethod
    def of(cls, problem: PlanProblem, plan: DayPlan, starts: dict[str, Ints]) -> "_Search":
        """Return the search of a plan."""
        told = checked(problem, plan)
        fixed = np.array(told.imported_kwh) - np.array(told.exported_kwh)
        runs = {run.key for run in problem.runs}
        for key in runs:
            fixed = fixed - np.array(load_of(problem, plan, key))
        fixed_w = {}
        for limit in problem.limits:
            others = np.zeros(problem.slots)
            for key in limit.members:
                if key not in runs:
                    others = others + np.array(load_of(problem, plan, key))
            fixed_w[limit.key] = others * W_PER_KW / problem.hours
        own = [starts[run.key] for run in problem.runs]
        slots = [each[:, None] + np.arange(run.slots) for each, run in zip(own, problem.runs, strict=True)]
        return cls(problem=problem, fixed_kwh=fixed, fixed_w=fixed_w, starts=own, slots=slots)

    def settled(self, at: dict[str, int]) -> float:
        """Move one run after another to where it costs least until none moves; return what the plan then costs."""
        runs = self.problem.runs
        moving = True
        while moving:
            moving = False
            for place, run in enumerate(runs):
                costs = self._costs(at, place)
                here = float(costs[int(np.searchsorted(self.starts[place], at[run.key]))])
                cheapest = int(np.argmin(costs))
                if float(costs[cheapest]) < here - LEAST_BETTER:
                    at[run.key], moving = int(self.starts[place][cheapest]), True
        return self._cost(at)

    def throw(self, at: dict[str, int], place: int, numbers: "_Sequence") -> bool:
        """Put a run anywhere that breaks no rule with those that stand; return whether there is such a place."""
        free = np.flatnonzero(np.isfinite(self._costs(at, place)))
        if free.size:
            at[self.problem.runs[place].key] = int(self.starts[place][int(free[numbers.below(free.size)])])
        return bool(free.size)

    def _net(self, at: dict[str, int], without: PlannedRun | None = None) -> Floats:
        net = self.fixed_kwh.copy()
        for run in self.problem.runs:
            if run is not without and run.key in at:
                net[at[run.key] : at[run.key] + run.slots] += run.profile_kwh
        return net

    def _cost(self, at: dict[str, int]) -> float:
        net, problem = self._net(at), self.problem
        cost = float(_money(problem, net, np.arange(problem.slots)).sum())
        if problem.peak is not None:
            peak = float(net[problem.peak.counted].max(initial=0.0)) / problem.hours
            cost += problem.peak.price_per_kw * max(0.0, peak - problem.peak.so_far_kw)
        return cost

    def _costs(self, at: dict[str, int], place: int) -> Floats:
        """Return what each start of a run adds, infinite where it breaks a rule."""
        problem, run, slots = self.problem, self.problem.runs[place], self.slots[place]
        net = self._net(at, run)
        before, after = net[slots], net[slots] + run.profile_kwh
        costs: Floats = (_money(problem, after, slots) - _money(problem, before, slots)).sum(axis=1)
        broken = ~self._in_order(at, place)
        if problem.import_cap_kwh is not None:
            broken |= (after > problem.import_cap_kwh).any(axis=1)
        for limit in problem.limits:
            if run.key in limit.members:
                drawn = self.fixed_w[limit.key].copy()
                for other in problem.runs:
                    if other is not run and other.key in limit.members and other.key in at:
                        drawn[at[other.key] : at[other.key] + other.slots] += other.peak_w
                broken |= (drawn[slots] + run.peak_w > limit.limit_w).any(axis=1)
        if problem.peak is not None:
            counted = problem.peak.counted
            rest = float(net[counted].max(initial=0.0))
            peak = np.maximum(np.where(counted[slots], after, 0.0).max(axis=1), rest) / problem.hours
            costs = costs + problem.peak.price_per_kw * np.maximum(0.0, peak - problem.peak.so_far_kw)
        return np.where(broken, np.inf, costs)

    def _in_order(self, at: dict[str, int], place: int) -> Flags:
        """Return at which starts a run keeps its order with others, and is apart from those that it must be."""
        run, own = self.problem.runs[place], self.starts[place]
        kept = np.ones(own.size, dtype=bool)
        for other in self.problem.runs:
            if other is run or other.key not in at:
                continue
            start, end = at[other.key], at[other.key] + other.slots
            if run.after == other.key:
                kept &= own >= end
                if run.after_within is not None:
                    kept &= own <= end + run.after_within
            if other.after == run.key:
                kept &= own + run.slots <= start
                if other.after_within is not None:
                    kept &= own + run.slots + other.after_within >= start
            if set(run.apart) & set(other.apart):
                kept &= (own + run.slots <= start) | (own >= end)
        return kept


def _money(problem: PlanProblem, net: Floats, slots: Ints) -> Floats:
    """Return what the grid is paid for energy in some slots."""
    paid: Floats = np.where(net > 0, net * problem.import_price[slots], net * problem.export_price[slots])
    return paid
