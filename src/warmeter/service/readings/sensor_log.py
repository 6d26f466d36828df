"""A sensor judged by its own log: whether its readings can be right, and what spoils them where it hangs."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.building.heating import full_heat_w
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.sensing.drift import Drift, drift_of
from warmeter.core.sensing.health import HealthFlag, HealthLimits, sensor_health
from warmeter.core.sensing.placement import PlacementLog, Spoilt, spoilt_readings
from warmeter.core.shading.room_windows import room_gains, sky_at
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, MS_PER_S, S_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import corrected, instants, means, room_series, series_of
from warmeter.store.readings import StoredSeries

MOST_DAYS, FEWEST_DAYS, LEAST_STEP_MIN = 60, 2, 5
WORKING_SHARE = 0.05
SILENT_GAPS, LEAST_SILENT_S = 4, 3600  # so many of its usual gaps long it may be silent
DRIFT_DAYS, LEAST_OF_DAY_MIN = 14, 360  # so many days tell a drift, each heard so long
MOVED_K = 3.0  # outdoors within the window of stuck readings: an unheated room is truly flat else
_JUDGED: "Cache[SensorJudgement | None]" = Cache(128)


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorJudgement:
    """A sensor's health now, its last reading [ms UTC], and what spoils it in ``days`` days of its log.

    ``of_room`` says that its room's log was taken for its own, no other thermometer standing there; ``beside``
    says whether another sensor of the room was heard; without one an outside wall cannot be told.
    ``drift`` is how it moves against the room's other sensors, None without two weeks of both. ``begins_min`` are the local minutes at which each cause's excursions begin.
    """

    flags: tuple[HealthFlag, ...]
    last_ms: int
    days: int
    spoilt: list[Spoilt]
    begins_min: list[list[int]]
    of_room: bool
    drift: Drift | None
    beside: bool
    knows_heat: bool


def sensor_judgement(app: App, home: Home, device: Device) -> SensorJudgement | None:
    """Return a thermometer judged by its own log; None where it has none, or stands in no room."""
    if device.room_id is None or device.kind == "floor_probe":
        return None
    stamp, now = app.readings.import_stamp(home.id), app.as_of_ms(home.id)
    key = str(app.engine.url), home, device.id, stamp, now
    return _JUDGED.get(key, lambda: _judged(app, home, device, home.room(device.room_id or ""), now))


def _judged(app: App, home: Home, device: Device, room: Room, now_ms: int) -> SensorJudgement | None:
    series = room_series(app, home, "room_temperature", room.id)
    own = [s for s in series if s.record.subject == device.id]
    of_room = not own and _is_only_thermometer(home, device)
    if of_room:
        own = [s for s in series if s.record.subject == room.id]
    if not own:
        return None
    last = max(high for _, high in (app.readings.span(s.id) for s in own))
    log, grid = _placement_log(app, home, device, room, own, last)
    days = int(np.unique(log.day[~np.isnan(log.sensor_c)]).size)
    spoilt = spoilt_readings(log) if days >= FEWEST_DAYS else []
    _, minute = app.clock(home).local_minutes(grid)
    return SensorJudgement(
        flags=_flags(app, home, own[0], log, now_ms),
        last_ms=last,
        days=days,
        spoilt=spoilt,
        begins_min=[[int(minute[place]) for place in each.places] for each in spoilt],
        of_room=of_room,
        drift=_drift(log),
        beside=bool((~np.isnan(log.others_c)).any()),
        knows_heat=bool((~np.isnan(log.heating)).any()),
    )


def _drift(log: PlacementLog) -> Drift | None:
    """Return how the days' middle difference to the room's other sensors moves (D10); None of too few days."""
    off = log.sensor_c - log.others_c
    heard = ~np.isnan(off)
    days = np.unique(log.day[heard])
    whole = [day for day in days.tolist() if (heard & (log.day == day)).sum() * log.step_min >= LEAST_OF_DAY_MIN]
    if len(whole) < DRIFT_DAYS:
        return None
    middles = [float(np.median(off[heard & (log.day == day)])) for day in whole]
    return drift_of([float(day - whole[0]) for day in whole], middles)


def _is_only_thermometer(home: Home, device: Device) -> bool:
    """Whether no other thermometer in service stands in a device's room."""
    kinds = ("air_sensor", "thermostat")
    others = [d for d in home.devices if d.room_id == device.room_id and d.kind in kinds and d.is_in_service]
    return others == [device]


