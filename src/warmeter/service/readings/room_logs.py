"""A room's readings as the even log that a fit, a track and a strip need."""

from dataclasses import dataclass
from datetime import date

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.window_sun import windows_w_m2
from warmeter.core.electric.raw_chain import celsius_of
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.quantity import CALIBRATED
from warmeter.core.readings.resample import mean_over_steps, value_at
from warmeter.core.thermal.room_fit import RoomLog
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY
from warmeter.core.weather.sun import clear_sky_w_m2, sun_position
from warmeter.service.app import App
from warmeter.store.readings import StoredSeries

RAW = "raw_reading"
SILENT_DAYS, LONGEST_DAYS = 92, 366
_STEPS_S = (300, 600, 900, 1800, 3600)


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedRoom:
    """A room's log with its beginning [ms UTC]."""

    log: RoomLog
    start_ms: int


def series_of(app: App, home_id: str, quantity: str, subject: str) -> list[StoredSeries]:
    """Return the series of a quantity of a room, a machine or (empty subject) outdoors."""
    return app.readings.series_by_part(home_id).get((quantity, subject), [])


def room_series(app: App, home: Home, quantity: str, room_id: str) -> list[StoredSeries]:
    """Return the series of a quantity in a room: of sensors that stand there, in service first, then of the room.

    Valves come after the room: what they read is where they sit. Probes in floors and at pipes come last: they do not
    tell the air.
    """
    ranked = sorted(home.devices, key=lambda d: not d.is_in_service)
    after = {"radiator_valve": 2 * len(ranked), "floor_probe": 4 * len(ranked)}
    devices = {d.id: k + after.get(d.kind, 0) for k, d in enumerate(ranked) if d.room_id == room_id}
    # What a sensor's chain turns into a temperature is one.
    chained = {d.id for d in home.devices if d.raw is not None} if quantity == "room_temperature" else set()
    found = [
        s
        for s in app.readings.series(home.id)
        if (s.record.quantity == quantity or (s.record.quantity == RAW and s.record.subject in chained))
        and (s.record.subject == room_id or s.record.subject in devices)
    ]
    return sorted(found, key=lambda s: devices.get(s.record.subject, len(home.devices)))


def corrected(home: Home, series: StoredSeries, at_ms: Ints, values: Floats) -> Floats:
    """Return values with the calibration of their sensor applied, that of each date from its day on.

    A contact or a meter with a thermometer in it is set right in what it tells of temperature alone. Raw readings go
    through their sensor's chain before. Before the first dated calibration the first one holds; a room's own series has
    no sensor and no calibration.
    """
    device = next((d for d in home.devices if d.id == series.record.subject), None)
    if device is not None and device.raw is not None and series.record.quantity == RAW:
        values = celsius_of(device.raw, values)
    if device is None or not device.calibrations or series.record.quantity not in CALIBRATED:
        return values
    clock = LocalClock(home.time_zone)
    lines = sorted(device.calibrations, key=lambda c: c.on or date.min)
    out = values * lines[0].gain + lines[0].offset
    for line in lines[1:]:
        if line.on is not None:
            out = np.where(at_ms >= clock.day(line.on).start_ms, values * line.gain + line.offset, out)
    return out


def heard_stretch(app: App, series: list[StoredSeries]) -> tuple[int, int]:
    """Return (first, last) instant of the newest stretch in which some series were heard [ms UTC].

    A silence of over ``SILENT_DAYS`` parts stretches. One that holds under a tenth of the days is not taken for the
    newest: nearly always a clock that was not set.
    """
    spans = [app.readings.span(s.id) for s in series]
    first_ms, last_ms = min(first for first, _ in spans), max(last for _, last in spans)
    days = app.readings.days(s.id for s in series)
    edges = np.flatnonzero(np.diff(days) > SILENT_DAYS)
    if not edges.size:
        return first_ms, last_ms
    begins, ends = np.append(0, edges + 1), np.append(edges, days.size - 1)
    lengths = ends - begins + 1
    k = int(np.flatnonzero(lengths >= min(days.size / 10, lengths.max()))[-1])
    return max(first_ms, int(days[begins[k]]) * MS_PER_DAY), min(last_ms, int(days[ends[k]] + 1) * MS_PER_DAY - 1)


def learnt_stretch(app: App, series: list[StoredSeries]) -> tuple[int, int]:
    """Return (first, last) instant from which a room is learnt now [ms UTC].

    Of the newest stretch heard the last ``LONGEST_DAYS`` are taken: who lives there, and what stands in the room, is
    not the same for longer.
    """
    first_ms, last_ms = heard_stretch(app, series)
    return max(first_ms, last_ms - LONGEST_DAYS * MS_PER_DAY), last_ms


@dataclass(frozen=True, slots=True, kw_only=True)
class DaysLeftOut:
    """On how many days (UTC) a log was heard before and after the stretch [first, last] that a room is learnt from."""

    before: int
    after: int
    first_ms: int
    last_ms: int


