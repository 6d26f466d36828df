"""Tasks as ready strings: the roll-out by phase, what waits for somebody."""

from dataclasses import dataclass
from datetime import date

from warmeter.core.explain.roll_out import phases_of, waiting_for
from warmeter.core.home.document import Home
from warmeter.core.home.part import HasId
from warmeter.core.home.tasks import Task
from warmeter.core.wording import day_short
from warmeter.web import format as show

SOON_DAYS = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskRow:
    """A task in its phase."""

    task: Task
    about: str
    price: str
    hours: str
    asked: str
    due: str
    is_late: bool
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PhaseView:
    """A phase with its tasks and its sums."""

    number: int
    rows: list[TaskRow]
    sums: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WaitRow:
    """What waits for somebody."""

    id: str
    what: str
    asked: str
    since: str
    chased: str
    due: str
    is_late: bool
    is_soon: bool


def phase_views(home: Home, today: date, at: str) -> list[PhaseView]:
    """Return the roll-out by phase."""
    found = []
    for phase in phases_of(home):
        left = len(phase.tasks) - phase.done
        parts = [f"{left} open, {phase.done} done"]
        if left:
            priced = f" and {phase.unpriced} without a price" if phase.unpriced else ""
            timed = f" and {phase.untimed} without hours" if phase.untimed else ""
            parts += [f"{show.money(phase.price, home.currency, 0)}{priced}", f"{phase.hours:g} h{timed}"]
        rows = [_row(home, task, today, task.id == at) for task in phase.tasks]
        found.append(PhaseView(number=phase.number, rows=rows, sums="; ".join(parts)))
    return found


def _row(home: Home, task: Task, today: date, is_on: bool) -> TaskRow:
    return TaskRow(
        task=task,
        about=name_of(home, task.about_id),
        price="" if task.price is None else show.money(task.price, home.currency, 0),
        hours="" if task.hours is None else f"{task.hours:g}",
        asked=task.asked,
        due=day_short(task.done_on, home.country)
        if task.done_on is not None
        else ""
        if task.due_on is None
        else day_short(task.due_on, home.country),
        is_late=task.done_on is None and task.due_on is not None and task.due_on < today,
        is_on=is_on,
    )


def wait_rows(home: Home, today: date) -> list[WaitRow]:
    """Return what waits for somebody, the most urgent first."""
    rows = []
    for task, days in waiting_for(home, today):
        dated = task.due_on is not None
        late, soon = dated and days < 0, dated and 0 <= days <= SOON_DAYS
        told = f"{-days} days late" if late else "today" if dated and days == 0 else f"in {days} days"
        rows.append(
            WaitRow(
                id=task.id,
                what=task.what,
                asked=task.asked,
                since="" if task.asked_on is None else day_short(task.asked_on, home.country),
                chased=", ".join(day_short(day, home.country) for day in task.chased_on),
                due=f"{day_short(task.due_on, home.country)}, {told}" if task.due_on is not None else "no day named",
                is_late=late,
                is_soon=soon,
            )
        )
    return rows


def named_parts(home: Home) -> list[tuple[str, str]]:
    """Return rooms, devices, heaters and circuits that a task can be about, by name."""
    groups: tuple[tuple[HasId, ...], ...] = (home.rooms, home.devices, home.heaters, home.circuits, home.water_points)
    return [(part.id, str(getattr(part, "name", part.id))) for group in groups for part in group]


def name_of(home: Home, part_id: str | None) -> str:
    """Return the name of a part, "" if it is not there."""
    return dict(named_parts(home)).get(part_id or "", "")
