"""Prices of a market, an interval each: when they begin, how long they hold, and what they are (I4)."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats, Ints

PRICE_DECIMALS = 9


@dataclass(frozen=True, slots=True, kw_only=True)
class MarketPrices:
    """Prices of a market by interval.

    Parameters
    ----------
    start_ms : (interval,) int array
        Rising [ms UTC].
    step_ms : int
        How long each holds; an interval without its successor holds no longer.
    price : (interval,) float array
        [currency/kWh]; below nought whoever draws is paid.
    """

    start_ms: Ints
    step_ms: int
    price: Floats

    def at(self, at_ms: Ints) -> Floats:
        """Return the price at instants [ms UTC], NaN where none is known."""
        if not self.start_ms.size:
            return np.full(at_ms.shape, np.nan)
        place = np.clip(np.searchsorted(self.start_ms, at_ms, side="right") - 1, 0, None)
        inside = (at_ms >= self.start_ms[place]) & (at_ms < self.start_ms[place] + self.step_ms)
        return np.where(inside, self.price[place], np.nan)


def exact_price(price: float) -> Decimal:
    """Return a price as the decimal that was written, to a billionth."""
    return Decimal(repr(round(price, PRICE_DECIMALS)))


def market_cost(millionths: Ints, price: Floats) -> Decimal:
    """Return what amounts cost at the market's prices, exactly, unknown prices left out.

    Parameters
    ----------
    millionths : (slot,) int array
        [millionth of a kWh]
    price : (slot,) float array
        [currency/kWh], NaN where not known.

    Notes
    -----
    docs/methods I4: there is no floor, negative prices pay.
    """
    known = ~np.isnan(price)
    found, place = np.unique(price[known], return_inverse=True)
    sums = np.zeros(found.size, dtype=np.int64)
    np.add.at(sums, place, millionths[known])
    total = sum((exact_price(p) * m for p, m in zip(found.tolist(), sums.tolist(), strict=True)), Decimal(0))
    return total.scaleb(-6)
