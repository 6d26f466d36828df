"""Changes of a home's timetables: blocks, written days, kinds of day, named timetables and their dates."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import (
    WEEKDAYS,
    ChangePoint,
    DayKind,
    DayProfile,
    Period,
    Points,
    SpecialDay,
    Timetable,
)
from warmeter.core.home.zones import LevelNumbers, Zone
from warmeter.core.timetable.calendar import USUAL, WrittenDay, carried_into, day_written, timetable_on, written_on
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.timetable.points import merge_block, move_edge, set_block, split_at, with_block, with_tail
from warmeter.core.units import MIN_PER_DAY

Scope = Literal["written", "weekday", "date"]
SCOPES: tuple[Scope, ...] = ("written", "weekday", "date")


@dataclass(frozen=True, slots=True)
class BlockPlace:
    """A block: the date that its change point stands on, and its place there."""

    on: date
    index: int

    @property
    def text(self) -> str:
        """Its place as handles and forms carry it."""
        return f"{self.on:%Y%m%d}.{self.index}"


def with_zone(home: Home, zone: Zone) -> Home:
    """Return a home with one zone changed."""
    home.zone_of_id(zone.id)
    return replace(home, zones=swapped(home.zones, zone))


def with_timetable(home: Home, zone: Zone, timetable: Timetable) -> Home:
    """Return a home with one timetable of a zone changed."""
    zone.timetable(timetable.id)
    changed = swapped(zone.timetables, timetable)
    return with_zone(home, replace(zone, timetables=changed))


def with_points(timetable: Timetable, key: str, points: Points) -> Timetable:
    """Return a timetable with one written day changed, or written apart for the first time.

    Raises
    ------
    HomeError
        If the usual day would have no change point.
    """
    if key == USUAL:
        if not points:
            raise HomeError(f"the usual day of {timetable.name} keeps one period; change its level instead")
        return replace(timetable, usual=points)
    if timetable.profile(key) is None:
        return replace(timetable, days=(*timetable.days, DayProfile(of=key, points=points)))
    return replace(timetable, days=tuple(replace(d, points=points) if d.of == key else d for d in timetable.days))


def written_for(home: Home, zone: Zone, on: date, scope: Scope) -> WrittenDay:
    """Return the written day that an edit of a date changes; what is not yet written apart starts as in force."""
    held = written_on(home, zone, on)
    if scope == "written" or held.key == on.isoformat():
        return held
    return WrittenDay(held.timetable, WEEKDAYS[on.weekday()] if scope == "weekday" else on.isoformat(), held.points)


def with_day(home: Home, zone_id: str, on: date, scope: Scope, edit: Callable[[Points, ChangePoint], Points]) -> Home:
    """Return a home with the written day of a date edited; ``edit`` takes its points and what is carried into it."""
    zone = home.zone_of_id(zone_id)
    day = written_for(home, zone, on, scope)
    changed = edit(day.points, carried_into(home, zone, on)[2])
    return with_timetable(home, zone, with_points(day.timetable, day.key, changed))


def moved_start(home: Home, zone_id: str, place: BlockPlace, start_min: int, scope: Scope = "written") -> Home:
    """Return a home with a block's start moved."""
    return with_day(home, zone_id, place.on, scope, lambda day, _: move_edge(day, place.index, start_min))


def set_level(
    home: Home, zone_id: str, place: BlockPlace, level_id: str, own_c: float | None, scope: Scope = "written"
) -> Home:
    """Return a home with a block's level, and own setpoint or none, set."""
    home.level(level_id)
    return with_day(
        home,
        zone_id,
        place.on,
        scope,
        lambda day, _: set_block(day, place.index, level_id=level_id, own_setpoint_c=own_c),
    )


def own_setpoint(home: Home, zone_id: str, place: BlockPlace, setpoint_c: float, scope: Scope = "written") -> Home:
    """Return a home with a block's own setpoint set; equal to its level's it is none. ``HomeError`` if the block is gone."""
    zone = home.zone_of_id(zone_id)
    points = written_for(home, zone, place.on, scope).points
    if not 0 <= place.index < len(points):
        raise HomeError("there is no such period any more")
    level_id = points[place.index].level_id
    own = None if abs(home.heating_c(zone, level_id) - setpoint_c) < 1e-9 else setpoint_c
    return set_level(home, zone_id, place, level_id, own, scope)


def own_for_everywhere(home: Home, zone_id: str, place: BlockPlace) -> Home:
    """Return a home whose zone has a block's own setpoint as its level's number, and the block none of its own.

    Raises
    ------
    HomeError
        If the block is gone.
    """
    zone = home.zone_of_id(zone_id)
    points = written_on(home, zone, place.on).points
    if not 0 <= place.index < len(points):
        raise HomeError("there is no such period any more")
    point = points[place.index]
    numbers = zone.numbers_at(point.level_id) or LevelNumbers(level_id=point.level_id)
    changed = with_numbers(home, zone_id, replace(numbers, heating_c=setpoint_of(home, zone, point)))
    return set_level(changed, zone_id, place, point.level_id, None)


