"""A week of timetables as an iCalendar file (RFC 5545), and back."""

from collections.abc import Sequence
from datetime import date, datetime, time, timedelta, timezone
from typing import Any
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import WEEKDAYS, ChangePoint, Timetable
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, in_unit, sentence
from warmeter.core.timetable.calendar import USUAL, timetable_on
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.timetable.draft import DraftBlock, DraftTimetable, FileFinding, nearest
from warmeter.core.units import MIN_PER_DAY

BYDAY = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
OWN = "X-WARMETER-OWN-C"
MOST_EVENTS = 5000


def week_days(home: Home, timetable: Timetable) -> list[tuple[ChangePoint, ...]]:
    """Return the change points of each weekday, Monday first, where no date says otherwise."""
    found = []
    for weekday, name in enumerate(WEEKDAYS):
        kind = next((k.id for k in home.day_kinds if weekday in k.weekdays), None)
        profile = timetable.profile(name) or (timetable.profile(kind) if kind else None)
        found.append(timetable.usual if profile is None else profile.points)
    return found


def week_blocks(home: Home, timetable: Timetable) -> list[tuple[int, int, int, ChangePoint]]:
    """Return a week's blocks as (weekday, from, length, change point) [min], each to the next change."""
    points = [(day * MIN_PER_DAY + p.start_min, p) for day, each in enumerate(week_days(home, timetable)) for p in each]
    if not points:
        points = [(0, timetable.usual[-1])]
    ends = [at for at, _ in points[1:]] + [points[0][0] + 7 * MIN_PER_DAY]
    return [(at // MIN_PER_DAY, at % MIN_PER_DAY, end - at, p) for (at, p), end in zip(points, ends, strict=True)]


def ical_of(home: Home, on: date) -> bytes:
    """Return the week of the timetables that hold on a date, as events that repeat weekly on the home's clock."""
    calendar = Calendar()
    calendar.add("prodid", "-//Warmeter//Timetable//EN")
    calendar.add("version", "2.0")
    monday = on - timedelta(days=on.weekday())
    for zone in home.zones:
        for place, event in enumerate(_events(home, zone, timetable_on(zone, on), monday)):
            event.add("uid", f"{home.id}.{zone.id}.{place}@warmeter")
            calendar.add_component(event)
    return bytes(calendar.to_ical())


def _events(home: Home, zone: Zone, timetable: Timetable, monday: date) -> list[Any]:
    """Return one event for all weekdays that share a block."""
    days: dict[tuple[int, int, str, float | None], list[int]] = {}
    for weekday, begin, length, point in week_blocks(home, timetable):
        days.setdefault((begin, length, point.level_id, point.own_setpoint_c), []).append(weekday)
    events = []
    clock = ZoneInfo(home.time_zone)
    for (begin, length, level_id, own), weekdays in days.items():
        level = home.level(level_id)
        point = ChangePoint(start_min=begin, level_id=level_id, own_setpoint_c=own)
        start = datetime.combine(monday + timedelta(days=weekdays[0]), time(begin // 60, begin % 60))
        event = Event()
        asked = sentence("{}: {} {}", zone.name, level.name, celsius(setpoint_of(home, zone, point)))
        event.add("summary", in_unit(asked, home.units))
        event.add("location", zone.name)
        event.add("categories", [level.name])
        event.add("dtstart", start.replace(tzinfo=clock))
        event.add("dtend", (start + timedelta(minutes=length)).replace(tzinfo=clock))
        event.add("dtstamp", datetime(monday.year, monday.month, monday.day, tzinfo=timezone.utc))  # noqa: UP017
        event.add("rrule", {"freq": "weekly", "byday": [BYDAY[d] for d in weekdays]})
        event.add("description", timetable.name)
        if own is not None:
            event.add(OWN, f"{own:g}")
        events.append(event)
    return events


def read_ical(home: Home, data: bytes, on: date) -> tuple[list[DraftTimetable], list[FileFinding]]:
    """Return the timetables of an iCalendar file and what was found in its events.

    Weekly and daily events make weekdays, single ones dates; the zone stands in LOCATION or before a colon in the
    summary, the level in CATEGORIES or in the summary. The timetable in force on ``on`` takes them.

    Raises
    ------
    HomeError
        If it is no iCalendar file or has no event.
    """
    try:
        calendar = Calendar.from_ical(data)
        events = list(calendar.walk("VEVENT"))
    except (ValueError, KeyError, IndexError, TypeError, AttributeError) as error:
        raise HomeError(f"this is no iCalendar file ({error})") from error
    if not events:
        raise HomeError("this calendar has no event")
    if len(events) > MOST_EVENTS:
        raise HomeError(f"this calendar has {len(events)} events; a week has far fewer than {MOST_EVENTS}")
    found: list[FileFinding] = []
    zones: dict[str, dict[str, list[DraftBlock]]] = {}
    weeks: dict[str, list[tuple[int, int, str]]] = {}
    places: dict[str, str] = {}
    for number, event in enumerate(events, start=1):
        summary = str(event.get("summary", "") or "")
        place = f"event {number} ({summary[:40] or 'no summary'})"
        before, colon, after = summary.partition(":")
        zone = str(event.get("location", "") or "") or (before if colon else "")
        level = _level(home, event, after.strip() if colon else summary)
        if not zone or not level:
            found.append(FileFinding(place, "it names no zone or no level", "it is left out"))
            continue
        meant = nearest(zone, [z.name for z in home.zones])
        if meant is not None and meant != zone:
            found.append(FileFinding(place, f"there is no zone {zone!r}", f"it is taken for {meant!r}"))
            zone = meant
        try:
            when = _when(home, event, place, found)
        except (ValueError, TypeError, KeyError, AttributeError):
            found.append(FileFinding(place, "its times cannot be read", "it is left out"))
            continue
        if when is None:
            continue
        keys, begin, length = when
        places.setdefault(zone, place)
        for key in keys:
            if key in WEEKDAYS:
                weeks.setdefault(zone, []).append((WEEKDAYS.index(key) * MIN_PER_DAY + begin, length, place))
            zones.setdefault(zone, {}).setdefault(key, []).append(
                DraftBlock(
                    place=place,
                    from_min=begin,
                    to_min=(begin + length) % MIN_PER_DAY,
                    level=level,
                    own_setpoint_c=_own(event),
                )
            )
    for zone, week in weeks.items():
        found += _week_findings(zone, sorted(week))
    return [_draft(home, zone, days, places[zone], on) for zone, days in zones.items()], found


def _week_findings(zone: str, week: list[tuple[int, int, str]]) -> list[FileFinding]:
    """Return holes and overlaps of a zone's week, its end joined to its beginning."""
    found = []
    for place, (begin, length, where) in enumerate(week):
        is_last = place + 1 == len(week)
        following = week[0][0] + 7 * MIN_PER_DAY if is_last else week[place + 1][0]
        if begin + length > following:
            words = f"periods of {zone} overlap from {_moment(following)} to {_moment(begin + length)}"
            found.append(FileFinding(where, words, "the one that begins later holds from then on"))
        elif begin + length < following:
            words = f"nothing is written for {zone} from {_moment(begin + length)} to {_moment(following)}"
            found.append(FileFinding(where, words, "the period before continues"))
    return found


def _moment(minute: int) -> str:
    return f"{WEEKDAYS[minute // MIN_PER_DAY % 7].capitalize()} {minute // 60 % 24:02d}:{minute % 60:02d}"


def _level(home: Home, event: Any, text: str) -> str:
    named = event.get("categories")
    first = named[0] if isinstance(named, list) and named else named
    cats = [str(c) for c in getattr(first, "cats", [])]
    if cats:
        return cats[0]
    return next((level.name for level in home.levels if text.casefold().startswith(level.name.casefold())), text)


def _own(event: Any) -> float | None:
    try:
        return float(str(event.get(OWN)))
    except ValueError:
        return None


def _when(home: Home, event: Any, place: str, found: list[FileFinding]) -> tuple[list[str], int, int] | None:
    """Return the day keys, the start and the length [min] of an event on the home's clock; None if it is left out."""
    start = event.decoded("dtstart")
    end = event.decoded("dtend") if "dtend" in event else None
    if not isinstance(start, datetime):
        start = datetime.combine(start, time(0))
        end = datetime.combine(end, time(0)) if end is not None else start + timedelta(days=1)
    if end is None:
        end = start + (event.decoded("duration") if "duration" in event else timedelta(hours=1))
    start, shifted = _on_the_homes_clock(home, start)
    end, _ = _on_the_homes_clock(home, end)
    if shifted:
        found.append(
            FileFinding(
                place,
                f"it is written in another time zone ({shifted})",
                f"it is taken at {start:%H:%M} by the home's clock, as on its first day",
            )
        )
    length = round((end - start) / timedelta(minutes=1))
    if length <= 0:
        found.append(FileFinding(place, "it ends before it begins", "it is left out"))
        return None
    if length > 7 * MIN_PER_DAY:
        found.append(FileFinding(place, "it lasts longer than a week", "it is left out"))
        return None
    keys = _keys(event, start.date(), place, found)
    return None if keys is None else (keys, start.hour * 60 + start.minute, length)


def _on_the_homes_clock(home: Home, at: datetime) -> tuple[datetime, str]:
    """Return a time by the home's wall clock, and the zone that it was written in if that is another."""
    if at.tzinfo is None:
        return at, ""
    name = str(getattr(at.tzinfo, "key", at.tzname() or ""))
    if name == home.time_zone:
        return at.replace(tzinfo=None), ""
    return at.astimezone(ZoneInfo(home.time_zone)).replace(tzinfo=None), name


def _keys(event: Any, on: date, place: str, found: list[FileFinding]) -> list[str] | None:
    """Return the weekdays of an event that repeats weekly or daily, its date if it does not repeat."""
    rule = event.get("rrule")
    if "exdate" in event or "rdate" in event:
        found.append(
            FileFinding(place, "single dates are removed from it or added to it", "they are left as its weekdays")
        )
    if rule is None:
        return [on.isoformat()]
    rule = rule[0] if isinstance(rule, list) else rule
    freq = str((rule.get("freq") or [""])[0]).upper()
    interval = int((rule.get("interval") or [1])[0])
    days = [str(day).upper() for day in rule.get("byday") or []]
    odd = set(rule) - {"FREQ", "INTERVAL", "BYDAY", "UNTIL", "COUNT", "WKST"}
    if freq not in ("WEEKLY", "DAILY") or interval != 1 or odd or any(day not in BYDAY for day in days):
        words = f"{freq.lower()}{f', every {interval}' if interval != 1 else ''}{', ' + ', '.join(sorted(odd)).lower() if odd else ''}"
        found.append(FileFinding(place, f"it repeats in a way that no week holds ({words})", "it is left out"))
        return None
    if rule.get("until") or rule.get("count"):
        found.append(FileFinding(place, "it stops repeating some day", "it is taken as going on"))
    if freq == "DAILY":
        return list(WEEKDAYS)
    return [WEEKDAYS[BYDAY.index(day)] for day in days] or [WEEKDAYS[on.weekday()]]


def _draft(home: Home, zone: str, days: dict[str, list[DraftBlock]], place: str, on: date) -> DraftTimetable:
    """Return a zone's week: the commonest weekday becomes the usual day, the others are written apart."""
    known = next((z for z in home.zones if z.name.casefold() == zone.casefold()), None)
    name = timetable_on(known, on).name if known else "Every day"
    shapes = {key: _shape(days.get(key, [])) for key in WEEKDAYS}
    commonest = max(WEEKDAYS, key=lambda key: (len(days.get(key, [])) > 0, list(shapes.values()).count(shapes[key])))
    found: dict[str, Sequence[DraftBlock]] = {USUAL: days.get(commonest, [])}
    for key in WEEKDAYS:
        if shapes[key] != shapes[commonest]:
            found[key] = days.get(key, [])
    found |= {key: blocks for key, blocks in days.items() if key not in WEEKDAYS}
    return DraftTimetable(place=place, zone=zone, name=name, days=found, is_checked=True)


def _shape(blocks: Sequence[DraftBlock]) -> tuple[tuple[int, str, float | None], ...]:
    return tuple(sorted((b.from_min, b.level, b.own_setpoint_c) for b in blocks))
