"""The year ribbon: 365 hairlines, one a day, with a caret on the day in view."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from math import isnan

import numpy as np

from warmeter.core.home.document import Home
from warmeter.service.app import App
from warmeter.service.readings.outdoor_year import daily_means_c, year_around
from warmeter.web import format as show

# Days are cold below and hot above these bases; a hairline of full height is so far beyond [°C, K].
COLD_BASE_C, HOT_BASE_C, FULL_K = 15.5, 22.0, 18.0
TOP, HEIGHT = 8, 22
SPINE, RIGHT = 176, 360


@dataclass(frozen=True, slots=True, kw_only=True)
class Ribbon:
    """A year as SVG paths: cold days stand, hot ones hang, those without readings are ticks."""

    width: int
    px: int
    first: str
    days: int
    cold: str
    hot: str
    mild: str
    unknown: str
    months: list[tuple[int, str]]
    caret: int
    caret_x: float
    stretch: tuple[int, int] | None
    label: str
    url: str


@dataclass(frozen=True, slots=True, kw_only=True)
class YearPaths:
    """The days of a year as SVG paths: cold, hot, neither, not known."""

    cold: str
    hot: str
    mild: str
    unknown: str


def year_paths(means_c: Sequence[float | None], px: int) -> YearPaths:
    """Return the paths of a year's daily means, None or NaN where not known [°C], at so many px a day."""
    bottom = TOP + HEIGHT
    cold, hot, mild, unknown = [], [], [], []
    for k, mean in enumerate(means_c):
        x = k * px + 0.5
        if mean is None or isnan(mean):
            unknown.append(f"M{x} {bottom}v-2")
        elif mean < COLD_BASE_C:
            cold.append(f"M{x} {bottom}v-{_length(COLD_BASE_C - mean)}")
        elif mean > HOT_BASE_C:
            hot.append(f"M{x} {TOP}v{_length(mean - HOT_BASE_C)}")
        else:
            mild.append(f"M{x} {bottom}v-2")
    return YearPaths(cold="".join(cold), hot="".join(hot), mild="".join(mild), unknown="".join(unknown))


def ribbon_of(
    app: App, home: Home, on: date, *, window: int, url: str, stretch: tuple[date, date] | None = None
) -> Ribbon:
    """Return the ribbon of the year around a day for a window's width [px]."""
    first, days = year_around(home, on)
    means = daily_means_c(app, home, first, days)
    room = window - 32 if window < 900 else window - SPINE - RIGHT
    px = max(1, min(3, room // days))
    paths = year_paths(means.tolist(), px)
    dates = [first + timedelta(days=k) for k in range(days)]
    place = (on - first).days
    ends = None
    if stretch is not None:
        a, b = ((each - first).days for each in stretch)
        ends = (max(0, a) * px, min(days, b + 1) * px)
    every = 1 if px > 1 else 2
    return Ribbon(
        width=days * px,
        px=px,
        first=first.isoformat(),
        days=days,
        cold=paths.cold,
        hot=paths.hot,
        mild=paths.mild,
        unknown=paths.unknown,
        months=[
            (k * px, f"{d:%b %Y}" if d.month in (1, 7) and px > 1 else f"{d:%b}")
            for k, d in enumerate(dates)
            if d.day == 1 and d.month % every == 0
        ],
        caret=place,
        caret_x=place * px + 0.5,
        stretch=ends,
        label=_label(means, home, on, place),
        url=url,
    )


def _length(beyond_k: float) -> int:
    return max(2, round(min(beyond_k / FULL_K, 1.0) * HEIGHT))


def _label(means: np.ndarray, home: Home, on: date, place: int) -> str:
    mean = float(means[place])
    heard = (
        "no outdoor readings"
        if np.isnan(mean)
        else f"{show.temperature(mean, home)} {show.temperature_unit(home)} outdoors"
    )
    return f"{show.day_long(on, home.country)}, {heard}"
