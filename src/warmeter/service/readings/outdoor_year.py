"""A year's outdoor temperature by day."""

from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.home.document import Home
from warmeter.core.units import MS_PER_H
from warmeter.core.weather.design_day import ColdestDay, coldest_day
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import instants, series_of

LONGEST_DAYS = 3660
_KEPT_YEARS: Cache[Floats] = Cache(16)


def year_around(home: Home, on: date) -> tuple[date, int]:
    """Return the first day and the length of the year that holds a date, cold season in its middle."""
    month = 7 if home.place.latitude_deg >= 0 else 1
    first = date(on.year if on >= date(on.year, month, 1) else on.year - 1, month, 1)
    return first, (date(first.year + 1, month, 1) - first).days


def coldest_logged(app: App, home: Home) -> ColdestDay:
    """Return the coldest day of a home's outdoor log; ``NotKnowable`` if none was heard."""
    spans = [app.readings.span(s.id) for s in series_of(app, home.id, "outdoor_temperature", "")]
    clock = app.clock(home)
    first = clock.local(min((low for low, _ in spans), default=0)).date()
    last = clock.local(max((high for _, high in spans), default=0)).date()
    # The newest days: one line of a clock that was not set must not hide them.
    first = max(first, last - timedelta(days=LONGEST_DAYS - 1))
    days = (last - first).days + 1
    return coldest_day(daily_means_c(app, home, first, days), first, is_north=home.place.latitude_deg >= 0)


def daily_means_c(app: App, home: Home, first: date, days: int) -> Floats:
    """Return the mean outdoor temperature of each local day, NaN where less than half of its hours were heard [°C]."""
    stamp = app.readings.import_stamp(home.id)
    key = (str(app.engine.url), home.id, home.time_zone, first, days, stamp, home.devices)
    return _KEPT_YEARS.get(key, lambda: _means(app, home, first, days))


def _means(app: App, home: Home, first: date, days: int) -> Floats:
    series = series_of(app, home.id, "outdoor_temperature", "")
    if not series:
        return np.full(days, np.nan)
    clock = app.clock(home)
    starts = [clock.instant(first + timedelta(days=k), 0) for k in range(days + 1)]
    at = np.arange(starts[0], starts[-1], MS_PER_H, dtype=np.int64)
    values = instants(app, home, series, at)
    day = np.searchsorted(np.array(starts), at, side="right") - 1
    heard = ~np.isnan(values)
    counts = np.bincount(day[heard], minlength=days)
    sums = np.bincount(day[heard], weights=values[heard], minlength=days)
    return np.where(counts >= 12, sums / np.maximum(counts, 1), np.nan)
