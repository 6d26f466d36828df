"""What differs between two homes in levels, written days, dates and rules by hand, in words."""

from collections.abc import Iterator
from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.home.timetables import WEEKDAYS, Period, Points
from warmeter.core.home.zones import Level, LevelNumbers, Zone
from warmeter.core.sentence import celsius, joined, kelvin, sentence
from warmeter.core.timetable.calendar import USUAL
from warmeter.core.timetable.day import setpoint_of

LONG_WEEKDAY = ("Mondays", "Tuesdays", "Wednesdays", "Thursdays", "Fridays", "Saturdays", "Sundays")


@dataclass(frozen=True, slots=True)
class Difference:
    """A place with what stood there and what stands there; empty is nothing."""

    place: str
    before: str
    after: str


def name_of_key(home: Home, key: str) -> str:
    """Return a written day's key in words."""
    if key == USUAL:
        return "Usual day"
    if key in WEEKDAYS:
        return LONG_WEEKDAY[WEEKDAYS.index(key)]
    return next((kind.name for kind in home.day_kinds if kind.id == key), key)


def points_text(home: Home, zone: Zone, points: Points) -> str:
    """Return a written day in one line."""
    if not points:
        return "as the day before leaves it"
    return joined(
        ", ",
        (
            sentence(
                "{:02d}:{:02d} {} {}",
                p.start_min // 60,
                p.start_min % 60,
                home.level(p.level_id).name,
                celsius(setpoint_of(home, zone, p)),
            )
            for p in points
        ),
    )


def period_text(zone: Zone, period: Period) -> str:
    """Return an entry of a calendar in words."""
    name = zone.timetable(period.timetable_id).name
    if period.every_year:
        assert period.from_date is not None and period.to_date is not None  # refused without
        return f"{name} every year from {period.from_date:%d %b} to {period.to_date:%d %b}"
    begin = f" from {period.from_date}" if period.from_date else ""
    end = f" to {period.to_date}" if period.to_date else (" until switched back" if period.is_switch else "")
    return f"{name}{begin}{end}"


def written_differences(before: Home, after: Home) -> list[Difference]:
    """Return every place in timetables, levels and days that differs between two homes, in the order of the page."""
    rows = [*_levels(before, after), *_days(before, after), *_zones(before, after)]
    return [row for row in rows if row.before != row.after]


def _level_text(level: Level | None) -> str:
    if level is None:
        return ""
    cool = "" if level.cooling_c is None else sentence(", cooling from {}", celsius(level.cooling_c))
    fan = "" if level.fan == "auto" else f", fan {level.fan}"
    return sentence(
        "{} {}{}{}{}", level.name, celsius(level.heating_c), cool, fan, ", meant to save" if level.is_saving else ""
    )


def _levels(before: Home, after: Home) -> Iterator[Difference]:
    old, new = {x.id: x for x in before.levels}, {x.id: x for x in after.levels}
    for key in dict.fromkeys([*old, *new]):
        name = (new.get(key) or old[key]).name
        yield Difference(f"Level {name}", _level_text(old.get(key)), _level_text(new.get(key)))
    yield Difference(
        "Gap of heating and cooling", sentence("{}", kelvin(before.gap.gap_k)), sentence("{}", kelvin(after.gap.gap_k))
    )


def _kind_text(home: Home, kind_id: str) -> str:
    kind = next((k for k in home.day_kinds if k.id == kind_id), None)
    return "" if kind is None else f"{kind.name}: {', '.join(LONG_WEEKDAY[d] for d in kind.weekdays) or 'by date'}"


def _days(before: Home, after: Home) -> Iterator[Difference]:
    for key in dict.fromkeys([k.id for home in (before, after) for k in home.day_kinds]):
        yield Difference(f"Kind of day {name_of_key(after, key)}", _kind_text(before, key), _kind_text(after, key))
    old, new = ({s.on: name_of_key(home, s.kind_id) for s in home.special_days} for home in (before, after))
    for on in sorted({*old, *new}):
        yield Difference(f"{on}", old.get(on, ""), new.get(on, ""))


def _numbers_text(numbers: LevelNumbers | None) -> str:
    if numbers is None:
        return "the home's"
    heat = "" if numbers.heating_c is None else sentence("{}", celsius(numbers.heating_c))
    cool = "" if numbers.cooling_c is None else sentence("cooling from {}", celsius(numbers.cooling_c))
    fan = "" if numbers.fan is None else f"fan {numbers.fan}"
    return joined(", ", (part for part in (heat, cool, fan) if part))


def _zones(before: Home, after: Home) -> Iterator[Difference]:
    old, new = {z.id: z for z in before.zones}, {z.id: z for z in after.zones}
    for key in dict.fromkeys([*old, *new]):
        was, now = old.get(key), new.get(key)
        name = (now or old[key]).name
        if was is None or now is None:
            yield Difference(f"Zone {name}", "" if was is None else "there", "" if now is None else "there")
            continue
        yield from _timetables(name, (before, was), (after, now))
        for level_id in dict.fromkeys([n.level_id for z in (was, now) for n in z.numbers]):
            level = (after if any(x.id == level_id for x in after.levels) else before).level(level_id).name
            yield Difference(
                f"{name}, {level}", _numbers_text(was.numbers_at(level_id)), _numbers_text(now.numbers_at(level_id))
            )
        calendars = ("; ".join(period_text(z, p) for p in z.calendar) for z in (was, now))
        yield Difference(f"{name}, dates", *calendars)


def _timetables(name: str, before: tuple[Home, Zone], after: tuple[Home, Zone]) -> Iterator[Difference]:
    rows: dict[tuple[str, str], list[str]] = {}
    names: dict[str, str] = {}
    for side, (home, zone) in enumerate((before, after)):
        for timetable in zone.timetables:
            names[timetable.id] = timetable.name
            days = [(USUAL, timetable.usual), *((profile.of, profile.points) for profile in timetable.days)]
            for key, points in days:
                rows.setdefault((timetable.id, key), ["", ""])[side] = points_text(home, zone, points)
    for (timetable_id, key), (was, now) in rows.items():
        yield Difference(f"{name}, {names[timetable_id]}, {name_of_key(after[0], key)}", was, now)
