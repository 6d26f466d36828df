"""Changes by hand as lines, proposals with their evidence, and the rule of a zone."""

from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.timetable.compare import name_of_key
from warmeter.core.timetable.manual_overrides import Habit, hand_range_c
from warmeter.core.units import MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.timetable.manual_overrides import KeptChange, kept_changes, proposals
from warmeter.web import format as show

MOST_LISTED = 60
ENDS = {"next": "at the next change point", "for": "after", "until": "at", "empty": "when the room is empty for"}


def habit_key(zone_id: str, kind_id: str, start_min: int) -> str:
    """Return what a form names a proposal by."""
    return f"{zone_id}.{kind_id}.{start_min}"


@dataclass(frozen=True, slots=True, kw_only=True)
class HandRow:
    """A change by hand: what it asked, since and until when, by whom, why, and whether it holds now."""

    number: int
    zone_id: str
    zone: str
    asked: str
    was: str
    begin: str
    end: str
    empty: str
    by: str
    reason: str
    holds: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class HabitRow:
    """A proposal for the timetable with its evidence."""

    key: str
    sentence: str
    evidence: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class HandView:
    """The pane by hand."""

    rows: list[HandRow]
    habits: list[HabitRow]
    zones: list[tuple[str, str]]
    zone: Zone
    ends: dict[str, str]
    range: str
    unit: str
    step: str
    low: str
    high: str
    now: str


def hand_view(app: App, home: Home, zone: Zone) -> HandView:
    """Return the pane for a home, its form set to a zone."""
    unit, clock = show.temperature_unit(home), app.clock(home)
    low, high = hand_range_c(home, zone)
    as_of = app.as_of_ms(home.id)

    def text(value: float | None) -> str:
        return "" if value is None else show.temperature(value, home)

    return HandView(
        rows=[_row(app, home, kept, as_of) for kept in kept_changes(app, home)[:MOST_LISTED]],
        habits=[_habit(app, home, habit) for habit in proposals(app, home)],
        zones=[(z.id, z.name) for z in home.zones],
        zone=zone,
        ends=ENDS,
        range=f"{show.temperature(low, home)} to {show.temperature(high, home)} {unit}",
        unit=unit,
        step=f"{show.difference(zone.hand.step_k, home)} {show.difference_unit(home)}",
        low=text(zone.hand.low_c),
        high=text(zone.hand.high_c),
        now=show.clock_now(as_of, clock),
    )


def _row(app: App, home: Home, kept: KeptChange, as_of: int) -> HandRow:
    change, clock = kept.change, app.clock(home)
    zone = next((z.name for z in home.zones if z.id == change.zone_id), "a zone that is gone")
    return HandRow(
        number=kept.id,
        zone_id=change.zone_id,
        zone=zone,
        asked=show.temperature(change.value_c, home),
        was="" if change.was_c is None else show.temperature(change.was_c, home),
        begin=show.moment(change.at_ms, clock, home.country),
        end=show.moment(kept.ended_ms, clock, home.country),
        empty="" if change.empty_ms is None else f"or empty for {show.duration(change.empty_ms / MS_PER_MIN)}",
        by=change.by,
        reason=change.reason,
        holds=change.at_ms <= as_of < kept.ended_ms,
    )


def _habit(app: App, home: Home, habit: Habit) -> HabitRow:
    clock, unit = app.clock(home), show.temperature_unit(home)
    kind = f" on days of the kind {name_of_key(home, habit.kind_id)}" if habit.kind_id else ""
    sentence = (
        f"{home.zone_of_id(habit.zone_id).name} was set by hand to about {show.temperature(habit.setpoint_c, home)} "
        f"{unit} around {show.clock_time(habit.start_min)} on {len(habit.changes)} of {habit.days_seen} days{kind}. "
        f"Let the timetable ask it from {show.clock_time(habit.start_min)} to {show.clock_time(habit.end_min)}."
    )
    evidence = [
        f"{show.moment(c.at_ms, clock, home.country)}: {show.temperature(c.value_c, home)} {unit}, {c.by or 'somebody'}"
        for c in habit.changes
    ]
    return HabitRow(key=habit_key(habit.zone_id, habit.kind_id, habit.start_min), sentence=sentence, evidence=evidence)
