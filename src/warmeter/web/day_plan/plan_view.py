"""A plan of the day in words: where it stands, why each run is where it is, what each constraint costs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from warmeter.core.day_plan.check import CheckedPlan, part_cost
from warmeter.core.day_plan.plan_rules import SAFETY, OtherStart
from warmeter.core.day_plan.problem import DayPlan, PlanProblem
from warmeter.core.day_plan.shedding import Shedding
from warmeter.core.home.day_plans import PlannedDay, PlannedRule
from warmeter.web import format as show
from warmeter.web.day_plan.plan_lanes import PlanLanes

BREAK_WORDS: Mapping[str, str] = {
    "window": "outside of its time",
    "quiet": "in quiet hours",
    "after": "against its order",
    "apart": "beside another that it is kept apart from",
    "circuit": "over its circuit's limit",
    "main fuse": "over the main fuse",
}
RULE_WORDS: Mapping[str, str] = {
    "earliest": "{} not before its time",
    "deadline": "{} ready by its deadline",
    "quiet": "quiet hours for {}",
    "pinned": "{} pinned",
    "after": "{} after the run before it",
    "apart": "runs kept apart",
    "circuit": "circuit {}",
    "main fuse": "main fuse",
    "amount": "{} charged in full",
    "low": "{} warm enough",
    "high": "{} never too hot",
    "damp": "{} no damper than its band",
    "dry": "{} no drier than its band",
    "hygiene": "{} heated for hygiene",
    "reserve": "what is left in the battery",
    "warmth": "a kelvin of warmth in {}",
    "ceiling": "{} warmed ahead no further, a kelvin",
}
FEW_OTHERS, LEAST_SHOWN = 4, 0.005
LEAST_SOLD = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherRow:
    """Another start: when, what is against it, and how much more the whole plan would cost."""

    at: str
    why_not: str
    more: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ConstraintRow:
    """A rule that holds the plan, and what the plan would cost less without it."""

    name: str
    saves: str
    is_safety: bool
    title: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class AgainstRow:
    """A figure of habit, of the plan, and the change."""

    name: str
    habit: str
    plan: str
    change: str
    unit: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ShedRow:
    """A part that is left out where power must be saved, with its power and that of all up to it."""

    name: str
    power: str
    together: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenRun:
    """The run that is looked at."""

    key: str
    name: str
    when: str
    cost: str
    habit: str
    why: str
    others: list[OtherRow]
    is_pinned: bool


def rule_name(rule: PlannedRule, names: Mapping[str, str]) -> str:
    """Return a rule in words, by the names of its part or circuit."""
    return RULE_WORDS.get(rule.kind, rule.kind).format(names.get(rule.key, ""))


def rule_rows(planned: PlannedDay, names: Mapping[str, str], currency: str) -> list[ConstraintRow]:
    """Return what each rule costs, those that cost nothing in one row."""
    costing = [rule for rule in planned.rules if rule.saves is None or rule.saves >= LEAST_SHOWN]
    rows = [
        ConstraintRow(
            name=rule_name(rule, names),
            saves="not known" if rule.saves is None else show.money(rule.saves, currency),
            is_safety=rule.kind in SAFETY,
        )
        for rule in costing
    ]
    free = [rule_name(rule, names) for rule in planned.rules if rule not in costing]
    if free:
        rows.append(
            ConstraintRow(
                name=f"{len(free)} other{'s' * (len(free) != 1)}",
                saves=show.money(0.0, currency),
                is_safety=False,
                title=", ".join(free),
            )
        )
    return rows


def shed_rows(order: Shedding) -> list[ShedRow]:
    """Return what is left out first."""
    return [
        ShedRow(name=part.name, power=show.number(part.power_kw, 1), together=show.number(part.together_kw, 1))
        for part in order.parts
    ]


def clash_words(planned: PlannedDay, names: Mapping[str, str]) -> str:
    """Return why nothing fits: the fewest rules that cannot be kept together."""
    parts = [rule_name(rule, names) for rule in planned.rules]
    if not parts:
        return "Nothing fits, and not even dropping every rule would help: less must be wanted."
    if len(parts) == 1:
        return f"Nothing fits: {parts[0]} cannot be kept with what is wanted. Give it up, or want less."
    return f"Nothing fits: {', '.join(parts[:-1])} and {parts[-1]} cannot be kept together. Give one of them up."


def chosen_run(
    key: str,
    problem: PlanProblem,
    plan: DayPlan,
    habit: DayPlan,
    starts: Sequence[OtherStart],
    lanes: PlanLanes,
    currency: str,
) -> ChosenRun:
    """Return a run with what its other starts would cost and why it stands where it does."""
    run, at = problem.run(key), plan.starts[key]
    ranked = sorted(starts, key=lambda start: start.more)
    cheaper = next((s for s in ranked if s.breaks and s.more < -0.005), None)
    free = [s for s in ranked if not s.breaks and s.slot != at]
    if run.pinned is not None:
        why = "It is pinned: a person set its start."
    elif cheaper is not None:
        words = ", ".join(BREAK_WORDS.get(each, each) for each in cheaper.breaks)
        why = f"At {lanes.clock(cheaper.slot)} it would cost {show.money(-cheaper.more, currency)} less, but that is {words}."
    elif free and free[0].more < -0.005:
        why = (
            f"At {lanes.clock(free[0].slot)} it would now cost {show.money(-free[0].more, currency)} less: plan again."
        )
    else:
        why = "No other start that it may have costs less."
    picked = [s for s in ranked if s.slot != at][:2] + [s for s in ranked if s.slot != at][-2:]
    others = [
        OtherRow(
            at=lanes.clock(s.slot),
            why_not=", ".join(BREAK_WORDS.get(each, each) for each in s.breaks),
            more=show.money(s.more, currency, is_signed=True),
        )
        for s in sorted({s.slot: s for s in picked}.values(), key=lambda s: s.slot)
    ]
    return ChosenRun(
        key=key,
        name=run.name,
        when=f"{lanes.clock(at)} to {lanes.clock(at + run.slots)}",
        cost=show.money(part_cost(problem, plan, key), currency),
        habit=f"habit, {lanes.clock(habit.starts[key])}: {show.money(part_cost(problem, habit, key), currency)}",
        why=why,
        others=others[:FEW_OTHERS],
        is_pinned=run.pinned is not None,
    )


def against_habit(problem: PlanProblem, told: CheckedPlan, usual: CheckedPlan, currency: str) -> list[AgainstRow]:
    """Return the plan's figures beside those of habit."""
    rows = [
        ("Cost", usual.cost, told.cost, show.currency_sign(currency), 2),
        ("From grid", sum(usual.imported_kwh), sum(told.imported_kwh), "kWh", 1),
    ]
    if max(sum(usual.exported_kwh), sum(told.exported_kwh)) > LEAST_SOLD:
        rows.append(("Sold", sum(usual.exported_kwh), sum(told.exported_kwh), "kWh", 1))
    rows.append(
        ("Highest slot", max(usual.imported_kwh) / problem.hours, max(told.imported_kwh) / problem.hours, "kW", 2)
    )
    return [
        AgainstRow(
            name=name,
            habit=show.number(habit, decimals),
            plan=show.number(plan, decimals),
            change=show.number(plan - habit, decimals, is_signed=True),
            unit=unit,
        )
        for name, habit, plan, unit, decimals in rows
    ]
