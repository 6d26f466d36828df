"""A plan handed to people: events of a calendar, and what to press on delay buttons."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from math import floor

from icalendar import Calendar, Event

from warmeter.core.day_plan.problem import DayPlan, PlanProblem
from warmeter.core.day_plan.wanted import PlanTime
from warmeter.core.timegrid import from_ms
from warmeter.core.units import MIN_PER_H, MS_PER_H, MS_PER_MIN


def runs_ical(home_id: str, problem: PlanProblem, plan: DayPlan, time: PlanTime) -> bytes:
    """Return the runs of a plan as an iCalendar file, an event each, in UTC."""
    calendar = Calendar()
    calendar.add("prodid", "-//Warmeter//plan of the day//EN")
    calendar.add("version", "2.0")
    for run in problem.runs:
        start = from_ms(int(time.start_ms[0])) + timedelta(minutes=plan.starts[run.key] * time.step_min)
        event = Event()
        event.add("uid", f"{home_id}-{time.on}-{run.key}@warmeter")
        event.add("summary", run.name)
        event.add("dtstamp", from_ms(int(time.start_ms[0])))
        event.add("dtstart", start)
        event.add("dtend", start + timedelta(minutes=run.slots * time.step_min))
        calendar.add_component(event)
    return bytes(calendar.to_ical())


@dataclass(frozen=True, slots=True, kw_only=True)
class DelayRow:
    """A run's start on the clock, and for each hour of the evening before and the day what to press: hours of delay.

    ``presses`` are (when it is filled, hours to press, when it then starts), where the button counts whole steps.
    """

    name: str
    starts_at: str
    ends_at: str
    presses: tuple[tuple[str, str, str], ...]


def delay_rows(problem: PlanProblem, plan: DayPlan, time: PlanTime, steps_min: Mapping[str, int]) -> list[DelayRow]:
    """Return what to press for each run, if the machine is filled at some hours before its start."""
    rows = []
    for run in problem.runs:
        start_ms = int(time.start_ms[0]) + plan.starts[run.key] * time.step_min * MS_PER_MIN
        step = max(steps_min.get(run.key, MIN_PER_H), 1)
        presses = []
        for before_h in (12, 10, 8, 6, 4, 2, 1):
            filled = time.clock.local(start_ms - before_h * MS_PER_H)
            rounded = floor(before_h * MIN_PER_H / step) * step
            begins = time.clock.local(start_ms - before_h * MS_PER_H + rounded * MS_PER_MIN)
            if rounded:
                presses.append((f"{filled:%H:%M}", f"{rounded / MIN_PER_H:g} h", f"{begins:%H:%M}"))
        rows.append(
            DelayRow(
                name=run.name,
                starts_at=f"{time.clock.local(start_ms):%a %H:%M}",
                ends_at=f"{time.clock.local(start_ms + run.slots * time.step_min * MS_PER_MIN):%a %H:%M}",
                presses=tuple(presses),
            )
        )
    return rows
