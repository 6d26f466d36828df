"""The outdoor temperature of a stretch: as heard, as typed, as forecast, or like yesterday."""

from dataclasses import dataclass
from datetime import date

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_MIN
from warmeter.core.weather.forecast import (
    FORECAST_SPREAD_K,
    USUAL_SPREAD_K,
    WeatherForecast,
    day_to_day_spread_k,
    like_yesterday,
    typed_day,
)
from warmeter.service.app import App
from warmeter.service.readings.room_logs import instants, series_of

_FIRST_DAY = date(1970, 1, 1)


@dataclass(frozen=True, slots=True)
class TypedWeather:
    """Lowest and highest temperature that are tried out on a day, in place of what its record says [°C]."""

    low_c: float
    high_c: float


def outdoor_between(
    app: App, home: Home, clock: LocalClock, as_of: int, start: int, end: int, typed: TypedWeather | None
) -> tuple[WeatherForecast, Floats, int]:
    """Return the outlook over [start, end], what of it was measured, and how many minutes that is."""
    series = series_of(app, home.id, "outdoor_temperature", "")
    grid = np.arange(start, end + MS_PER_MIN, MS_PER_MIN, dtype=np.int64)
    measured = instants(app, home, series, grid)
    measured[grid > as_of] = np.nan
    expected, origin, spread = _expected(app, home, clock, as_of, grid, typed)
    known = ~np.isnan(measured)
    index = np.arange(grid.size)
    certain = int(index[known][-1]) + 1 if known.any() else 0
    out = expected.copy()
    if known.any():
        filled = np.interp(index[:certain], index[known], measured[known])
        out[:certain] = filled
    return WeatherForecast(out, origin, spread), measured, certain


def _expected(
    app: App, home: Home, clock: LocalClock, as_of: int, grid: Ints, typed: TypedWeather | None
) -> tuple[Floats, str, float]:
    days, minutes = clock.local_minutes(grid)
    if typed is not None:
        return typed_day(typed.low_c, typed.high_c, minutes), "typed", FORECAST_SPREAD_K
    told = {(each.on - _FIRST_DAY).days: each for each in home.day_weather}
    within = sorted(day for day in told if days[0] <= day <= days[-1])
    try:
        out, origin, spread = _untyped(app, home, as_of, grid)
    except NotKnowable:
        if not within:
            raise
        out, origin, spread = np.full(grid.size, np.nan), "typed", FORECAST_SPREAD_K
    for day in np.unique(days).tolist() if within else ():
        if day in told or np.isnan(out[days == day]).all():
            # Where nothing else is known, the nearest date that was typed stands for others too.
            distances = np.abs(np.array(within) - day)
            weather = told[within[int(distances.argmin())]]
            out[days == day] = typed_day(weather.low_c, weather.high_c, minutes[days == day])
    # A stretch ends with the first instant of the day after it.
    is_told = int(days[max(days.size - 2, 0)]) in told
    return (out, "typed", FORECAST_SPREAD_K) if is_told else (out, origin, spread)


def _untyped(app: App, home: Home, as_of: int, grid: Ints) -> tuple[Floats, str, float]:
    """Return what a forecast that was imported says, else the last day's course; ``NotKnowable`` without either."""
    forecast = series_of(app, home.id, "outdoor_forecast", "")
    if forecast:
        read_in = instants(app, home, forecast, grid)
        ahead = grid > as_of
        if ahead.any() and not np.isnan(read_in[ahead]).any():
            index, heard = np.arange(grid.size), ~np.isnan(read_in)
            return np.interp(index, index[heard], read_in[heard]), "forecast imported", FORECAST_SPREAD_K
    series = series_of(app, home.id, "outdoor_temperature", "")
    past = np.arange(as_of - 14 * MS_PER_DAY, as_of, MS_PER_MIN, dtype=np.int64)
    logged = instants(app, home, series, past) if series else np.full(past.size, np.nan)
    if np.isnan(logged[-1440:]).all() and np.isnan(logged).all():
        raise NotKnowable(
            "Nothing says how cold it will be.",
            "Type the lowest and highest temperature of the day, or import a log or a forecast of outdoors.",
        )
    yesterday = like_yesterday(logged, 2 * MIN_PER_DAY)
    # Minute by minute the same time of day as in the last 24 hours.
    place = ((grid - as_of) // MS_PER_MIN) % MIN_PER_DAY
    hourly = logged.reshape(-1, 60)
    heard = ~np.isnan(hourly)
    counts = heard.sum(axis=1)
    means_c = np.where(counts > 0, np.where(heard, hourly, 0.0).sum(axis=1) / np.maximum(counts, 1), np.nan)
    spread = day_to_day_spread_k(means_c) if not np.isnan(means_c).all() else USUAL_SPREAD_K
    return yesterday[place], "like yesterday", spread
