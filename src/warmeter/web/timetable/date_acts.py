"""What can be done to named timetables, their dates, and kinds of day."""

from collections.abc import Mapping

from warmeter.core.edits import timetable_edits
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import Period
from warmeter.core.home.zones import Zone
from warmeter.web.forms import Fields
from warmeter.web.survey.acting import Act, Done, done_or_refuse
from warmeter.web.timetable.acts import day_of_fields

EVERY_ZONE = "*"


def _zones(home: Home, fields: Fields) -> list[Zone]:
    """Return the zone of a form, or all of them where it says so."""
    asked = fields.texts.get("zone_id", "")
    return list(home.zones) if asked == EVERY_ZONE else [home.zone_of_id(asked)]


def _names(zones: list[Zone]) -> str:
    return zones[0].name if len(zones) == 1 else "All zones"


def _add(home: Home, fields: Fields) -> Done:
    name, zones = fields.text("name", least=1), _zones(home, fields)
    done_or_refuse(fields)
    for zone in zones:
        like = fields.texts.get("like") or zone.timetables[0].id
        like = like if any(t.id == like for t in zone.timetables) else zone.timetables[0].id
        home = timetable_edits.with_new_timetable(home, zone.id, name, like)
    return Done(home, f"{_names(zones)}: timetable {name} added")


def _rename(home: Home, fields: Fields) -> Done:
    zone, name = home.zone_of_id(fields.texts.get("zone_id", "")), fields.text("name", least=1)
    done_or_refuse(fields)
    changed = timetable_edits.renamed_timetable(home, zone.id, fields.texts.get("timetable_id", ""), name)
    return Done(changed, f"{zone.name}: timetable called {name}")


def _remove(home: Home, fields: Fields) -> Done:
    zone = home.zone_of_id(fields.texts.get("zone_id", ""))
    timetable = zone.timetable(fields.texts.get("timetable_id", ""))
    changed = timetable_edits.without_timetable(home, zone.id, timetable.id)
    return Done(changed, f"{zone.name}: timetable {timetable.name} removed")


def _period(home: Home, fields: Fields) -> Done:
    zones, name = _zones(home, fields), fields.texts.get("timetable", "")
    begin, end = fields.day("from"), fields.day("to")
    done_or_refuse(fields)
    if begin is None and end is None:
        raise HomeError("type the first date, the last or both")
    found = 0
    for zone in zones:
        chosen = next((t for t in zone.timetables if t.name == name), None)
        if chosen is not None:
            period = Period(timetable_id=chosen.id, from_date=begin, to_date=end, every_year=fields.is_on("yearly"))
            home, found = timetable_edits.with_period(home, zone.id, period), found + 1
    if not found:
        raise HomeError(f"no zone has a timetable called {name!r}")
    return Done(home, f"{_names(zones)}: {name} from {begin or 'always'} to {end or 'further on'}")


def _period_away(home: Home, fields: Fields) -> Done:
    zone, index = home.zone_of_id(fields.texts.get("zone_id", "")), fields.whole("index", 0, 100)
    done_or_refuse(fields)
    return Done(timetable_edits.without_period(home, zone.id, index), f"{zone.name}: dates taken away")


def _switch(home: Home, fields: Fields) -> Done:
    zones, name, on = _zones(home, fields), fields.texts.get("timetable", ""), day_of_fields(fields)
    if name and not any(t.name == name for z in zones for t in z.timetables):
        raise HomeError(f"no zone has a timetable called {name!r}")
    changed = timetable_edits.switched(home, tuple(z.id for z in zones), name, on)
    words = f"switched to {name}" if name else "switched back to its dates"
    return Done(changed, f"{_names(zones)}: {words} from {on}")


def _kind(home: Home, fields: Fields) -> Done:
    name = fields.text("name", least=1)
    done_or_refuse(fields)
    return Done(timetable_edits.with_kind(home, name), f"Kind of day {name} added")


def _kind_away(home: Home, fields: Fields) -> Done:
    kind = next((k for k in home.day_kinds if k.id == fields.texts.get("kind", "")), None)
    if kind is None:
        raise HomeError("this kind of day is not there any more")
    return Done(timetable_edits.without_kind(home, kind.id), f"Kind of day {kind.name} removed")


def _weekday(home: Home, fields: Fields) -> Done:
    weekday, kind = fields.whole("weekday", 0, 6), fields.texts.get("kind", "")
    done_or_refuse(fields)
    return Done(timetable_edits.with_weekday_of(home, weekday, kind), "Weekdays of a kind changed")


def _special(home: Home, fields: Fields) -> Done:
    on, kind, note = fields.day("on"), fields.texts.get("kind", ""), fields.text("note", most=200)
    done_or_refuse(fields)
    if on is None:
        raise HomeError("type the date")
    name = next((k.name for k in home.day_kinds if k.id == kind), "as its weekday")
    return Done(timetable_edits.with_special_day(home, on, kind, note), f"{on} is {name}")


DATE_ACTS: Mapping[str, Act] = {
    "tt-add": _add,
    "tt-rename": _rename,
    "tt-remove": _remove,
    "period": _period,
    "period-away": _period_away,
    "switch": _switch,
    "kind-add": _kind,
    "kind-away": _kind_away,
    "weekday": _weekday,
    "special": _special,
}
