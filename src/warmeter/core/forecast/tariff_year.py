"""A tariff over a year: what energy drawn evenly costs, and the first minute without a price."""

from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal
from functools import lru_cache

import numpy as np

from warmeter.core.errors import TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import Tariff
from warmeter.core.tariff.prices import prices_between
from warmeter.core.tariff.taxes import tax_factor
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN

AHEAD_DAYS = 370
DAYS_A_YEAR, MONTHS_A_YEAR = 365, 12


def money_of_even_use(home: Home, on: date, kwh: Decimal) -> Decimal | None:
    """Return what an energy costs that is drawn evenly over the year before a date; None without a price of all of it."""
    price = mean_price(home, on)
    return None if price is None else kwh * price


def mean_price(home: Home, on: date) -> Decimal | None:
    """Return what a kWh drawn evenly over the year before a date costs; None without a tariff, or where the market prices it."""
    tariff = home.tariff_on(on)
    return None if tariff is None else _mean_price(tariff, home.time_zone, on)


@lru_cache(maxsize=24)
def _mean_price(tariff: Tariff, time_zone: str, on: date) -> Decimal | None:
    clock = LocalClock(time_zone)
    start, end = clock.day(on - timedelta(days=364)).start_ms, clock.day(on).end_ms
    try:
        prices = prices_between(tariff, clock, start, end)
    except TariffError:
        return None
    counts = np.bincount(prices.band, minlength=len(prices.names)).tolist()
    steps = (end - start) // MS_PER_MIN
    return sum(
        (price * n / steps for n, price in zip(counts, prices.prices, strict=True) if price is not None), Decimal(0)
    )


def standing_a_year(tariff: Tariff | None) -> Decimal:
    """Return a tariff's standing charges a year, those of a bill left out; taxes in."""
    if tariff is None:
        return Decimal(0)
    times = {"day": Decimal(DAYS_A_YEAR), "month": Decimal(MONTHS_A_YEAR), "year": Decimal(1), "bill": Decimal(0)}
    factor = Decimal(1) if tariff.prices_include_tax else tax_factor(tariff.taxes)
    return sum((c.amount * times[c.per] * (factor if c.is_taxed else 1) for c in tariff.standing), Decimal(0))


def first_gap(tariff: Tariff, time_zone: str, start_ms: int) -> str:
    """Return which minute of the year from an instant on has no price first, in a sentence; "" if each has one."""
    return _first_gap(tariff, time_zone, start_ms)


@lru_cache(maxsize=100)
def _first_gap(tariff: Tariff, time_zone: str, start_ms: int) -> str:
    try:
        # What the market asks is known for a day or two at most: it is no hole of the tariff.
        rates = replace(tariff, market=None)
        prices_between(rates, LocalClock(time_zone), start_ms, start_ms + AHEAD_DAYS * MS_PER_DAY)
    except TariffError as error:
        return str(error)
    return ""
