"""Tasks of a home: what is to be done, in which phase, at what price, who was asked and until when."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated

from annotated_types import Ge, Le, Len

from warmeter.core.home.part import Document, Id, Name, Text, Word


@dataclass(frozen=True, slots=True, kw_only=True)
class Task(Document):
    """Something to be done.

    ``phase`` orders the roll-out, ``priority`` the tasks of a phase, 1 the first. ``price`` and ``hours`` are what it
    takes. It waits for ``asked`` from ``asked_on`` until ``due_on``; ``chased_on`` are the dates on which somebody asked
    again; ``proof`` is what shows that it was done on ``done_on``: a number, a name, where the paper lies.
    """

    id: Id
    what: Name
    about_id: Id | None = None
    phase: Annotated[int, Ge(1), Le(20)] = 1
    priority: Annotated[int, Ge(1), Le(99)] = 1
    price: Annotated[Decimal, Ge(0), Le(10_000_000)] | None = None
    hours: Annotated[float, Ge(0), Le(10_000)] | None = None
    asked: Word = ""
    asked_on: date | None = None
    due_on: date | None = None
    chased_on: Annotated[tuple[date, ...], Len(0, 50)] = ()
    proof: Text = ""
    done_on: date | None = None
