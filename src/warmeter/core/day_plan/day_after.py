"""A plan held against what was: what each difference cost, shared out so that the reasons add up to the whole."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import factorial

import numpy as np

from warmeter.core.arrays import Flags, Floats
from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.problem import DayPlan, PlanProblem
from warmeter.core.errors import OutOfRange

MOST_REASONS = 12
# A slot's difference below it is none, and a part that used less of what was planned did not run [kWh, share].
LEAST_KWH, LEAST_RUN = 1e-6, 0.2
# A run has begun where so much of its energy has been used.
BEGUN = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class UsedPart:
    """What a part was to draw and did draw in each slot, shape (slot,) [kWh]; NaN in ``used_kwh`` where nothing was heard."""

    name: str
    planned_kwh: Floats
    used_kwh: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class DayReason:
    """One difference between plan and day.

    Parameters
    ----------
    name : str
        Of the part; ``SUN`` and ``OTHER`` besides.
    planned_kwh, used_kwh : float
        Over all slots.
    planned_slot, used_slot : int or None
        In which slot it began; None where it did not.
    cost : float
        What it added [currency].
    """

    name: str
    planned_kwh: float
    used_kwh: float
    planned_slot: int | None
    used_slot: int | None
    cost: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DayAfter:
    """What a plan was to cost and what the day did cost [currency], why, and how many slots the meter did not tell of."""

    planned_cost: float
    cost: float
    reasons: tuple[DayReason, ...]
    unknown_slots: int


SUN, OTHER = "Sun", "What else ran"


def day_after(
    problem: PlanProblem,
    plan: DayPlan,
    parts: Sequence[UsedPart],
    *,
    sun_kwh: Floats | None = None,
    net_kwh: Floats | None = None,
) -> DayAfter:
    """Return what a day came to against its plan.

    Parameters
    ----------
    parts : sequence of UsedPart
        Those of the plan that were measured, ``MOST_REASONS`` − 2 at most; every other is taken as planned.
    sun_kwh : (slot,) float array or None
        What the sun brought [kWh]; None or NaN: as expected.
    net_kwh : (slot,) float array or None
        What the meter took less what it gave [kWh]; None or NaN: what else runs is taken as expected.

    Raises
    ------
    OutOfRange
        With more parts than that.

    Notes
    -----
    docs/methods I9: a reason's cost is its mean over all orders in which the reasons could have come in (Shapley's
    value), so that none is paid for by another and their sum is the whole difference.
    """
    if len(parts) > MOST_REASONS - 2:
        raise OutOfRange("measured parts of a plan", len(parts), 0, MOST_REASONS - 2)
    planned = _planned_net(problem, plan)
    moved = [np.where(np.isnan(part.used_kwh), 0.0, part.used_kwh - part.planned_kwh) for part in parts]
    sun = problem.sun_kwh if sun_kwh is None else np.where(np.isnan(sun_kwh), problem.sun_kwh, sun_kwh)
    less_sun = problem.sun_kwh - sun
    known = np.zeros(problem.slots, dtype=bool) if net_kwh is None else ~np.isnan(net_kwh)
    other = np.zeros(problem.slots)
    if net_kwh is not None:
        other = np.where(known, net_kwh - planned - less_sun - sum(moved, np.zeros(problem.slots)), 0.0)
    deltas = [*moved, less_sun, other]
    costs = _shared_out(problem, planned, deltas)
    found = [
        DayReason(
            name=part.name,
            planned_kwh=float(part.planned_kwh.sum()),
            used_kwh=float((part.planned_kwh + delta).sum()),
            planned_slot=_begun(part.planned_kwh, 0.0),
            used_slot=_begun(part.planned_kwh + delta, LEAST_RUN * float(part.planned_kwh.sum())),
            cost=cost,
        )
        for part, delta, cost in zip(parts, moved, costs, strict=False)
    ]
    expected = float((problem.sun_kwh).sum()), float(problem.base_kwh.sum())
    for name, amount, change, cost in (
        (SUN, expected[0], -float(less_sun.sum()), costs[-2]),
        (OTHER, expected[1], float(other.sum()), costs[-1]),
    ):
        found.append(
            DayReason(
                name=name, planned_kwh=amount, used_kwh=amount + change, planned_slot=None, used_slot=None, cost=cost
            )
        )
    is_reason = [bool((np.abs(delta) > LEAST_KWH).any()) for delta in deltas]
    return DayAfter(
        planned_cost=_cost(problem, planned),
        cost=_cost(problem, planned + sum(deltas, np.zeros(problem.slots))),
        reasons=tuple(reason for reason, is_one in zip(found, is_reason, strict=True) if is_one),
        unknown_slots=int((~known).sum()),
    )


def _planned_net(problem: PlanProblem, plan: DayPlan) -> Floats:
    told = checked(problem, plan)
    net: Floats = np.array(told.imported_kwh) - np.array(told.exported_kwh)
    return net


def _cost(problem: PlanProblem, net: Floats) -> float:
    bought = np.maximum(net, 0.0)
    cost = float(bought @ problem.import_price - np.maximum(-net, 0.0) @ problem.export_price)
    if problem.peak is None:
        return cost
    counted: Flags = problem.peak.counted
    peak = float(bought[counted].max(initial=0.0)) / problem.hours
    return cost + problem.peak.price_per_kw * max(0.0, peak - problem.peak.so_far_kw)


def _shared_out(problem: PlanProblem, planned: Floats, deltas: Sequence[Floats]) -> list[float]:
    """Return each difference's mean cost over all orders."""
    count = len(deltas)
    costs = []
    for chosen in range(2**count):
        net = planned.copy()
        for place, delta in enumerate(deltas):
            if chosen >> place & 1:
                net += delta
        costs.append(_cost(problem, net))
    shares = [0.0] * count
    for chosen in range(2**count):
        size = chosen.bit_count()
        for place in range(count):
            if not chosen >> place & 1:
                weight = factorial(size) * factorial(count - size - 1) / factorial(count)
                shares[place] += weight * (costs[chosen | 1 << place] - costs[chosen])
    return shares


def _begun(kwh: Floats, least_kwh: float) -> int | None:
    """Return the slot in which a run had used a little of its energy; None where it used less than some."""
    total = float(kwh.sum())
    if total <= max(least_kwh, LEAST_KWH):
        return None
    return int(np.searchsorted(np.cumsum(kwh), BEGUN * total))
