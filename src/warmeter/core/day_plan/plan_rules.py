"""What holds a plan, rule by rule: what each costs, and the smallest set that cannot be kept together."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal, TypeVar

import numpy as np

from warmeter.core.day_plan.check import checked, load_of
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.day_plan.planned_room import RoomHeat
from warmeter.core.day_plan.problem import Charge, DayPlan, HeatStore, PlannedRun, PlanProblem, SlotLoad

RuleKind = Literal[
    "earliest",
    "deadline",
    "quiet",
    "pinned",
    "after",
    "apart",
    "circuit",
    "main fuse",
    "amount",
    "low",
    "high",
    "damp",
    "dry",
    "hygiene",
    "reserve",
    "warmth",
    "ceiling",
]
# Money never drops these: they keep people, pipes and wires safe.
SAFETY: tuple[RuleKind, ...] = ("circuit", "main fuse", "high", "hygiene")
FAR_C = 1000.0
# What a room's warmth costs is told for so much less of it, or of what it may be warmed ahead [K].
EASED_K = 1.0
_Windowed = TypeVar("_Windowed", PlannedRun, SlotLoad, Charge)


@dataclass(frozen=True, slots=True)
class PlanRule:
    """A rule of a plan: which kind, and of which part, group or circuit ("" for the main fuse and the battery)."""

    kind: RuleKind
    key: str

    @property
    def is_safety(self) -> bool:
        """Whether it is never dropped for money."""
        return self.kind in SAFETY


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleCost:
    """What the plan would cost less without a rule [currency]; None where the search did not end."""

    rule: PlanRule
    saves: float | None


def rules_of(problem: PlanProblem) -> tuple[PlanRule, ...]:
    """Return every rule that holds a plan and could be dropped."""
    return tuple(_rules(problem))


def _rules(problem: PlanProblem) -> Iterator[PlanRule]:
    windowed: tuple[PlannedRun | SlotLoad | Charge, ...] = (*problem.runs, *problem.loads, *problem.charges)
    for part in windowed:
        if part.earliest > 0:
            yield PlanRule("earliest", part.key)
        if part.latest_end < problem.slots:
            yield PlanRule("deadline", part.key)
    heard: tuple[PlannedRun | SlotLoad, ...] = (*problem.runs, *problem.loads)
    for noisy in heard:
        if noisy.quiet is not None and noisy.quiet.any():
            yield PlanRule("quiet", noisy.key)
    for run in problem.runs:
        if run.pinned is not None:
            yield PlanRule("pinned", run.key)
        if run.after:
            yield PlanRule("after", run.key)
    for group in dict.fromkeys(name for run in problem.runs for name in run.apart):
        yield PlanRule("apart", group)
    for limit in problem.limits:
        yield PlanRule("circuit", limit.key)
    if problem.import_cap_kwh is not None:
        yield PlanRule("main fuse", "")
    for charge in problem.charges:
        yield PlanRule("amount", charge.key)
    for store in problem.stores:
        yield PlanRule("low" if store.holds == "water" else "damp", store.key)
        yield PlanRule("high" if store.holds == "water" else "dry", store.key)
        if store.hygiene_c is not None:
            yield PlanRule("hygiene", store.key)
    for room in problem.rooms:
        yield PlanRule("warmth", room.key)
        yield PlanRule("ceiling", room.key)
    if problem.battery is not None and (problem.battery.reserve_kwh > 0 or problem.battery.end_kwh > 0):
        yield PlanRule("reserve", "")


def without(problem: PlanProblem, rule: PlanRule) -> PlanProblem:
    """Return a problem without one of its rules."""
    if rule.kind in ("earliest", "deadline"):
        return replace(
            problem,
            runs=tuple(_opened(run, rule, problem.slots) for run in problem.runs),
            loads=tuple(_opened(load, rule, problem.slots) for load in problem.loads),
            charges=tuple(_opened(charge, rule, problem.slots) for charge in problem.charges),
        )
    if rule.kind == "quiet":
        return replace(
            problem,
            runs=tuple(replace(r, quiet=None) if r.key == rule.key else r for r in problem.runs),
            loads=tuple(replace(r, quiet=None) if r.key == rule.key else r for r in problem.loads),
        )
    if rule.kind in ("pinned", "after", "apart"):
        return _without_order(problem, rule)
    if rule.kind == "circuit":
        return replace(problem, limits=tuple(each for each in problem.limits if each.key != rule.key))
    if rule.kind == "main fuse":
        return replace(problem, import_cap_kwh=None)
    if rule.kind == "amount":
        return replace(
            problem, charges=tuple(replace(c, amount_kwh=0.0) if c.key == rule.key else c for c in problem.charges)
        )
    if rule.kind in ("warmth", "ceiling"):
        return _eased(problem, rule, FAR_C)
    return _without_level(problem, rule)


def _eased(problem: PlanProblem, rule: PlanRule, by_k: float) -> PlanProblem:
    """Return a problem in which a room may be so much cooler or warmer [K], its protection limits kept."""

    def freed(room: RoomHeat) -> RoomHeat:
        if room.key != rule.key:
            return room
        if rule.kind == "warmth":
            low = np.minimum(room.low_c, np.maximum(room.low_c - by_k, room.guard_low_c))
            return replace(room, low_c=low, end_low_c=room.end_low_c - by_k)
        high = np.maximum(room.high_c, np.minimum(room.high_c + by_k, room.guard_high_c))
        return replace(room, high_c=high, end_high_c=room.end_high_c + by_k)

    return replace(problem, rooms=tuple(freed(room) for room in problem.rooms))


def _opened(part: _Windowed, rule: PlanRule, slots: int) -> _Windowed:
    if part.key != rule.key:
        return part
    return replace(part, earliest=0) if rule.kind == "earliest" else replace(part, latest_end=slots)


def _without_order(problem: PlanProblem, rule: PlanRule) -> PlanProblem:
    def freed(run: PlannedRun) -> PlannedRun:
        if rule.kind == "apart":
            return replace(run, apart=tuple(group for group in run.apart if group != rule.key))
        if run.key != rule.key:
            return run
        return replace(run, pinned=None) if rule.kind == "pinned" else replace(run, after="", after_within=None)

    return replace(problem, runs=tuple(freed(run) for run in problem.runs))


def _without_level(problem: PlanProblem, rule: PlanRule) -> PlanProblem:
    if rule.kind == "reserve":
        assert problem.battery is not None  # only a battery has one
        return replace(problem, battery=replace(problem.battery, reserve_kwh=0.0, end_kwh=0.0))
    return replace(problem, stores=tuple(_freed_store(store, rule) for store in problem.stores))


def _freed_store(store: HeatStore, rule: PlanRule) -> HeatStore:
    if store.key != rule.key:
        return store
    if rule.kind == "hygiene":
        return replace(store, hygiene_c=None)
    if rule.kind in ("low", "damp"):
        return replace(store, low_c=np.full(store.low_c.shape, -FAR_C))
    return replace(store, high_c=np.full(store.high_c.shape, FAR_C))


def clash(problem: PlanProblem, *, is_stopped: Callable[[], bool] = lambda: False) -> tuple[PlanRule, ...]:
    """Return a smallest set of rules that cannot be kept together: without any one of them there is a plan.

    Empty where there is a plan, or where not even dropping every rule gives one.

    Notes
    -----
    Rules are dropped one after another; one whose dropping leaves the rest without a plan stays dropped. What is left
    at the end clashes, and each of it is needed for that.
    """
    if not cheapest_plan(problem).is_infeasible:
        return ()
    kept: list[PlanRule] = []
    left = problem
    for rule in rules_of(problem):
        if is_stopped():
            return ()
        freed = without(left, rule)
        if cheapest_plan(freed, gap=1.0).is_infeasible:
            left = freed
        else:
            kept.append(rule)
    return tuple(kept)


def rule_costs(
    problem: PlanProblem,
    cost: float,
    rules: Sequence[PlanRule] | None = None,
    *,
    seconds: float = 20.0,
    is_stopped: Callable[[], bool] = lambda: False,
) -> tuple[RuleCost, ...]:
    """Return what each rule of a plan costs: the least cost with it, less that without it; the dearest rule first.

    Of a room's warmth it is what a kelvin less would save, of how far it may be warmed ahead what a kelvin more would.
    """
    found = []
    for rule in rules_of(problem) if rules is None else rules:
        if is_stopped():
            break
        is_of_room = rule.kind in ("warmth", "ceiling")
        freed = _eased(problem, rule, EASED_K) if is_of_room else without(problem, rule)
        plan = cheapest_plan(freed, seconds=seconds)
        saves = None if plan.plan is None else max(0.0, cost - checked(freed, plan.plan).cost)
        found.append(RuleCost(rule=rule, saves=saves))
    return tuple(sorted(found, key=lambda each: -(each.saves or 0.0)))


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherStart:
    """What the whole plan would cost more with a run at another start, all else as it is [currency]; why it may not be there."""

    slot: int
    more: float
    breaks: tuple[str, ...]


def other_starts(problem: PlanProblem, plan: DayPlan, key: str) -> tuple[OtherStart, ...]:
    """Return what a run at each slot at which it would fit into the plan's time would cost more, and what it would break."""
    run = problem.run(key)
    # Rooms stay as they are while a run is moved, so what they draw counts as what runs anyway.
    settled = sum((np.array(load_of(problem, plan, room.key)) for room in problem.rooms), problem.base_kwh)
    problem = replace(problem, rooms=(), base_kwh=settled)
    now = checked(problem, plan).cost
    found = []
    for slot in range(problem.slots - run.slots + 1):
        moved = checked(problem, replace(plan, starts={**plan.starts, key: slot}))
        breaks = tuple(dict.fromkeys(breach.kind for breach in moved.breaches if breach.kind != "pinned"))
        found.append(OtherStart(slot=slot, more=moved.cost - now, breaks=breaks))
    return tuple(found)
