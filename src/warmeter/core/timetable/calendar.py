"""Which timetable and which written day hold on a date, and what goes on from the day before."""

from dataclasses import dataclass, replace
from datetime import date, timedelta

from warmeter.core.home.document import Home
from warmeter.core.home.occasions import Occasion, occasion_holds
from warmeter.core.home.timetables import WEEKDAYS, ChangePoint, DayKind, Points, Timetable
from warmeter.core.home.zones import Zone
from warmeter.core.units import MIN_PER_DAY

USUAL = "usual"
# A day without points lets the one before go on; so many days back the search ends at the usual day.
MOST_BACK = 14


@dataclass(frozen=True, slots=True)
class WrittenDay:
    """The day that holds on a date: its timetable, its key there (``USUAL`` for the usual day) and its points."""

    timetable: Timetable
    key: str
    points: Points


def timetable_on(zone: Zone, on: date) -> Timetable:
    """Return the timetable of a date: the last entry of the calendar that holds, else the first timetable."""
    held = [period for period in zone.calendar if period.holds_on(on)]
    return zone.timetable(held[-1].timetable_id) if held else zone.timetables[0]


def kind_on(home: Home, on: date) -> DayKind | None:
    """Return a date's kind of day: as noted, else by an occasion, else the first kind that its weekday is of."""
    special = _differs(home, on)
    for kind in home.day_kinds:
        if kind.id == special or (special is None and on.weekday() in kind.weekdays):
            return kind
    return None


def _differs(home: Home, on: date, without: Occasion | None = None) -> str | None:
    """Return the kind of day that a date is of other than by its weekday: as noted for it, else by the last occasion."""
    noted = next((s.kind_id for s in reversed(home.special_days) if s.on == on), None)
    if noted is not None:
        return noted
    occasion = occasion_on(home, on, without)
    return None if occasion is None else occasion.kind_id


def _is_noted(home: Home, on: date) -> bool:
    return any(special.on == on for special in home.special_days)


def occasion_on(home: Home, on: date, without: Occasion | None = None) -> Occasion | None:
    """Return the occasion that decides of which kind a date is: the last in the list that holds and names a kind.

    ``without`` is one that does not count.
    """
    kinds = [o for o in reversed(home.occasions) if o.kind_id is not None and o is not without]
    return next((o for o in kinds if occasion_holds(home.occasions, o, on)), None)


def holding_on(home: Home, on: date) -> list[Occasion]:
    """Return the occasions of a date in the order of the list, those that leave it out not among them."""
    return [occasion for occasion in home.occasions if occasion_holds(home.occasions, occasion, on)]


def keys_on(home: Home, on: date, without: Occasion | None = None) -> tuple[str, ...]:
    """Return the keys that a date's day may be written under, the closest first; ``without`` an occasion as if it were not."""
    differs = _differs(home, on, without)
    own = [] if differs is None else [differs]
    by_weekday = [kind.id for kind in home.day_kinds if on.weekday() in kind.weekdays][:1]
    return (on.isoformat(), *own, WEEKDAYS[on.weekday()], *by_weekday, USUAL)


def day_written(home: Home, timetable: Timetable, on: date) -> WrittenDay:
    """Return the day of a timetable for a date.

    Its date if that is written apart, else the date's kind, its weekday, its weekday's kind, the usual day. Where an
    occasion begins or ends within the date, the day is written for the date: as its kind within, as else without.
    """
    whole = _whole_day(timetable, keys_on(home, on))
    occasion = occasion_on(home, on)
    if occasion is None or whole.key == on.isoformat() or _is_noted(home, on):
        return whole
    leave_min = occasion.leave_min if on == occasion.from_date else None
    back_min = occasion.back_min if on == occasion.to_date else None
    if leave_min is None and back_min is None:
        return whole
    outside = _whole_day(timetable, keys_on(home, on, occasion))
    points = _between(outside.points, whole.points, leave_min or 0, MIN_PER_DAY if back_min is None else back_min)
    return WrittenDay(timetable, on.isoformat(), points)


def _whole_day(timetable: Timetable, keys: tuple[str, ...]) -> WrittenDay:
    for key in keys:
        profile = timetable.profile(key)
        if profile is not None:
            return WrittenDay(timetable, key, profile.points)
    return WrittenDay(timetable, USUAL, timetable.usual)


def _between(outside: Points, inside: Points, from_min: int, until_min: int) -> Points:
    """Return a day that is written one way before and after, and another within [from, until)."""
    before = tuple(p for p in outside if p.start_min < from_min)
    within = tuple(p for p in inside if from_min < p.start_min < until_min)
    after = tuple(p for p in outside if p.start_min > until_min)
    at_from = _point_at(inside, from_min)
    at_until = _point_at(outside, until_min) if until_min < MIN_PER_DAY else None
    return tuple(p for p in (*before, at_from, *within, at_until, *after) if p is not None)


def _point_at(points: Points, minute: int) -> ChangePoint | None:
    """Return what a day is at a minute as a change point there; before its first what it ends with. None without any."""
    held = [p for p in points if p.start_min <= minute] or list(points)
    return replace(held[-1], start_min=minute) if held else None


def written_on(home: Home, zone: Zone, on: date) -> WrittenDay:
    """Return the written day that holds in a zone on a date."""
    return day_written(home, timetable_on(zone, on), on)


def carried_into(home: Home, zone: Zone, on: date) -> tuple[date, int, ChangePoint]:
    """Return the change point in force at a date's first instant, with its date and place there.

    A block belongs to the date it begins on: another day or timetable does not cut it, a block of theirs does.
    """
    before = on
    for _ in range(MOST_BACK):
        before -= timedelta(days=1)
        points = written_on(home, zone, before).points
        if points:
            return before, len(points) - 1, points[-1]
    usual = timetable_on(zone, on).usual
    return on - timedelta(days=1), len(usual) - 1, usual[-1]


def days_of_key(home: Home, timetable: Timetable, key: str) -> tuple[int, ...]:
    """Return the weekdays, Monday 0, on which a written day holds where no date says otherwise."""
    found = []
    for weekday, name in enumerate(WEEKDAYS):
        kind = next((k.id for k in home.day_kinds if weekday in k.weekdays), None)
        keys = (name, kind, USUAL)
        held = next(k for k in keys if k == USUAL or (k is not None and timetable.profile(k) is not None))
        if held == key:
            found.append(weekday)
    return tuple(found)