def split(home: Home, zone_id: str, on: date, at_min: int, scope: Scope = "written") -> Home:
    """Return a home with the block that holds a minute of a date split there."""
    return with_day(home, zone_id, on, scope, lambda day, held_before: split_at(day, at_min, held_before))


def merged(home: Home, zone_id: str, place: BlockPlace, scope: Scope = "written") -> Home:
    """Return a home with a block merged into the one before."""
    return with_day(home, zone_id, place.on, scope, lambda day, _: merge_block(day, place.index))


def with_new_block(
    home: Home, zone_id: str, on: date, block: ChangePoint, end_min: int, scope: Scope = "written"
) -> Home:
    """Return a home with a block laid from its start to an end; one at or before the start lies on the next day.

    An end of 1440 is the end of its own day.

    What held at its end holds again after it. Over midnight the beginnings of all days that can follow are
    left to it up to its end.
    """
    home.level(block.level_id)
    if block.start_min < end_min < MIN_PER_DAY:
        return with_day(home, zone_id, on, scope, lambda day, held_before: with_block(day, held_before, block, end_min))
    zone = home.zone_of_id(zone_id)
    day = written_for(home, zone, on, scope)
    following = _following(home, day, on)
    ends = {key: (points, carried_into(home, zone, each)[2]) for key, (points, each) in following.items()}
    timetable = with_points(
        day.timetable, day.key, with_block(day.points, carried_into(home, zone, on)[2], block, MIN_PER_DAY)
    )
    for key, (points, held_before) in ends.items():
        base = timetable.usual if key == USUAL else (profile.points if (profile := timetable.profile(key)) else points)
        end = end_min % MIN_PER_DAY
        changed = with_tail(base, held_before, end) if end else _from_0(base, held_before)
        if changed != base:
            timetable = with_points(timetable, key, changed)
    return with_timetable(home, zone, timetable)


def _from_0(points: Points, held_before: ChangePoint) -> Points:
    """Return a day that begins at 00:00 with what was carried into it, if it did not begin there itself."""
    return points if points and points[0].start_min == 0 else (replace(held_before, start_min=0), *points)


def _following(home: Home, day: WrittenDay, on: date) -> dict[str, tuple[Points, date]]:
    """Return the written days that can follow one, by key, each with a date on which it does.

    What follows a day written for one date is that of the next date alone, and after a weekday the usual day is the
    next weekday's alone: other days that share it stay as they are.
    """
    if day.key == on.isoformat():
        after_on = on + timedelta(days=1)
        return {after_on.isoformat(): (day_written(home, day.timetable, after_on).points, after_on)}
    dates = [on, *(on + timedelta(days=k) for k in range(1, 8))]
    found: dict[str, tuple[Points, date]] = {}
    for each in dates:
        is_one = each == on or day_written(home, day.timetable, each).key == day.key
        if is_one:
            after_on = each + timedelta(days=1)
            after = day_written(home, day.timetable, after_on)
            is_shared = day.key in WEEKDAYS and after.key == USUAL
            found.setdefault(WEEKDAYS[after_on.weekday()] if is_shared else after.key, (after.points, after_on))
    return found


def copied_day(home: Home, zone_id: str, on: date, to_keys: tuple[str, ...]) -> Home:
    """Return a home with the day of a date written also under other keys of its timetable."""
    zone = home.zone_of_id(zone_id)
    day = written_on(home, zone, on)
    timetable = day.timetable
    for key in to_keys:
        _check_key(home, key)
        timetable = with_points(timetable, key, day.points)
    return with_timetable(home, zone, timetable)


def _check_key(home: Home, key: str) -> None:
    if key == USUAL or key in WEEKDAYS or key in {kind.id for kind in home.day_kinds}:
        return
    try:
        date.fromisoformat(key)
    except ValueError as error:
        raise HomeError(f"{key!r} is no weekday, kind of day or date; write a date as 2026-01-20") from error


def copied_zone(home: Home, zone_id: str, to_ids: tuple[str, ...], on: date) -> Home:
    """Return a home with the timetable of a date copied over those of other zones on that date."""
    source = timetable_on(home.zone_of_id(zone_id), on)
    for key in to_ids:
        zone = home.zone_of_id(key)
        held = timetable_on(zone, on)
        home = with_timetable(home, zone, replace(held, usual=source.usual, days=source.days))
    return home


def handed_back(home: Home, zone_id: str, timetable_id: str, key: str) -> Home:
    """Return a home without a day written apart: what is written more broadly holds again. ``HomeError`` if there is none."""
    zone = home.zone_of_id(zone_id)
    timetable = zone.timetable(timetable_id)
    if timetable.profile(key) is None:
        raise HomeError("this day is not written apart")
    return with_timetable(home, zone, replace(timetable, days=tuple(d for d in timetable.days if d.of != key)))


def cleared(home: Home, zone_id: str, on: date, scope: Scope = "written") -> Home:
    """Return a home with the day of a date emptied to one block, of the level that it began with."""

    def one(points: Points, held_before: ChangePoint) -> Points:
        first = points[0] if points and points[0].start_min == 0 else held_before
        return (replace(first, start_min=0, own_setpoint_c=None),)

    return with_day(home, zone_id, on, scope, one)


