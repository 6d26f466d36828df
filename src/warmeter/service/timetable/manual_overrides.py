"""Changes by hand of a home: kept as events, listed with what became of them, proposed for the timetable."""

from dataclasses import dataclass

from pydantic import TypeAdapter

from warmeter.core.claims.arbiter import Claim
from warmeter.core.claims.timeline import hand_claims
from warmeter.core.edits.timetable_edits import with_points, with_timetable
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.home.zones import Zone
from warmeter.core.timegrid import from_ms
from warmeter.core.timetable.calendar import USUAL, timetable_on
from warmeter.core.timetable.day import blocks_between
from warmeter.core.timetable.manual_overrides import (
    LONGEST_MS,
    Habit,
    HandChange,
    HandEnd,
    habits_of,
    hand_change,
    stepped_c,
)
from warmeter.core.timetable.points import tidy, with_block
from warmeter.service.app import App, Person

KIND = "by_hand"
# No change by hand is longer; older ones cannot reach into a stretch.
_ADAPTER = TypeAdapter(HandChange)


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptChange:
    """A change by hand with its event's number and the end that it came or will come to [ms UTC]."""

    id: int
    change: HandChange
    ended_ms: int


def changes_of(app: App, home_id: str) -> list[tuple[int, HandChange]]:
    """Return a home's changes by hand and their releases with their numbers, in order of time."""
    events = app.events.of_kind(home_id, KIND)
    return [(event.id, change_from_json(event.detail)) for event in events]


def change_from_json(text: str) -> HandChange:
    """Return a change by hand as its event keeps it; pydantic's ``ValidationError`` if it is none."""
    return _ADAPTER.validate_json(text)


def claims_by_hand(changes: list[HandChange], zone: Zone, start_ms: int, end_ms: int) -> tuple[Claim, ...]:
    """Return a zone's changes by hand that touch [start, end) as claims."""
    mine = [c.happening() for c in changes if c.zone_id == zone.id and start_ms - LONGEST_MS <= c.at_ms < end_ms]
    if not mine:
        return ()
    since = min(start_ms, *(h.at_ms for h in mine))
    held = hand_claims(mine, room="not_known", start_ms=since, end_ms=end_ms)
    return tuple(c for c in held if c.until_ms is None or c.until_ms > start_ms)


def kept_changes(app: App, home: Home) -> list[KeptChange]:
    """Return all changes by hand, newest first, with the ends that they came to."""
    rows = changes_of(app, home.id)
    found = []
    for number, change in rows:
        if change.is_release:
            continue
        later = [c.at_ms for _, c in rows if c.zone_id == change.zone_id and c.at_ms > change.at_ms]
        ends = [*([change.until_ms] if change.until_ms is not None else []), *later]
        found.append(KeptChange(id=number, change=change, ended_ms=min(ends, default=change.at_ms)))
    return sorted(found, key=lambda k: (k.change.at_ms, k.id), reverse=True)


def asked_c(app: App, home: Home, zone: Zone, at_ms: int) -> float:
    """Return what is asked of a zone at an instant: a change by hand, else the timetable [°C]."""
    changes = [change for _, change in changes_of(app, home.id)]
    held = claims_by_hand(changes, zone, at_ms, at_ms + 1)
    if held:
        return held[-1].value
    blocks = blocks_between(home, zone, app.clock(home), at_ms, at_ms + 1)
    return next(block.setpoint_c for block in blocks if block.from_ms <= at_ms < block.until_ms)


def lay_by_hand(
    app: App,
    home: Home,
    revision: int,
    zone_id: str,
    person: Person,
    *,
    at_ms: int,
    end: HandEnd,
    value_c: float | None = None,
    steps: int = 0,
    reason: str = "",
) -> HandChange:
    """Keep a change by hand: to a setpoint, or so many steps warmer or cooler than what is asked.

    Raises
    ------
    HomeError
        If it lies outside the zone's range, or would end before it begins.
    """
    zone = home.zone_of_id(zone_id)
    now = asked_c(app, home, zone, at_ms)
    change = hand_change(
        home,
        zone,
        app.clock(home),
        at_ms=at_ms,
        value_c=stepped_c(home, zone, now, steps) if value_c is None else value_c,
        end=end,
        was_c=now,
        by=person.name,
        reason=reason,
    )
    app.events.add(home.id, KIND, zone_id, at_ms, _ADAPTER.dump_json(change).decode(), revision)
    return change


def end_by_hand(app: App, home: Home, revision: int, zone_id: str, person: Person, at_ms: int) -> None:
    """Keep the end of a zone's change by hand before its term: what stands below decides from then on."""
    zone = home.zone_of_id(zone_id)
    release = HandChange(zone_id=zone.id, at_ms=at_ms, by=person.name, is_release=True)
    app.events.add(home.id, KIND, zone_id, at_ms, _ADAPTER.dump_json(release).decode(), revision)


def forget_by_hand(app: App, home_id: str, number: int) -> None:
    """Remove a change by hand that was typed by mistake; ``HomeError`` if it is not there."""
    if not app.events.remove(home_id, number, KIND):
        raise HomeError("this change by hand is not there any more")


def proposals(app: App, home: Home) -> list[Habit]:
    """Return what was changed by hand again and again, and is not yet asked by the timetable."""
    changes = [change for _, change in changes_of(app, home.id)]
    found = habits_of(home, app.clock(home), changes, app.as_of_ms(home.id))
    return [habit for habit in found if with_habit(home, habit) != home]


def with_habit(home: Home, habit: Habit) -> Home:
    """Return a home whose timetable asks by itself what was asked by hand again and again."""
    zone = home.zone_of_id(habit.zone_id)
    on = from_ms(habit.changes[-1].at_ms).date()
    timetable = timetable_on(zone, on)
    key = habit.kind_id if habit.kind_id and timetable.profile(habit.kind_id) is not None else USUAL
    profile = timetable.profile(key)
    points = timetable.usual if profile is None else profile.points
    held_before = points[-1]
    held = [p for p in points if p.start_min <= habit.start_min]
    level_id = (held[-1] if held else held_before).level_id
    block = ChangePoint(start_min=habit.start_min, level_id=level_id, own_setpoint_c=habit.setpoint_c)
    end = habit.end_min if habit.end_min > habit.start_min else 1440
    changed = tidy(with_block(points, held_before, block, end))
    return home if changed == points else with_timetable(home, zone, with_points(timetable, key, changed))