def days_left_out(app: App, home: Home, room: Room) -> DaysLeftOut:
    """Return which days of a room's log it is not learnt from.

    Raises
    ------
    NotKnowable
        If temperature, outdoor temperature or heat has never been read in.
    """
    inside, _, heat, _ = log_series(app, home, room)
    first_ms, last_ms = learnt_stretch(app, [*inside, *heat])
    days = app.readings.days(s.id for s in [*inside, *heat])
    return DaysLeftOut(
        before=int((days < first_ms // MS_PER_DAY).sum()),
        after=int((days > last_ms // MS_PER_DAY).sum()),
        first_ms=first_ms,
        last_ms=last_ms,
    )


def instants(app: App, home: Home, series: list[StoredSeries], at_ms: Ints) -> Floats:
    """Return values at instants, which rise, from the first of some series that has them, calibrated; NaN else."""
    out = np.full(at_ms.size, np.nan)
    for each in series:
        missing = np.flatnonzero(np.isnan(out))
        if not missing.size:
            break
        hold, at = each.record.longest_hold_s * 1000, at_ms[missing]
        raw = app.readings.readings(each.id, int(at[0]) - hold, int(at[-1]) + hold)
        out[missing] = corrected(home, each, at, value_at(raw.in_stored_unit(each.record), each.record, at))
    return out


def means(app: App, series: list[StoredSeries], start_ms: int, step_s: float, steps: int) -> Floats:
    """Return mean power over steps from the first of some series that has it; NaN else."""
    out = np.full(steps, np.nan)
    for each in series:
        missing = np.flatnonzero(np.isnan(out))
        if not missing.size:
            break
        hold, first, count = each.record.longest_hold_s * 1000, int(missing[0]), int(missing[-1] - missing[0]) + 1
        begin_ms = start_ms + round(first * step_s * 1000)
        raw = app.readings.readings(each.id, begin_ms - hold, begin_ms + round(count * step_s * 1000) + hold)
        found = mean_over_steps(raw.in_stored_unit(each.record), each.record, begin_ms, step_s, count)
        part = out[first : first + count]
        out[first : first + count] = np.where(np.isnan(part), found, part)
    return out


def clear_sky(home: Home, start_ms: int, step_s: float, steps: int) -> Floats:
    """Return clear-sky irradiance in the middle of each step, shape (step,) [W/m2]."""
    middle = start_ms + ((np.arange(steps) + 0.5) * step_s * 1000).astype(np.int64)
    elevation, _ = sun_position(middle, latitude_deg=home.place.latitude_deg, longitude_deg=home.place.longitude_deg)
    return clear_sky_w_m2(elevation)


def heat_series(app: App, home_id: str, room_id: str) -> tuple[list[StoredSeries], bool]:
    """Return a room's heat series and whether it is in watts."""
    watts = series_of(app, home_id, "heat_w", room_id)
    return (watts, True) if watts else (series_of(app, home_id, "heat_relative", room_id), False)


def log_series(
    app: App, home: Home, room: Room
) -> tuple[list[StoredSeries], list[StoredSeries], list[StoredSeries], bool]:
    """Return the series that a room is learnt from: its temperature, outdoors, its heat, and whether that is in watts.

    Raises
    ------
    NotKnowable
        If temperature, outdoor temperature or heat has never been read in.
    """
    inside = room_series(app, home, "room_temperature", room.id)
    outside = series_of(app, home.id, "outdoor_temperature", "")
    heat, in_watts = heat_series(app, home.id, room.id)
    missing = [
        name
        for name, found in (("room temperature", inside), ("outdoor temperature", outside), ("heat", heat))
        if not found
    ]
    if missing:
        raise NotKnowable(
            f"No {' and no '.join(missing)} of {room.name} has been imported.",
            "Import a log that holds room temperature, outdoor temperature and the heater's heat.",
        )
    return inside, outside, heat, in_watts


def room_log(app: App, home: Home, room: Room, start_ms: int | None = None, end_ms: int | None = None) -> LoggedRoom:
    """Return a room's log over the stretch that it is learnt from, or over [start, end).

    Raises
    ------
    NotKnowable
        If temperature, outdoor temperature or heat has never been read in.
    """
    inside, outside, heat, in_watts = log_series(app, home, room)
    step = _step_s([*inside, *heat])
    if start_ms is None or end_ms is None:
        start_ms, end_ms = learnt_stretch(app, [*inside, *heat])
    start_ms = start_ms // (step * 1000) * step * 1000
    steps = max(1, (end_ms - start_ms) // (step * 1000))
    grid = start_ms + np.arange(steps + 1, dtype=np.int64) * step * 1000
    days, _ = app.clock(home).local_minutes(grid[:-1])
    log = RoomLog(
        step_s=float(step),
        room_c=instants(app, home, inside, grid),
        outdoor_c=instants(app, home, outside, grid),
        heat_w=means(app, heat, start_ms, float(step), steps),
        clear_sky_w_m2=clear_sky(home, start_ms, float(step), steps),
        windows_w_m2=windows_w_m2(home, room, grid[:-1] + step * 500),
        day=days - int(days[0]),
        watts_known=in_watts,
    )
    return LoggedRoom(log=log, start_ms=start_ms)


def _step_s(series: list[StoredSeries]) -> int:
    """Return the finest usual step that all series reach, at least 5 min."""
    coarsest = max((s.record.step_s for s in series), default=300)
    return next((step for step in _STEPS_S if step >= coarsest), _STEPS_S[-1])
