"""Named timetables with their dates, kinds of day by weekday and by date."""

from dataclasses import dataclass
from datetime import date

from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.timetable.calendar import days_of_key, timetable_on
from warmeter.core.timetable.compare import LONG_WEEKDAY, name_of_key, period_text, points_text
from warmeter.web import format as show
from warmeter.web.timetable.writing import weekdays_text


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetableRow:
    """A named timetable: its days in words, and whether it holds on the day in view."""

    id: str
    name: str
    days: list[tuple[str, str, str]]
    holds: bool
    can_go: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DatesView:
    """The pane of days and dates."""

    zone: Zone
    zones: list[tuple[str, str, bool]]
    timetables: list[TimetableRow]
    names: list[str]
    periods: list[tuple[int, str]]
    switched: str
    kinds: list[tuple[str, str, str]]
    weekdays: list[tuple[int, str, str]]
    specials: list[tuple[str, str, str]]
    shown_day: str


def dates_view(home: Home, zone: Zone, on: date) -> DatesView:
    """Return the pane for a zone and the day in view."""
    held = timetable_on(zone, on)
    names = list(dict.fromkeys(t.name for z in home.zones for t in z.timetables))
    switch = next((p for p in reversed(zone.calendar) if p.is_switch), None)
    rows = []
    for timetable in zone.timetables:
        days = [("Usual day", weekdays_text(days_of_key(home, timetable, "usual")), timetable.usual)]
        for profile in timetable.days:
            held_on = days_of_key(home, timetable, profile.of)
            days.append((name_of_key(home, profile.of), weekdays_text(held_on), profile.points))
        rows.append(
            TimetableRow(
                id=timetable.id,
                name=timetable.name,
                days=[(n, d, points_text(home, zone, p)) for n, d, p in days],
                holds=timetable.id == held.id,
                can_go=len(zone.timetables) > 1,
            )
        )
    by_weekday = {d: kind.id for kind in reversed(home.day_kinds) for d in kind.weekdays}
    return DatesView(
        zone=zone,
        zones=[(z.id, z.name, z.id == zone.id) for z in home.zones],
        timetables=rows,
        names=names,
        periods=[(k, period_text(zone, p)) for k, p in enumerate(zone.calendar)],
        switched=zone.timetable(switch.timetable_id).name if switch is not None and switch.holds_on(on) else "",
        kinds=[(k.id, k.name, weekdays_text(k.weekdays)) for k in home.day_kinds],
        weekdays=[(d, name[:-1], by_weekday.get(d, "")) for d, name in enumerate(LONG_WEEKDAY)],
        specials=[(s.on.isoformat(), name_of_key(home, s.kind_id), s.note) for s in home.special_days],
        shown_day=show.day_long(on, home.country),
    )
