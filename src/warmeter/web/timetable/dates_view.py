"""Named timetables with their dates, kinds of day by weekday and by date."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from warmeter.core.home.document import Home
from warmeter.core.home.occasions import OCCASION_LABEL, Occasion, OccasionKind, occasion_days
from warmeter.core.home.zones import Zone
from warmeter.core.timetable.calendar import days_of_key, holding_on, occasion_on, timetable_on
from warmeter.core.timetable.compare import LONG_WEEKDAY, name_of_key, period_text, points_text
from warmeter.web import format as show
from warmeter.web.timetable.writing import weekdays_text
from warmeter.web.timetable.year_view import YearView, year_view

# How far ahead the next day of an occasion is looked for, and how many that differ are shown.
AHEAD_DAYS, MOST_NEXT = 370, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetableRow:
    """A named timetable: its days in words, and whether it holds on the day in view."""

    id: str
    name: str
    days: list[tuple[str, str, str]]
    holds: bool
    can_go: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OccasionRow:
    """Days that differ, in words, and the next of them."""

    id: str
    name: str
    what: str
    when: str
    kind: str
    coming: str


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
    occasions: list[OccasionRow]
    whats: Mapping[OccasionKind, str]
    next_days: list[tuple[str, str]]
    year: YearView
    devices: list[tuple[str, str]]
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
        occasions=[_occasion_row(home, o, on) for o in home.occasions],
        whats=OCCASION_LABEL,
        next_days=_next_days(home, on),
        year=year_view(home, on),
        devices=[(d.id, d.name) for d in home.devices if d.is_in_service],
        shown_day=show.day_long(on, home.country),
    )


def _occasion_row(home: Home, occasion: Occasion, on: date) -> OccasionRow:
    coming = next(iter(occasion_days(home.occasions, occasion, on, on + timedelta(days=AHEAD_DAYS))), None)
    kind = next((k.name for k in home.day_kinds if k.id == occasion.kind_id), "")
    return OccasionRow(
        id=occasion.id,
        name=occasion.name,
        what=OCCASION_LABEL[occasion.kind],
        when=_when_words(home, occasion),
        kind=kind or "as its weekday",
        coming="" if coming is None else show.day_short(coming, home.country),
    )


def _when_words(home: Home, occasion: Occasion) -> str:
    """Return the days of an occasion in words."""
    words = [weekdays_text(occasion.weekdays)] if occasion.weekdays else []
    if occasion.dates:
        words.append(f"{len(occasion.dates)} date{'s' * (len(occasion.dates) != 1)}")
    if occasion.every_weeks > 1:
        words.append(f"every {occasion.every_weeks} weeks")
    if occasion.every_months is not None:
        words.append("every month" if occasion.every_months == 1 else f"every {occasion.every_months} months")
    edges = (("from", occasion.from_date, occasion.leave_min), ("to", occasion.to_date, occasion.back_min))
    for word, edge, minute in edges:
        clock = "" if minute is None else f" {show.clock_time(minute)}"
        words += [f"{word} {show.day_short(edge, home.country)}{clock}"] if edge is not None else []
    names = [other.name for other in home.occasions if other.id in occasion.except_ids]
    return ", ".join([*words, *(f"not on {name}" for name in names)])


def _next_days(home: Home, on: date) -> list[tuple[str, str]]:
    """Return the next dates that differ, and what wins on each where several hold."""
    rows = []
    for k in range(AHEAD_DAYS):
        day = on + timedelta(days=k)
        noted = next((s for s in reversed(home.special_days) if s.on == day), None)
        held = [o.name for o in holding_on(home, day)]
        if noted is None and not held:
            continue
        winner = occasion_on(home, day)
        wins = name_of_key(home, noted.kind_id) if noted is not None else "" if winner is None else winner.name
        others = [name for name in held if name != wins]
        why = " as noted for the date" if noted is not None else ""
        over = f", over {', '.join(others)}" if wins and others else ", ".join(others) if not wins else ""
        rows.append((show.day_short(day, home.country), f"{wins}{why}{over}"))
        if len(rows) == MOST_NEXT:
            break
    return rows
