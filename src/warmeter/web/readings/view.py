"""What a file would bring, as a strip."""

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.quantity import QUANTITIES, Quantity
from warmeter.core.readings.csvlog import ReadLog, TakenSeries
from warmeter.core.readings.resample import mean_over_steps, value_at
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import celsius_to
from warmeter.web import format as show
from warmeter.web.strip.draw import LEFT, RIGHT, DrawnStrip, draw
from warmeter.web.strip.lanes import Axis, Curve, Lane, StripView, gutter_name

POINTS = 700
MOST_LANES = 6


def subject_name(home: Home, quantity: str, subject: str) -> str:
    """Return whose a series is: the name of a part of the home, or what is meant without one; "" where one is missing."""
    known = QUANTITIES[quantity]
    names = part_names(home.rooms, home.devices, home.appliances)
    return names.get(subject, "" if known.needs_subject else known.whole)


def preview_strip(found: ReadLog, home: Home, clock: LocalClock, available: int) -> DrawnStrip | None:
    """Return the file's series over their whole stretch, None without readings."""
    if found.first_ms is None or found.last_ms is None or found.last_ms <= found.first_ms:
        return None
    grid = np.linspace(found.first_ms, found.last_ms, POINTS).astype(np.int64)
    lanes = [_lane(series, home, grid) for series in found.series[:MOST_LANES]]
    return draw(
        StripView(
            id="log",
            title="What the file holds",
            axis=long_axis(found.first_ms, found.last_ms, POINTS, clock, home),
            lanes=[lane for lane in lanes if lane],
            width=max(available, LEFT + RIGHT + 200),
        )
    )


def long_axis(start_ms: int, end_ms: int, points: int, clock: LocalClock, home: Home) -> Axis:
    """Return an axis over days, its unit the place among ``points`` even instants."""
    days = clock.days(start_ms, end_ms)
    per_ms = (points - 1) / (end_ms - start_ms)
    every = max(1, -(-len(days) // 12))
    starts = [(day, (day.start_ms - start_ms) * per_ms) for day in days if start_ms <= day.start_ms < end_ms]
    instants = np.linspace(start_ms, end_ms, points)[:: max(1, points // 700)]
    return Axis(
        length=float(points - 1),
        grid=[(at, k % every == 0) for k, (_, at) in enumerate(starts)] if len(days) < 120 else [],
        numerals=[(at, show.day_short(day.date, home.country)) for k, (day, at) in enumerate(starts) if k % every == 0],
        table_step=float(max(1, points // 700)),
        table_times=[
            f"{show.day_short(clock.local(int(t)).date(), home.country)} {clock.local(int(t)):%H:%M}" for t in instants
        ],
        crosshair=(points - 1) * 0.6,
    )


def _shown(value: float, quantity: Quantity) -> str:
    """Return a value for the crosshair: the word of a state, else the number."""
    return quantity.states[round(value)] if quantity.states else show.number(value, quantity.decimals)


def _whose(series: TakenSeries, home: Home) -> str:
    whose = subject_name(home, series.record.quantity, series.record.subject)
    return f"{whose[:1].upper()}{whose[1:]}"


def _lane(series: TakenSeries, home: Home, grid: Ints) -> Lane | None:
    quantity = QUANTITIES[series.record.quantity]
    readings = series.readings.in_stored_unit(series.record)
    if readings.at_ms.size < 2:
        return None
    if quantity.is_power:
        step = float(grid[-1] - grid[0]) / (grid.size - 1) / 1000
        values = mean_over_steps(readings, series.record, int(grid[0]), step, grid.size)
    else:
        values = value_at(readings, series.record, grid)
    if np.isnan(values).all():
        return None
    unit = "" if quantity.states else quantity.unit
    if quantity.unit == "°C":
        unit = show.temperature_unit(home)
        values = celsius_to(values, home.temperature_unit)
    low, high = float(np.nanmin(values)), float(np.nanmax(values))
    margin = max(0.05 * (high - low), 0.5)
    curve = Curve(values=values, css="wm-pw" if quantity.is_power else "wm-temp")
    return Lane(
        name=gutter_name(_whose(series, home)),
        note=f"{quantity.label}, {unit}" if unit else quantity.label,
        height=46,
        low=0.0 if quantity.is_power else low - margin,
        high=high + margin,
        curves=() if quantity.is_power else (curve,),
        fills=(curve,) if quantity.is_power else (),
        table=[(["" if np.isnan(v) else _shown(float(v), quantity) for v in values], unit, "")],
    )
