"""What a rule can look at: quantities, states, hours, dark, events, sequences and facts of the day.

Conditions are joined as *all of any*: every clause must hold, a clause holds where one of its conditions does.
A condition may name a part that is gone: the home loads, and the rule has a finding.
"""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.part import Document, Id, Word
from warmeter.core.home.timetables import Weekday

WEEK_S = 7 * 86_400
Seconds = Annotated[int, Ge(0), Le(WEEK_S)]
Minute = Annotated[int, Ge(0), Le(1439)]
Weekdays = Annotated[tuple[Weekday, ...], Len(0, 7)]
How = Literal["over", "under", "between"]
Does = Literal["runs", "finished", "idle", "left_on"]
Counts = Literal["started", "ended", "ran"]
Which = Literal["dark", "clock", "first", "last"]
EventKind = Literal["button", "tag", "statement"]
Amount = Annotated[float, Ge(-1e6), Le(1e6)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Signal(Document):
    """A quantity of a room, device or machine; without a subject that of outdoors or of the home."""

    quantity: Annotated[str, Len(1, 40)]
    subject_id: Id | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared(Document):
    """A quantity, or its difference from another, over, under or between values.

    It begins at the value, inclusive, and ends ``hysteresis`` beyond it; ``high`` only counts for between. Values
    and hysteresis in the quantity's stored unit.
    """

    of: Signal
    how: How
    value: Amount
    high: Amount | None = None
    hysteresis: Annotated[float, Ge(0), Le(1e6)] = 0.0
    minus: Signal | None = None
    kind: Literal["compared"] = "compared"

    def __post_init__(self) -> None:
        if self.how == "between" and (self.high is None or self.high < self.value):
            raise HomeError("between needs a lower and a higher value")


@dataclass(frozen=True, slots=True, kw_only=True)
class Moving(Document):
    """A quantity rising or falling by so much within so long [s]."""

    of: Signal
    how: Literal["rising", "falling"]
    by: Annotated[float, Gt(0), Le(1e6)]
    within_s: Annotated[int, Ge(1), Le(WEEK_S)]
    minus: Signal | None = None
    kind: Literal["moving"] = "moving"


@dataclass(frozen=True, slots=True, kw_only=True)
class InState(Document):
    """A contact, motion, leak or presence sensor that says yes (open, moving, wet, in) or no."""

    of: Signal
    is_on: bool = True
    kind: Literal["state"] = "state"


@dataclass(frozen=True, slots=True, kw_only=True)
class Silent(Document):
    """Nothing was heard for so long [s]."""

    of: Signal
    for_s: Annotated[int, Ge(1), Le(WEEK_S)]
    kind: Literal["silent"] = "silent"


@dataclass(frozen=True, slots=True, kw_only=True)
class Hours(Document):
    """Clock times [from, until) by the home's clock, over midnight where until is not later; equal is all day.

    ``weekdays`` are those on which the stretch begins, 0 Monday; none means all.
    """

    from_min: Minute
    until_min: Minute
    weekdays: Weekdays = ()
    kind: Literal["hours"] = "hours"


@dataclass(frozen=True, slots=True, kw_only=True)
class AtTime(Document):
    """A moment of the day by the home's clock."""

    at_min: Minute
    weekdays: Weekdays = ()
    kind: Literal["at_time"] = "at_time"


@dataclass(frozen=True, slots=True, kw_only=True)
class Dates(Document):
    """Calendar dates of every year, both ends included, over the new year where the end is earlier."""

    from_month: Annotated[int, Ge(1), Le(12)]
    from_day: Annotated[int, Ge(1), Le(31)]
    until_month: Annotated[int, Ge(1), Le(12)]
    until_day: Annotated[int, Ge(1), Le(31)]
    kind: Literal["dates"] = "dates"


@dataclass(frozen=True, slots=True, kw_only=True)
class Dark(Document):
    """The sun's height below an angle [°], or not."""

    is_dark: bool = True
    below_deg: Annotated[float, Ge(-18), Le(60)] = -0.833
    kind: Literal["dark"] = "dark"


@dataclass(frozen=True, slots=True, kw_only=True)
class Evening(Document):
    """From dark, a clock time, or the first or last of both, until a clock time of the next date."""

    which: Which = "dark"
    clock_min: Annotated[int, Ge(720), Le(1439)] | None = None
    until_min: Annotated[int, Ge(0), Le(720)] = 390
    below_deg: Annotated[float, Ge(-18), Le(60)] = -0.833
    kind: Literal["evening"] = "evening"

    def __post_init__(self) -> None:
        if self.which != "dark" and self.clock_min is None:
            raise HomeError("an evening by the clock needs a clock time")


@dataclass(frozen=True, slots=True, kw_only=True)
class Happens(Document):
    """A button pressed, a tag shown, or something that a person states; ``word`` says which."""

    event: EventKind
    word: Word = ""
    subject_id: Id | None = None
    kind: Literal["happens"] = "happens"


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineDoes(Document):
    """What a machine does by its power and the setting in use for it; finished is a moment."""

    appliance_id: Id
    does: Does
    kind: Literal["machine"] = "machine"


@dataclass(frozen=True, slots=True, kw_only=True)
class RanToday(Document):
    """Whether a machine has started, ended or run at least so long since the day's reset hour."""

    appliance_id: Id
    counts: Counts = "ran"
    least_s: Seconds = 0
    reset_min: Minute = 240
    has: bool = True
    kind: Literal["ran_today"] = "ran_today"


@dataclass(frozen=True, slots=True, kw_only=True)
class Fact(Document):
    """A fact that a person or a rule has marked; with a reset hour it is forgotten then."""

    word: Annotated[str, Len(1, 80)]
    is_true: bool = True
    reset_min: Minute | None = None
    kind: Literal["fact"] = "fact"


@dataclass(frozen=True, slots=True, kw_only=True)
class AtLevel(Document):
    """A zone's timetable is at one of some levels, or at none of them."""

    zone_id: Id
    level_ids: Annotated[tuple[Id, ...], Len(1, 30)]
    is_at: bool = True
    kind: Literal["level"] = "level"


Single = (
    Compared
    | Moving
    | InState
    | Silent
    | Hours
    | AtTime
    | Dates
    | Dark
    | Evening
    | Happens
    | MachineDoes
    | RanToday
    | Fact
    | AtLevel
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sequence(Document):
    """``first`` begins, then ``then`` within so long, unless ``unless`` within so long after that [s].

    Without ``cancel_s`` it is told at once and nothing cancels it. ``repeat`` says whether a second ``first``
    counts anew ("latest") or is ignored while the earlier one is still fresh ("first").
    """

    first: Single
    then: Single
    within_s: Seconds
    unless: Single | None = None
    cancel_s: Seconds | None = None
    repeat: Literal["latest", "first"] = "latest"
    kind: Literal["sequence"] = "sequence"


Condition = Single | Sequence
Clause = Annotated[tuple[Condition, ...], Len(1, 12)]
Clauses = Annotated[tuple[Clause, ...], Len(0, 12)]


def is_moment(condition: Condition) -> bool:
    """Return whether a condition holds for a moment only (one second), not for a stretch."""
    return isinstance(condition, AtTime | Happens | Sequence) or (
        isinstance(condition, MachineDoes) and condition.does == "finished"
    )


def signals_of(condition: Condition) -> tuple[Signal, ...]:
    """Return the signals that a condition looks at, those of a sequence's parts too."""
    if isinstance(condition, Sequence):
        parts = (condition.first, condition.then, condition.unless)
        return tuple(signal for part in parts if part is not None for signal in signals_of(part))
    if isinstance(condition, Compared | Moving):
        return (condition.of,) if condition.minus is None else (condition.of, condition.minus)
    return (condition.of,) if isinstance(condition, InState | Silent) else ()
