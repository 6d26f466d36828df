"""What is left out first where power must be saved: parts of a plan by the rank that a person gave them."""

from collections.abc import Mapping
from dataclasses import dataclass

from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.problem import DayPlan, PlanProblem


@dataclass(frozen=True, slots=True, kw_only=True)
class ShedPart:
    """A part that may be left out: what it draws at most, and how much all up to it draw together [kW]."""

    key: str
    name: str
    power_kw: float
    together_kw: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Shedding:
    """Above which power from the grid parts are left out, in which order [kW]."""

    above_kw: float
    parts: tuple[ShedPart, ...]


def shedding(problem: PlanProblem, plan: DayPlan, ranks: Mapping[str, int]) -> Shedding | None:
    """Return the order in which parts are left out, 1 first, above what the plan or the month so far has paid for.

    None without a demand charge or a main fuse, or without a part that has a rank. A run that has begun is never left
    out: only charges, stores and hours have ranks.
    """
    limits = []
    if problem.peak is not None:
        limits.append(max(problem.peak.so_far_kw, checked(problem, plan).peak_kw))
    if problem.import_cap_kwh is not None:
        limits.append(problem.import_cap_kwh / problem.hours)
    powers = {
        **{charge.key: max(charge.steps_kw) for charge in problem.charges},
        **{load.key: load.slot_kwh / problem.hours for load in problem.loads},
        **{store.key: store.power_kw for store in problem.stores},
    }
    names = {part.key: part.name for part in problem.parts()}
    order = sorted((key for key in powers if key in ranks), key=lambda key: (ranks[key], -powers[key]))
    if not limits or not order:
        return None
    parts, together = [], 0.0
    for key in order:
        together += powers[key]
        parts.append(ShedPart(key=key, name=names[key], power_kw=powers[key], together_kw=together))
    return Shedding(above_kw=min(limits), parts=tuple(parts))
