"""The roll-out of a home's tasks by phase: what each phase costs and takes, what waits and since when."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from itertools import groupby

from warmeter.core.home.document import Home
from warmeter.core.home.tasks import Task


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskPhase:
    """A phase's tasks in the order of their priority, open ones first, and what is left of it.

    ``price`` and ``hours`` are sums of what is open and has one; ``unpriced`` and ``untimed`` count those without.
    """

    number: int
    tasks: tuple[Task, ...]
    price: Decimal
    hours: float
    unpriced: int
    untimed: int
    done: int


def phases_of(home: Home) -> list[TaskPhase]:
    """Return a home's tasks by phase."""
    ordered = sorted(home.tasks, key=lambda t: (t.phase, t.done_on is not None, t.priority, t.what))
    found = []
    for number, group in groupby(ordered, key=lambda t: t.phase):
        tasks = tuple(group)
        left = [t for t in tasks if t.done_on is None]
        found.append(
            TaskPhase(
                number=number,
                tasks=tasks,
                price=sum((t.price for t in left if t.price is not None), Decimal(0)),
                hours=sum(t.hours for t in left if t.hours is not None),
                unpriced=sum(t.price is None for t in left),
                untimed=sum(t.hours is None for t in left),
                done=len(tasks) - len(left),
            )
        )
    return found


def waiting_for(home: Home, today: date) -> list[tuple[Task, int]]:
    """Return tasks that wait for somebody, with the days until they are due (below 0 past it), the most urgent first.

    One without a day by which it is due counts the days since it was asked, and comes after those with one.
    """
    open_ones = [t for t in home.tasks if t.done_on is None and t.asked]
    dated = [(t, (t.due_on - today).days) for t in open_ones if t.due_on is not None]
    undated = [(t, (today - t.asked_on).days if t.asked_on is not None else 0) for t in open_ones if t.due_on is None]
    return [*sorted(dated, key=lambda each: each[1]), *sorted(undated, key=lambda each: -each[1])]
