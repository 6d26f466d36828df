"""Carrying a timetable over to a device that holds so many blocks a day, and making its own week harmless."""

from dataclasses import dataclass, replace
from datetime import date, timedelta

from warmeter.core.edits.timetable_edits import with_timetable, with_zone
from warmeter.core.errors import WarmeterError
from warmeter.core.forecast.day_forecast import totals_of
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.timetables import WEEKDAYS, ChangePoint, DayProfile, Period, Points
from warmeter.core.home.zones import Level, Zone
from warmeter.core.timetable.calendar import timetable_on
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.timetable.merge import BlockPiece, MergedDay, merge_blocks
from warmeter.core.timetable.week_ical import week_days
from warmeter.service.app import App
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.outdoor_forecast import TypedWeather

WEEK_DAYS = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceLimits:
    """What a device's own week can hold: blocks a day, step of time [min] and of setpoint [K], words for levels.

    ``only_words`` says that it holds those words alone, no numbers.
    """

    most_blocks: int = 6
    step_min: int = 15
    step_k: float = 0.5
    words: tuple[tuple[str, str], ...] = ()
    only_words: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceScheduleDay:
    """One day to type in for some weekdays, Monday 0: as written and as it fits."""

    weekdays: tuple[int, ...]
    written: tuple[BlockPiece, ...]
    merged: MergedDay


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceSchedule:
    """A zone's week as a device can hold it, with what is lost in a week [K h, money or kWh]."""

    zone: Zone
    days: tuple[DeviceScheduleDay, ...]
    below_kh: float
    above_kh: float
    more_cost: float | None
    more_kwh: float | None


def week_pieces(home: Home, zone: Zone, on: date) -> list[tuple[BlockPiece, ...]]:
    """Return each weekday of the timetable that holds on a date as pieces from 00:00 on, Monday first."""
    days = week_days(home, timetable_on(zone, on))
    found = []
    for weekday in range(WEEK_DAYS):
        device_schedule = next((days[(weekday - k) % 7][-1] for k in range(1, 8) if days[(weekday - k) % 7]), None)
        points = days[weekday]
        if device_schedule is not None and (not points or points[0].start_min > 0):
            points = (replace(device_schedule, start_min=0), *points)
        found.append(tuple(BlockPiece(p.start_min, setpoint_of(home, zone, p)) for p in points))
    return found


def device_schedule(
    app: App, home: Home, revision: int, zone_id: str, on: date, limits: DeviceLimits, typed: TypedWeather | None
) -> DeviceSchedule:
    """Return a zone's week merged to fit a device (O3), with what is lost.

    Raises
    ------
    HomeError
        If the device's figures make no sense.
    """
    zone = home.zone_of_id(zone_id)
    days: dict[tuple[BlockPiece, ...], list[int]] = {}
    for weekday, pieces in enumerate(week_pieces(home, zone, on)):
        days.setdefault(pieces, []).append(weekday)
    allowed = _allowed(home, zone, limits, [p.setpoint_c for pieces in days for p in pieces])
    found = tuple(
        DeviceScheduleDay(
            weekdays=tuple(weekdays),
            written=pieces,
            merged=merge_blocks(pieces, most=limits.most_blocks, step_min=limits.step_min, allowed_c=allowed),
        )
        for pieces, weekdays in days.items()
    )
    more_cost, more_kwh = _more(app, home, revision, zone, on, found, typed)
    return DeviceSchedule(
        zone=zone,
        days=found,
        below_kh=sum(d.merged.below_kh * len(d.weekdays) for d in found),
        above_kh=sum(d.merged.above_kh * len(d.weekdays) for d in found),
        more_cost=more_cost,
        more_kwh=more_kwh,
    )


def _allowed(home: Home, zone: Zone, limits: DeviceLimits, asked: list[float]) -> list[float]:
    """Return the setpoints that the device can hold: those of its words, or the grid that the day needs."""
    if limits.only_words and limits.words:
        return [home.heating_c(zone, level_id) for level_id, word in limits.words if word]
    step = limits.step_k
    low, high = round(min(asked) / step) - 1, round(max(asked) / step) + 1
    return [k * step for k in range(low, high + 1)]


def _more(
    app: App,
    home: Home,
    revision: int,
    zone: Zone,
    on: date,
    days: tuple[DeviceScheduleDay, ...],
    typed: TypedWeather | None,
) -> tuple[float | None, float | None]:
    """Return what the week costs and draws more as the device holds it; None where it cannot be known."""
    first = on - timedelta(days=on.weekday())
    held = timetable_on(zone, on)
    plans = tuple(DayProfile(of=WEEKDAYS[d], points=_points(home, day)) for day in days for d in day.weekdays)
    changed = with_timetable(home, zone, replace(held, days=plans))
    fixed = replace(changed.zone_of_id(zone.id), calendar=(Period(timetable_id=held.id),))
    as_written = with_zone(home, replace(zone, calendar=(Period(timetable_id=held.id),)))
    plain = replace(as_written, special_days=())
    try:
        before = totals_of(day_forecast(app, plain, revision, first, typed, WEEK_DAYS))
        after = totals_of(
            day_forecast(app, replace(with_zone(changed, fixed), special_days=()), revision, first, typed, WEEK_DAYS)
        )
    except WarmeterError:
        return None, None
    cost = None if before.cost is None or after.cost is None else after.cost.value - before.cost.value
    kwh = None
    if before.electric_kwh is not None and after.electric_kwh is not None:
        kwh = after.electric_kwh.value - before.electric_kwh.value
    return cost, kwh


def _points(home: Home, day: DeviceScheduleDay) -> Points:
    """Return a merged day as change points with setpoints of their own."""
    level = home.levels[0]
    return tuple(
        ChangePoint(start_min=p.from_min, level_id=level.id, own_setpoint_c=p.setpoint_c) for p in day.merged.pieces
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnWeek:
    """A device whose own week runs beneath, its zone, and the level that it should say all week."""

    device: Device
    zone: Zone | None
    level: Level
    setpoint_c: float


def own_weeks(home: Home, level_id: str = "") -> list[OwnWeek]:
    """Return the devices that run a week of their own, each with the level to hold all week.

    Without a level the lowest that is not under the guard limit is taken: what shall be left if nothing commands.
    """
    found = []
    for device in home.devices:
        if not device.is_in_service or device.own_timetable != "running":
            continue
        zone = home.zone_of_room(device.room_id) if device.room_id else None
        levels = [x for x in home.levels if x.id == level_id] or sorted(home.levels, key=lambda x: x.heating_c)
        guard = home.guard_of(zone).low_c
        level = next((x for x in levels if x.heating_c >= guard), levels[-1])
        value = home.heating_c(zone, level.id) if zone else level.heating_c
        found.append(OwnWeek(device=device, zone=zone, level=level, setpoint_c=max(value, guard)))
    return found
