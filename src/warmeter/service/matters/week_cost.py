"""What the last week cost against the week before, and how much colder it was: only from the meter's own log."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.tariff.prices import known_prices
from warmeter.core.units import J_PER_KWH, MS_PER_MIN, S_PER_MIN
from warmeter.service.app import App
from warmeter.service.readings.outdoor_year import daily_means_c
from warmeter.service.readings.room_logs import means, series_of

WEEK_DAYS, BASE_C = 7, 15.5
LEAST_KNOWN = 0.9  # of each day; less is no week


@dataclass(frozen=True, slots=True, kw_only=True)
class WeekCost:
    """A week's cost with its standing charges up to a date, the week before, and its degree days over theirs (ratio).

    ``colder`` is None where outdoors is not known of both, or the week before needed no heat.
    """

    until: date
    cost: float
    cost_before: float
    colder: float | None


def week_cost(app: App, home: Home) -> WeekCost | None:
    """Return the last whole week of the meter's log against the week before; None where either is not known or priced."""
    series = series_of(app, home.id, "grid_import_w", "")
    if not series:
        return None
    clock = app.clock(home)
    until = clock.local(max(app.readings.span(s.id)[1] for s in series) + 1).date()
    days = [until - timedelta(days=k) for k in range(2 * WEEK_DAYS, -1, -1)]
    try:
        costs = [_cost(app, home, days[k], days[k + WEEK_DAYS]) for k in (0, WEEK_DAYS)]
    except NotKnowable:
        return None
    degree_days = np.maximum(0.0, BASE_C - daily_means_c(app, home, days[0], 2 * WEEK_DAYS))
    before, after = degree_days[:WEEK_DAYS].sum(), degree_days[WEEK_DAYS:].sum()
    is_known = not np.isnan(degree_days).any() and before > 0
    return WeekCost(
        until=until, cost=costs[1], cost_before=costs[0], colder=float(after / before - 1) if is_known else None
    )


def _cost(app: App, home: Home, first: date, until: date) -> float:
    """Return what the meter's energy of some days cost; ``NotKnowable`` where it is not known or has no price."""
    days = (first + timedelta(days=k) for k in range((until - first).days))
    return sum(_cost_of_day(app, home, day) for day in days)


def _cost_of_day(app: App, home: Home, day: date) -> float:
    clock = app.clock(home)
    start, end = clock.instant(day, 0), clock.instant(day + timedelta(days=1), 0)
    at = np.arange(start, end, 15 * MS_PER_MIN, dtype=np.int64)
    power = means(app, series_of(app, home.id, "grid_import_w", ""), start, 15.0 * S_PER_MIN, at.size)
    tariff = home.tariff_on(day)
    prices = known_prices(tariff, clock, at)
    share = (~np.isnan(power)).mean()
    if tariff is None or prices is None or share < LEAST_KNOWN:
        raise NotKnowable("This week is not known well enough.", "Import the whole of it.")
    # A short gap draws what the day drew: nought would make the week with more gaps the cheaper one.
    kwh = np.where(np.isnan(power), np.nanmean(power), power) * 15.0 * S_PER_MIN / J_PER_KWH
    return float(prices.cost(kwh)) + float(tariff.standing_per_day)
