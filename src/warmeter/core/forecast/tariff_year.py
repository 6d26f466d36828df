"""A tariff over a year: what energy drawn evenly costs, and the first minute without a price."""

from datetime import date, timedelta
from decimal import Decimal
from functools import lru_cache

import numpy as np

from warmeter.core.errors import TariffError
from warmeter.core.home.document import Home, Tariff
from warmeter.core.tariff.prices import prices_between
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN

AHEAD_DAYS = 370


def money_of_even_use(home: Home, on: date, kwh: Decimal) -> Decimal | None:
    """Return what an energy costs that is drawn evenly over the year before a date; None without a tariff."""
    tariff = home.tariff_on(on)
    shares = None if tariff is None else _rate_shares(tariff, home.time_zone, on)
    if tariff is None or shares is None:
        return None
    return sum((kwh * share * rate.price_per_kwh for share, rate in zip(shares, tariff.rates, strict=True)), Decimal(0))


def mean_price(home: Home, on: date) -> Decimal | None:
    """Return what a kWh drawn evenly over the year before a date costs; None without a tariff."""
    return money_of_even_use(home, on, Decimal(1))


@lru_cache(maxsize=24)
def _rate_shares(tariff: Tariff, time_zone: str, on: date) -> tuple[Decimal, ...] | None:
    """Return how much of a year each rate of a tariff holds; None if a minute of it has no rate."""
    clock = LocalClock(time_zone)
    start, end = clock.day(on - timedelta(days=364)).start_ms, clock.day(on).end_ms
    try:
        rate = prices_between(tariff, clock, start, end).rate
    except TariffError:
        return None
    counts = np.bincount(rate, minlength=len(tariff.rates))
    return tuple(Decimal(int(n)) / ((end - start) // MS_PER_MIN) for n in counts)


def first_gap(tariff: Tariff, time_zone: str, start_ms: int) -> str:
    """Return which minute of the year from an instant on has no price first, in a sentence; "" if each has one."""
    return _first_gap(tariff, time_zone, start_ms)


@lru_cache(maxsize=100)
def _first_gap(tariff: Tariff, time_zone: str, start_ms: int) -> str:
    try:
        prices_between(tariff, LocalClock(time_zone), start_ms, start_ms + AHEAD_DAYS * MS_PER_DAY)
    except TariffError as error:
        return str(error)
    return ""
