"""A home's prices at instants: its tariffs by date, with the market's prices that were imported."""

from warmeter.core.arrays import Ints
from warmeter.core.errors import TariffError
from warmeter.core.home.document import Home
from warmeter.core.readings.resample import usual_step_s
from warmeter.core.tariff.home_prices import home_prices
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.tariff.prices import Prices
from warmeter.core.units import MS_PER_DAY, MS_PER_S, S_PER_H
from warmeter.service.app import App
from warmeter.service.readings.room_logs import series_of

MARKET = "market_price"


def market_prices(app: App, home: Home, start_ms: int, end_ms: int) -> MarketPrices | None:
    """Return the market's prices that were imported, of [start, end) [ms UTC] with a day before; None where there are none."""
    series = series_of(app, home.id, MARKET, "")
    if not series:
        return None
    newest = series[-1]
    found = app.readings.readings(newest.id, start_ms - MS_PER_DAY, end_ms).in_stored_unit(newest.record)
    step_s = newest.record.step_s or usual_step_s(found.at_ms) or S_PER_H
    return MarketPrices(start_ms=found.at_ms, step_ms=step_s * MS_PER_S, price=found.value)


def prices_for(app: App, home: Home, at_ms: Ints) -> Prices:
    """Return the prices of electricity at instants [ms UTC], rising; ``TariffError`` where one has none."""
    market = None
    if at_ms.size and any(tariff.market is not None for tariff in home.tariffs):
        market = market_prices(app, home, int(at_ms[0]), int(at_ms[-1]) + 1)
    return home_prices(home, app.clock(home), at_ms, market)


def known_prices(app: App, home: Home, at_ms: Ints) -> Prices | None:
    """Return the prices of electricity at instants [ms UTC], rising; None where one of them has none."""
    try:
        return prices_for(app, home, at_ms)
    except TariffError:
        return None
