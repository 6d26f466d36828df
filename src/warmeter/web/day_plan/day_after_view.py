"""The day after in words: what the plan was to cost, what the day did cost, and why."""

from dataclasses import dataclass

from warmeter.core.day_plan.day_after import OTHER, SUN, DayAfter, DayReason
from warmeter.core.day_plan.wanted import PlanTime
from warmeter.core.home.day_plans import PlannedDay
from warmeter.core.units import MIN_PER_H
from warmeter.web import format as show

LEAST_SHOWN = 0.005
# Amounts this near to each other need no word [share].
ALIKE = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class DayReasonRow:
    """A reason with its cost."""

    name: str
    words: str
    cost: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DayAfterView:
    """A plan against what was."""

    promised: str
    cost: str
    more: str
    rows: list[DayReasonRow]
    unknown: str


def day_after_view(found: DayAfter, planned: PlannedDay, time: PlanTime, currency: str) -> DayAfterView:
    """Return a day against its plan, what weighs most first; what changed in the expectation since then is a reason too."""
    rows = [
        DayReasonRow(
            name=reason.name, words=_words(reason, time), cost=show.money(reason.cost, currency, is_signed=True)
        )
        for reason in sorted(found.reasons, key=lambda each: -abs(each.cost))
    ]
    since = found.planned_cost - planned.cost
    if abs(since) >= LEAST_SHOWN:
        rows.append(
            DayReasonRow(
                name="Since it was planned",
                words="prices, like days, forecasts or pins have changed",
                cost=show.money(since, currency, is_signed=True),
            )
        )
    hours = found.unknown_slots * time.step_min / MIN_PER_H
    return DayAfterView(
        promised=show.money(planned.cost, currency),
        cost=show.money(found.cost, currency),
        more=show.money(found.cost - planned.cost, currency, is_signed=True),
        rows=rows,
        unknown=""
        if not hours
        else f"Of {show.number(hours, 2 if hours % 1 else 0)} h the meter told nothing: what else ran then is taken as expected.",
    )


def _words(reason: DayReason, time: PlanTime) -> str:
    amounts = f"{show.number(reason.planned_kwh, 1)} kWh expected, {show.number(reason.used_kwh, 1)}"
    if reason.name == SUN:
        return f"{amounts} came"
    if reason.name == OTHER and reason.used_kwh < 0:
        return f"{show.number(-reason.used_kwh, 1)} kWh of what was planned and not measured by itself did not run"
    if reason.name == OTHER:
        return f"{amounts} used"
    if reason.planned_slot is None:
        return f"{show.number(reason.used_kwh, 1)} kWh that were not planned"
    if reason.used_slot is None:
        return f"planned at {_clock(reason.planned_slot, time)}, did not run"
    if reason.used_slot != reason.planned_slot:
        moved = f"planned at {_clock(reason.planned_slot, time)}, ran at {_clock(reason.used_slot, time)}"
        is_alike = abs(reason.used_kwh - reason.planned_kwh) <= ALIKE * reason.planned_kwh
        return moved if is_alike else f"{moved}; {amounts} used"
    return f"{amounts} used"


def _clock(slot: int, time: PlanTime) -> str:
    return f"{time.clock.local(int(time.start_ms[slot])):%H:%M}"