def with_numbers(home: Home, zone_id: str, numbers: LevelNumbers) -> Home:
    """Return a home with a zone's own numbers for a level; without any the home's hold again."""
    zone = home.zone_of_id(zone_id)
    home.level(numbers.level_id)
    others = tuple(n for n in zone.numbers if n.level_id != numbers.level_id)
    is_empty = numbers.heating_c is None and numbers.cooling_c is None and numbers.fan is None
    return with_zone(home, replace(zone, numbers=others if is_empty else (*others, numbers)))


def with_new_timetable(home: Home, zone_id: str, name: str, like_id: str) -> Home:
    """Return a home with another named timetable in a zone, beginning as a copy of one that is there."""
    zone = home.zone_of_id(zone_id)
    copy = replace(zone.timetable(like_id), id=new_id(), name=name)
    return with_zone(home, replace(zone, timetables=(*zone.timetables, copy)))


def renamed_timetable(home: Home, zone_id: str, timetable_id: str, name: str) -> Home:
    """Return a home with a timetable renamed."""
    zone = home.zone_of_id(zone_id)
    return with_timetable(home, zone, replace(zone.timetable(timetable_id), name=name))


def without_timetable(home: Home, zone_id: str, timetable_id: str) -> Home:
    """Return a home without a timetable and its dates; ``HomeError`` for a zone's last one."""
    zone = home.zone_of_id(zone_id)
    zone.timetable(timetable_id)
    if len(zone.timetables) == 1:
        raise HomeError(f"this is the only timetable of {zone.name}; write another first")
    return with_zone(
        home,
        replace(
            zone,
            timetables=tuple(t for t in zone.timetables if t.id != timetable_id),
            calendar=tuple(p for p in zone.calendar if p.timetable_id != timetable_id),
        ),
    )


def with_period(home: Home, zone_id: str, period: Period) -> Home:
    """Return a home with dates on which a timetable of a zone holds; later entries win."""
    zone = home.zone_of_id(zone_id)
    return with_zone(home, replace(zone, calendar=(*zone.calendar, period)))


def without_period(home: Home, zone_id: str, index: int) -> Home:
    """Return a home without an entry of a zone's calendar; ``HomeError`` if it is gone."""
    zone = home.zone_of_id(zone_id)
    if not 0 <= index < len(zone.calendar):
        raise HomeError("this entry of the calendar is not there any more")
    return with_zone(home, replace(zone, calendar=(*zone.calendar[:index], *zone.calendar[index + 1 :])))


def switched(home: Home, zone_ids: tuple[str, ...], name: str, on: date) -> Home:
    """Return a home whose zones run their timetable of a name from a date until switched back; "" switches back."""
    for key in zone_ids:
        zone = home.zone_of_id(key)
        calendar = tuple(
            replace(p, to_date=on - timedelta(days=1), is_switch=False) if p.is_switch else p
            for p in zone.calendar
            if not (p.is_switch and p.from_date is not None and p.from_date >= on)
        )
        chosen = next((t for t in zone.timetables if t.name == name), None)
        if chosen is not None:
            calendar = (*calendar, Period(timetable_id=chosen.id, from_date=on, is_switch=True))
        home = with_zone(home, replace(zone, calendar=calendar))
    return home


def with_kind(home: Home, name: str) -> Home:
    """Return a home with another kind of day, of no weekday yet."""
    return replace(home, day_kinds=(*home.day_kinds, DayKind(id=new_id(), name=name)))


def with_weekday_of(home: Home, weekday: int, kind_id: str) -> Home:
    """Return a home whose weekday (Monday 0) is of one kind of day, or with "" of none."""
    kinds = []
    for kind in home.day_kinds:
        days = tuple(d for d in kind.weekdays if d != weekday)
        kinds.append(replace(kind, weekdays=tuple(sorted((*days, weekday))) if kind.id == kind_id else days))
    return replace(home, day_kinds=tuple(kinds))


def with_special_day(home: Home, on: date, kind_id: str, note: str = "") -> Home:
    """Return a home whose date is of a kind of day, or with "" of its weekday's again."""
    others = tuple(s for s in home.special_days if s.on != on)
    if not kind_id:
        return replace(home, special_days=others)
    added = (*others, SpecialDay(on=on, kind_id=kind_id, note=note))
    return replace(home, special_days=tuple(sorted(added, key=lambda s: s.on)))


def without_kind(home: Home, kind_id: str) -> Home:
    """Return a home without a kind of day, its dates and the days written for it."""
    zones = tuple(
        replace(
            zone,
            timetables=tuple(replace(t, days=tuple(d for d in t.days if d.of != kind_id)) for t in zone.timetables),
        )
        for zone in home.zones
    )
    return replace(
        home,
        zones=zones,
        day_kinds=tuple(k for k in home.day_kinds if k.id != kind_id),
        special_days=tuple(s for s in home.special_days if s.kind_id != kind_id),
        occasions=tuple(replace(o, kind_id=None) if o.kind_id == kind_id else o for o in home.occasions),
    )
