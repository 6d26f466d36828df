"""What an energy drawn evenly over a year costs: a tariff's rates by the share of the year that each holds."""

from collections import OrderedDict
from datetime import date, timedelta
from decimal import Decimal

import numpy as np

from warmeter.core.errors import TariffError
from warmeter.core.home.document import Home, Tariff
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN
from warmeter.service.costing import prices_between

KEPT = 24


def money_of_even_use(home: Home, on: date, kwh: Decimal) -> Decimal | None:
    """Return what an energy costs that is drawn evenly over the year before a date; None without a tariff."""
    tariff = home.tariff_on(on)
    shares = None if tariff is None else _rate_shares(tariff, home.time_zone, on)
    if tariff is None or shares is None:
        return None
    return sum((kwh * share * rate.price_per_kwh for share, rate in zip(shares, tariff.rates, strict=True)), Decimal(0))


_SHARES: OrderedDict[object, tuple[Decimal, ...] | None] = OrderedDict()


def _rate_shares(tariff: Tariff, zone: str, on: date) -> tuple[Decimal, ...] | None:
    """Return how much of a year each rate of a tariff holds; None if a minute of it has no rate."""
    key = tariff, zone, on
    if key not in _SHARES:
        clock = LocalClock(zone)
        start, end = clock.day(on - timedelta(days=364)).start_ms, clock.day(on).end_ms
        try:
            rate = prices_between(tariff, clock, start, end).rate
            counts = np.bincount(rate, minlength=len(tariff.rates))
            _SHARES[key] = tuple(Decimal(int(n)) / ((end - start) // MS_PER_MIN) for n in counts)
        except TariffError:
            _SHARES[key] = None
        while len(_SHARES) > KEPT:
            _SHARES.popitem(last=False)
    return _SHARES[key]


def mean_price(home: Home, on: date) -> Decimal | None:
    """Return what a kWh drawn evenly over the year before a date costs; None without a tariff."""
    return money_of_even_use(home, on, Decimal(1))
