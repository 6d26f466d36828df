"""What a unit costs at each instant, all parts and taxes in, and what energy costs at these prices."""

from dataclasses import dataclass
from decimal import Decimal
from typing import NamedTuple

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import PricePart, Tariff
from warmeter.core.tariff.rates_in_force import NO_RATE, LocalCalendar, calendar_of, rates_in_force
from warmeter.core.tariff.taxes import tax_factor
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN

BOUGHT: tuple[PricePart, ...] = ("energy", "network", "levy")


class RateCost(NamedTuple):
    """What was drawn at a rate: energy [kWh], cost and price a kWh; the mean price where it changes with the market."""

    name: str
    kwh: Decimal
    cost: Decimal
    price_per_kwh: Decimal


@dataclass(frozen=True, slots=True, kw_only=True)
class Prices:
    """Prices with taxes by step [currency/kWh], and the band of rates that each step belongs to.

    Parameters
    ----------
    names, prices : tuple
        Name and price of each band; None where it changes with the market.
    band : (step,) int array
        Which band holds.
    by_step : (step,) float array
        Price of each step.
    """

    currency: str
    names: tuple[str, ...]
    prices: tuple[Decimal | None, ...]
    band: Ints
    by_step: Floats

    def by_rate(self, energy_kwh: Floats) -> tuple[RateCost, ...]:
        """Return what each band costs that has energy; ``energy_kwh`` by step, its sums to a millionth of a kWh."""
        sums = np.bincount(self.band, weights=energy_kwh, minlength=len(self.names)).tolist()
        market = np.bincount(self.band, weights=energy_kwh * self.by_step, minlength=len(self.names)).tolist()
        found = []
        for name, price, total, paid in zip(self.names, self.prices, sums, market, strict=True):
            kwh = Decimal(repr(round(total, 6)))
            if kwh:
                cost = Decimal(repr(round(paid, 9))) if price is None else kwh * price
                found.append(RateCost(name, kwh, cost, cost / kwh if price is None else price))
        return tuple(found)

    def cost(self, energy_kwh: Floats) -> Decimal:
        """Return what energy by step costs, each band's sum at its price, without a rounded step."""
        sums = np.bincount(self.band, weights=energy_kwh, minlength=len(self.names)).tolist()
        market = np.bincount(self.band, weights=energy_kwh * self.by_step, minlength=len(self.names)).tolist()
        return sum(
            (
                Decimal(repr(paid)) if price is None else Decimal(repr(kwh)) * price
                for kwh, paid, price in zip(sums, market, self.prices, strict=True)
            ),
            Decimal(0),
        )


def one_price(name: str, price: Decimal, currency: str, steps: int) -> Prices:
    """Return the prices of what costs the same at every step."""
    return Prices(
        currency=currency,
        names=(name,),
        prices=(price,),
        band=np.zeros(steps, dtype=np.int64),
        by_step=np.full(steps, float(price)),
    )


def prices_at(tariff: Tariff, clock: LocalClock, at_ms: Ints, market: Floats | None = None) -> Prices:
    """Return a tariff's prices at instants [ms UTC], of the first tier of each rate.

    Parameters
    ----------
    market : (instant,) float array, optional
        The market's price at each [currency/kWh], NaN where not known; needed where the tariff follows it.

    Raises
    ------
    TariffError
        Where an instant has no rate, or no price of the market.
    """
    calendar = calendar_of(tariff, clock, at_ms)
    combined, rate_sets = _combined(tariff, calendar)
    missing = combined == NO_RATE
    if missing.any():
        raise TariffError(_no_rate(clock, int(at_ms[np.argmax(missing)])))
    factor = Decimal(1) if tariff.prices_include_tax else tax_factor(tariff.taxes)
    names = tuple(name for name, _ in rate_sets)
    added = np.array([float(price) for _, price in rate_sets])
    if tariff.market is None:
        prices = tuple(price * factor for _, price in rate_sets)
        by_step = np.array([float(p) for p in prices])[combined]
        return Prices(currency=tariff.currency, names=names, prices=prices, band=combined, by_step=by_step)
    if market is None or np.isnan(market).any():
        first = at_ms[0] if market is None else at_ms[np.argmax(np.isnan(market))]
        raise TariffError(f"no market price is known for {clock.local(int(first)):%a %d %b %Y, %H:%M}; import it")
    by_step = (market * float(tariff.market.factor) + added[combined]) * float(factor)
    return Prices(currency=tariff.currency, names=names, prices=(None,) * len(names), band=combined, by_step=by_step)


def _no_rate(clock: LocalClock, at_ms: int) -> str:
    return f"no rate covers {clock.local(at_ms):%a %d %b %Y, %H:%M}; add one without limits at the end of the list"


def _combined(tariff: Tariff, calendar: LocalCalendar) -> tuple[Ints, list[tuple[str, Decimal]]]:
    """Return which set of rates holds at each step, ``NO_RATE`` without energy, and each set's name and price."""
    parts = [tariff.rates_of(part) for part in BOUGHT]
    places = [rates_in_force(rates, calendar) for rates in parts]
    code = np.zeros(calendar.minute.shape, dtype=np.int64)
    for rates, place in zip(parts, places, strict=True):
        code = code * (len(rates) + 1) + place + 1
    uncovered = places[0] == NO_RATE
    _, first, back = np.unique(code, return_index=True, return_inverse=True)
    sets = []
    for at in first.tolist():
        chosen = [rates[int(place[at])] for rates, place in zip(parts, places, strict=True) if place[at] != NO_RATE]
        price = sum((rate.price_per_unit for rate in chosen), Decimal(0))
        sets.append((chosen[0].name if chosen else "", price))
    return np.where(uncovered, NO_RATE, back.reshape(code.shape)), sets


def export_prices_at(tariff: Tariff, clock: LocalClock, at_ms: Ints, market: Floats | None = None) -> Floats:
    """Return what a unit sold earns at instants [ms UTC], 0 where the tariff pays nothing; NaN where the market is not known."""
    rates = tariff.rates_of("export")
    place = rates_in_force(rates, calendar_of(tariff, clock, at_ms))
    paid = np.array([0.0, *(float(rate.price_per_unit) for rate in rates)])[place + 1]
    if tariff.market is not None and tariff.market.pays_export:
        paid = paid + (np.full(at_ms.shape, np.nan) if market is None else market * float(tariff.market.factor))
    return np.asarray(paid, dtype=np.float64)


def prices_between(
    tariff: Tariff, clock: LocalClock, start_ms: int, end_ms: int, market: Floats | None = None
) -> Prices:
    """Return a tariff's prices by minute; ``TariffError`` where a minute has none."""
    return prices_at(tariff, clock, minutes_between(start_ms, end_ms), market)


def minutes_between(start_ms: int, end_ms: int) -> Ints:
    """Return the beginnings of the minutes from an instant to another [ms UTC]."""
    return np.arange(start_ms, end_ms, MS_PER_MIN, dtype=np.int64)
