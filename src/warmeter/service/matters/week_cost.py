"""What the last week cost against the week before, and like for like: only from the meter's own log."""

import contextlib
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.tariff_year import DAYS_A_YEAR, standing_a_year
from warmeter.core.home.document import Home
from warmeter.core.saving.like_for_like import LikeForLike, like_for_like
from warmeter.core.units import J_PER_KWH, MS_PER_MIN, S_PER_MIN
from warmeter.service.app import App
from warmeter.service.readings.outdoor_year import daily_means_c
from warmeter.service.readings.room_logs import means, series_of
from warmeter.service.tariffs.pricing import known_prices

WEEK_DAYS, BASE_C = 7, 15.5
MOST_DAYS = 70  # further back another season, other people
LEAST_KNOWN = 0.9  # of each day; less is no week
STEP_MIN = 15


@dataclass(frozen=True, slots=True, kw_only=True)
class WeekCost:
    """A week's cost with its standing charges up to a date, the week before, and its degree days over theirs (ratio).

    ``colder`` is None where outdoors is not known of both, or the week before needed no heat; ``like`` is the difference
    had both been as cold, None where the log does not tell it.
    """

    until: date
    cost: float
    cost_before: float
    colder: float | None
    like: LikeForLike | None = None


@dataclass(frozen=True, slots=True)
class _Days:
    """Days of the meter: energy [kWh], what it cost, and the standing charges [currency]; NaN where not known."""

    kwh: Floats
    energy: Floats
    standing: Floats


def week_cost(app: App, home: Home) -> WeekCost | None:
    """Return the last whole week of the meter's log against the week before; None where either is not known or priced."""
    series = series_of(app, home.id, "grid_import_w", "")
    if not series:
        return None
    clock = app.clock(home)
    spans = [(*app.readings.span(s.id), round(s.record.step_s * 1000)) for s in series]
    until = clock.local(max(high + step_ms for _, high, step_ms in spans)).date()
    oldest = max(clock.local(min(low for low, _, _ in spans)).date(), until - timedelta(days=MOST_DAYS))
    since = min(oldest, until - timedelta(days=2 * WEEK_DAYS))
    count = (until - since).days
    days = _days(app, home, [since + timedelta(days=k) for k in range(count + 1)])
    after, before = slice(count - WEEK_DAYS, count), slice(count - 2 * WEEK_DAYS, count - WEEK_DAYS)
    costs = days.energy + days.standing
    cost, cost_before = float(costs[after].sum()), float(costs[before].sum())
    if np.isnan(cost) or np.isnan(cost_before):
        return None
    degree_days = np.maximum(0.0, BASE_C - daily_means_c(app, home, since, count))
    now, then = float(degree_days[after].sum()), float(degree_days[before].sum())
    colder = now / then - 1 if then > 0 and not np.isnan(now) else None
    like, drawn = None, float(days.kwh[after].sum())
    if colder is not None and drawn > 0:
        with contextlib.suppress(NotKnowable):
            price = float(days.energy[after].sum()) / drawn
            earlier = slice(0, count - WEEK_DAYS)
            like = like_for_like(cost - cost_before, days.kwh[earlier], degree_days[earlier], now - then, price)
    return WeekCost(until=until, cost=cost, cost_before=cost_before, colder=colder, like=like)


def _days(app: App, home: Home, dates: list[date]) -> _Days:
    """Return the days that begin on all dates but the last."""
    clock = app.clock(home)
    starts = np.array([clock.instant(day, 0) for day in dates], dtype=np.int64)
    at = np.arange(starts[0], starts[-1], STEP_MIN * MS_PER_MIN, dtype=np.int64)
    series = series_of(app, home.id, "grid_import_w", "")
    power = means(app, series, int(starts[0]), float(STEP_MIN * S_PER_MIN), at.size)
    found = np.full((3, len(dates) - 1), np.nan)
    for number, day in enumerate(dates[:-1]):
        begin, end = np.searchsorted(at, starts[number : number + 2])
        watts = power[begin:end]
        if (~np.isnan(watts)).mean() < LEAST_KNOWN:
            continue
        # A short gap draws what the day drew: nought would make the week with more gaps the cheaper one.
        kwh = np.where(np.isnan(watts), np.nanmean(watts), watts) * STEP_MIN * S_PER_MIN / J_PER_KWH
        found[0, number] = kwh.sum()
        tariff = home.tariff_on(day)
        prices = known_prices(app, home, at[begin:end])
        if tariff is not None and prices is not None:
            found[1:, number] = float(prices.cost(kwh)), float(standing_a_year(tariff)) / DAYS_A_YEAR
    return _Days(*found)
