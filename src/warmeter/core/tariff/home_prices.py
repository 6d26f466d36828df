"""A home's prices of electricity over a stretch, whichever of its tariffs holds on which day."""

from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.errors import TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import Tariff
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.tariff.prices import Prices, prices_at
from warmeter.core.timegrid import LocalClock

_EPOCH_DATE = date(1970, 1, 1)


def home_prices(home: Home, clock: LocalClock, at_ms: Ints, market: MarketPrices | None = None) -> Prices:
    """Return the prices of electricity at instants [ms UTC], rising.

    Raises
    ------
    TariffError
        Without a tariff, where an instant has no rate or no price of the market, or where currencies meet.
    """
    days = np.unique(clock.local_minutes(at_ms)[0]) if at_ms.size else np.zeros(1, dtype=np.int64)
    of_day = [home.tariff_on(_EPOCH_DATE + timedelta(days=int(day))) for day in days]
    tariffs: list[Tariff] = []
    begins: list[int] = []
    for day, tariff in zip(days.tolist(), of_day, strict=True):
        if tariff is None:
            raise TariffError("there is no tariff yet; type its rates under Tariff")
        if not tariffs or tariffs[-1].id != tariff.id:
            tariffs.append(tariff)
            begins.append(clock.instant(_EPOCH_DATE + timedelta(days=day), 0))
    cuts = np.searchsorted(at_ms, [*begins[1:], np.iinfo(np.int64).max]).tolist()
    parts, start = [], 0
    for tariff, end in zip(tariffs, cuts, strict=True):
        own = at_ms[start:end]
        at_market = market.at(own) if market is not None and tariff.market is not None else None
        parts.append(prices_at(tariff, clock, own, at_market))
        start = end
    return parts[0] if len(parts) == 1 else _joined(parts)


def _joined(parts: list[Prices]) -> Prices:
    if len({part.currency for part in parts}) > 1:
        raise TariffError("two tariffs of this stretch are in different currencies; look at it in two parts")
    offsets = np.concatenate([[0], np.cumsum([len(part.names) for part in parts])]).tolist()
    return Prices(
        currency=parts[0].currency,
        names=tuple(name for part in parts for name in part.names),
        prices=tuple(price for part in parts for price in part.prices),
        band=np.concatenate([part.band + offset for part, offset in zip(parts, offsets, strict=False)]),
        by_step=np.concatenate([part.by_step for part in parts]),
    )