def _placement_log(
    app: App, home: Home, device: Device, room: Room, own: list[StoredSeries], last_ms: int
) -> tuple[PlacementLog, Ints]:
    step_min = max(LEAST_STEP_MIN, round(max(s.record.step_s for s in own) / S_PER_MIN))
    first = max(min(low for low, _ in (app.readings.span(s.id) for s in own)), last_ms - MOST_DAYS * MS_PER_DAY)
    grid = np.arange(first, last_ms + 1, step_min * MS_PER_MIN, dtype=np.int64)
    apart = {d.id for d in home.devices if d.kind in ("radiator_valve", "floor_probe")}
    others = [
        s
        for s in room_series(app, home, "room_temperature", room.id)
        if s.record.subject not in (device.id, room.id) and s.record.subject not in apart
    ]
    contacts = [s for s in room_series(app, home, "is_open", room.id) if s.record.subject != room.id]
    day, _ = app.clock(home).local_minutes(grid)
    sky = sky_at(home, grid)
    lit = [each.is_sunlit > 0 for each in room_gains(home, room, sky)]
    log = PlacementLog(
        step_min=float(step_min),
        sensor_c=instants(app, home, own, grid),
        others_c=instants(app, home, others, grid),
        outdoor_c=instants(app, home, series_of(app, home.id, "outdoor_temperature", ""), grid),
        heating=_heating(app, home, room, grid, step_min),
        is_sunlit=_any(lit, grid.size),
        is_open=instants(app, home, contacts, grid),
        day=day.astype(np.int64),
    )
    return log, grid


def _any(flags: list[Flags], size: int) -> Flags:
    return np.logical_or.reduce(flags) if flags else np.zeros(size, dtype=bool)


def _heating(app: App, home: Home, room: Room, grid: Ints, step_min: int) -> Floats:
    """Return whether a room's heater works: by its heat, else by what its thermostat says; NaN where not known."""
    heat = means(app, series_of(app, home.id, "heat_w", room.id), int(grid[0]), float(step_min * S_PER_MIN), grid.size)
    state = instants(app, home, room_series(app, home, "heating_state", room.id), grid)
    by_state = np.where(np.isnan(state), np.nan, (state == 1).astype(np.float64))
    worked = (heat > WORKING_SHARE * full_heat_w(home, room.id)).astype(np.float64)
    return np.where(np.isnan(heat), by_state, worked)


def _flags(app: App, home: Home, series: StoredSeries, log: PlacementLog, now_ms: int) -> tuple[HealthFlag, ...]:
    """Return what is wrong with a sensor's readings of the last day, silent by its own usual gaps."""
    last = app.readings.span(series.id)[1]
    raw = app.readings.readings(series.id, last - MS_PER_DAY, last + 1)
    value = corrected(home, series, raw.at_ms, raw.in_stored_unit(series.record).value)
    heard = ~np.isnan(value)
    at = raw.at_ms[heard] / MS_PER_S
    gap = float(np.median(np.diff(at))) if at.size > 1 else LEAST_SILENT_S
    limits = HealthLimits(stale_s=max(LEAST_SILENT_S, SILENT_GAPS * gap, float(series.record.longest_hold_s)))
    # What is stuck is looked at as of its last reading: a silent sensor is told as silent.
    now = now_ms / MS_PER_S
    flags = sensor_health(at, value[heard], now_s=now, limits=limits)
    window = round(limits.stuck_window_s / S_PER_MIN / log.step_min)
    outdoors, heating = log.outdoor_c[-window:], log.heating[-window:]
    moved = np.isnan(outdoors).all() or float(np.nanmax(outdoors) - np.nanmin(outdoors)) >= MOVED_K
    is_flat = "stuck" in flags and not (moved or bool((heating == 1).any()))
    return tuple(flag for flag in flags if flag != "stuck" or not is_flat)


def unmeasured_rooms(app: App, home: Home) -> list[Room]:
    """Return the heated rooms of which no temperature was ever heard, in the order of the survey."""
    return [r for r in home.rooms if r.condition == "heated" and not room_series(app, home, "room_temperature", r.id)]
