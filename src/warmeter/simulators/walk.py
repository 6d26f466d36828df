"""A zone's day walked tick by tick in the plainest form: what the arbiter must agree with (J5, J9, O1).

Nothing here is shared with the core but the home's document.
"""

import datetime as dt
import random
from dataclasses import dataclass, replace
from zoneinfo import ZoneInfo

from warmeter.core.home.document import Home
from warmeter.core.home.timetables import ChangePoint, DayProfile, Period, SpecialDay, Timetable
from warmeter.core.home.zones import GuardLimits, Zone
from warmeter.core.timetable.manual_overrides import HandChange
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN

TICK_MIN = 5
_WEEKDAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")


@dataclass(frozen=True, slots=True)
class WalkTick:
    """What holds at a tick [ms UTC]: value after the guard, before it, by whom, and the block's beginning."""

    at_ms: int
    value_c: float
    asked_c: float
    by: str


def _wall(at_ms: int, zone: ZoneInfo) -> dt.datetime:
    return dt.datetime.fromtimestamp(at_ms / 1000, tz=dt.UTC).astimezone(zone).replace(tzinfo=None)


def _timetable(zone: Zone, on: dt.date) -> Timetable:
    """Return the timetable of a date: of all entries that hold the last."""
    timetable = zone.timetables[0]
    for period in zone.calendar:
        begin, end = period.from_date, period.to_date
        if period.every_year and begin and end:
            key, low, high = (on.month, on.day), (begin.month, begin.day), (end.month, end.day)
            holds = (low <= key <= high) if low <= high else (key >= low or key <= high)
        else:
            holds = (begin is None or begin <= on) and (end is None or on <= end)
        if holds:
            timetable = next(t for t in zone.timetables if t.id == period.timetable_id)
    return timetable


def _day_points(home: Home, zone: Zone, on: dt.date) -> tuple[ChangePoint, ...]:
    """Return the points of a date by trying every way a day can be written, the closest first."""
    timetable = _timetable(zone, on)
    written = {profile.of: profile.points for profile in timetable.days}
    special = [s.kind_id for s in home.special_days if s.on == on]
    by_weekday = [k.id for k in home.day_kinds if on.weekday() in k.weekdays]
    for key in (str(on), *special[-1:], _WEEKDAYS[on.weekday()], *by_weekday[:1]):
        if key in written:
            return written[key]
    return timetable.usual


def walked(home: Home, zone: Zone, changes: list[HandChange], start_ms: int, ticks: int) -> list[WalkTick]:
    """Return what holds at every tick from an instant on: each block begins at the first tick that shows its time."""
    clock = ZoneInfo(home.time_zone)
    setpoint = {level.id: level.heating_c for level in home.levels}
    setpoint |= {n.level_id: n.heating_c for n in zone.numbers if n.heating_c is not None}
    guard = zone.guard or home.guard
    found: list[WalkTick] = []
    begun: set[tuple[dt.date, int]] = set()
    written: dict[dt.date, tuple[ChangePoint, ...]] = {}
    held: ChangePoint | None = None
    hand: HandChange | None = None
    history = start_ms - 16 * MS_PER_DAY
    span = MS_PER_MIN * TICK_MIN
    at = history // span * span
    while at < start_ms + ticks * span:
        now = _wall(at, clock)
        for day in (now.date() - dt.timedelta(days=1), now.date()):
            if day not in written:
                written[day] = _day_points(home, zone, day)
            points = written[day]
            for place, point in enumerate(points):
                starts = dt.datetime.combine(day, dt.time(point.start_min // 60, point.start_min % 60))
                if now >= starts and (day, place) not in begun:
                    begun.add((day, place))
                    held = point
        for change in changes:
            if change.zone_id == zone.id and change.at_ms == at:
                hand = None if change.is_release else change
        if hand is not None and hand.until_ms is not None and at >= hand.until_ms:
            hand = None
        if at >= start_ms:
            # Where no block has begun for a fortnight, the usual day's last one is taken to go on.
            block = held or _timetable(zone, now.date()).usual[-1]
            asked = setpoint[block.level_id] if block.own_setpoint_c is None else block.own_setpoint_c
            by = "timetable"
            if hand is not None:
                asked, by = hand.value_c, "by_hand"
            value = min(max(asked, guard.low_c), guard.high_c)
            found.append(WalkTick(at, value, asked, by))
        at += span
    return found


def random_case(home: Home, seed: int) -> tuple[Home, Zone, list[HandChange], int]:
    """Return a home with one zone written at random, changes by hand of a day, and the day's first tick [ms UTC]."""
    rng = random.Random(seed)  # noqa: S311  (cases, not secrets)
    zone = rng.choice(home.zones)
    levels = [level.id for level in home.levels]
    kinds = [kind.id for kind in home.day_kinds]

    def points(least: int) -> tuple[ChangePoint, ...]:
        starts = sorted(rng.sample(range(0, 1440, TICK_MIN), rng.randint(least, 6)))
        return tuple(
            ChangePoint(
                start_min=start,
                level_id=rng.choice(levels),
                own_setpoint_c=rng.choice((None, None, None, 4.0 + rng.randint(0, 56) / 2)),
            )
            for start in starts
        )

    on = dt.date(2026, 1, 1) + dt.timedelta(days=rng.randint(0, 364))
    if rng.random() < 0.2:
        on = rng.choice((dt.date(2026, 3, 29), dt.date(2026, 10, 25), dt.date(2026, 4, 5), dt.date(2026, 9, 6)))
    keys = rng.sample([*_WEEKDAYS, *kinds, str(on)], rng.randint(0, 4))
    tables = tuple(
        Timetable(
            id=f"walk{k}",
            name=f"Walk {k}",
            usual=points(1),
            days=tuple(DayProfile(of=key, points=points(0)) for key in keys),
        )
        for k in range(rng.randint(1, 3))
    )
    calendar = tuple(
        Period(
            timetable_id=rng.choice(tables).id,
            from_date=on - dt.timedelta(days=rng.randint(0, 3)),
            to_date=on + dt.timedelta(days=rng.randint(0, 3)),
            every_year=rng.random() < 0.5,
        )
        for _ in range(rng.randint(0, 2))
    )
    guard = rng.choice((None, GuardLimits(low_c=rng.choice((8.0, 13.5)), high_c=rng.choice((24.0, 30.0)))))
    written = replace(zone, timetables=tables, calendar=calendar, guard=guard)
    specials = tuple(SpecialDay(on=on, kind_id=kind) for kind in kinds if rng.random() < 0.2)
    changed = replace(
        home,
        time_zone=rng.choice((home.time_zone, "Europe/London", "Australia/Lord_Howe", "America/Santiago")),
        special_days=specials[:1],
        zones=tuple(written if z.id == zone.id else z for z in home.zones),
    )
    noon = dt.datetime(on.year, on.month, on.day, 12, tzinfo=ZoneInfo(changed.time_zone))
    start = round(noon.timestamp()) * 1000 - 14 * MS_PER_H
    span = MS_PER_MIN * TICK_MIN
    start = start // span * span
    changes = []
    for _ in range(rng.randint(0, 4)):
        at = start + rng.randint(-60, 300) * span
        release = rng.random() < 0.2
        until = None if rng.random() < 0.2 else at + rng.randint(1, 200) * span
        changes.append(
            HandChange(
                zone_id=written.id,
                at_ms=at,
                value_c=10.0 + rng.randint(0, 30) / 2,
                until_ms=None if release else until,
                is_release=release,
                by="no name given",
            )
        )
    changes.sort(key=lambda change: change.at_ms)
    return changed, written, changes, start
