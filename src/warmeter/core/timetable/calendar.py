"""Which timetable and which written day hold on a date, and what goes on from the day before."""

from dataclasses import dataclass
from datetime import date, timedelta

from warmeter.core.home.document import Home
from warmeter.core.home.occasions import Occasion
from warmeter.core.home.timetables import WEEKDAYS, ChangePoint, DayKind, Points, Timetable
from warmeter.core.home.zones import Zone

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


def _differs(home: Home, on: date) -> str | None:
    """Return the kind of day that a date is of other than by its weekday: as noted for it, else by the last occasion."""
    noted = next((s.kind_id for s in reversed(home.special_days) if s.on == on), None)
    if noted is not None:
        return noted
    occasion = occasion_on(home, on)
    return None if occasion is None else occasion.kind_id


def occasion_on(home: Home, on: date) -> Occasion | None:
    """Return the occasion that decides of which kind a date is: the last in the list that holds and names a kind."""
    return next((o for o in reversed(home.occasions) if o.kind_id is not None and o.holds_on(on)), None)


def keys_on(home: Home, on: date) -> tuple[str, ...]:
    """Return the keys that a date's day may be written under, the closest first."""
    differs = _differs(home, on)
    own = [] if differs is None else [differs]
    by_weekday = [kind.id for kind in home.day_kinds if on.weekday() in kind.weekdays][:1]
    return (on.isoformat(), *own, WEEKDAYS[on.weekday()], *by_weekday, USUAL)


def day_written(home: Home, timetable: Timetable, on: date) -> WrittenDay:
    """Return the day of a timetable for a date.

    Its date if that is written apart, else the date's kind, its weekday, its weekday's kind, the usual day.
    """
    for key in keys_on(home, on):
        profile = timetable.profile(key)
        if profile is not None:
            return WrittenDay(timetable, key, profile.points)
    return WrittenDay(timetable, USUAL, timetable.usual)


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
