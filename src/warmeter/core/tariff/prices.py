"""A tariff's prices at instants, and what energy costs at them: each rate's line exactly, and the sum."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Protocol

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import TariffError
from warmeter.core.tariff.structure import BillLine, Rate, by_rate, rate_of_minutes
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN


class Rates(Protocol):
    """A tariff: its rates, and on which dates and by which clock they hold."""

    @property
    def currency(self) -> str:
        """Currency of its prices."""
        ...

    @property
    def rates(self) -> Sequence[Rate]:
        """Its rates; the first that matches counts."""
        ...

    @property
    def holidays(self) -> Collection[date]:
        """Local dates that count as holidays."""
        ...

    @property
    def is_standard_time(self) -> bool:
        """Whether the meter's switch ignores summer time."""
        ...


@dataclass(frozen=True, slots=True, kw_only=True)
class Prices:
    """A tariff's prices [currency/kWh] by step, with the place of the rate in force."""

    tariff: Rates
    rate: Ints
    by_step: Floats

    def bill(self, energy_kwh: Floats) -> tuple[BillLine, ...]:
        """Return the line of each rate that has energy; ``energy_kwh`` by step (docs/methods I2)."""
        return by_rate([(r.name, r.price_per_kwh) for r in self.tariff.rates], self.rate, energy_kwh)

    def cost(self, energy_kwh: Floats) -> Decimal:
        """Return what energy by step costs, each rate's sum at its price, without a rounded step."""
        sums = np.bincount(self.rate, weights=energy_kwh, minlength=len(self.tariff.rates)).tolist()
        return sum(
            (Decimal(repr(k)) * rate.price_per_kwh for k, rate in zip(sums, self.tariff.rates, strict=True)), Decimal(0)
        )


def prices_at(tariff: Rates, clock: LocalClock, at_ms: Ints) -> Prices:
    """Return a tariff's prices at instants [ms UTC]; ``TariffError`` where one has none."""
    rate = rate_of_minutes(
        tariff.rates, at_ms, clock=clock, holidays=frozenset(tariff.holidays), standard_time=tariff.is_standard_time
    )
    price = np.array([float(r.price_per_kwh) for r in tariff.rates])
    return Prices(tariff=tariff, rate=rate, by_step=price[rate])


def prices_between(tariff: Rates, clock: LocalClock, start_ms: int, end_ms: int) -> Prices:
    """Return a tariff's prices by minute; ``TariffError`` where a minute has none."""
    return prices_at(tariff, clock, minutes_between(start_ms, end_ms))


def minutes_between(start_ms: int, end_ms: int) -> Ints:
    """Return the beginnings of the minutes from an instant to another [ms UTC]."""
    return np.arange(start_ms, end_ms, MS_PER_MIN, dtype=np.int64)


def known_prices(tariff: Rates | None, clock: LocalClock, at_ms: Ints) -> Prices | None:
    """Return a tariff's prices at instants, None without a tariff or where one of them has none."""
    if tariff is None:
        return None
    try:
        return prices_at(tariff, clock, at_ms)
    except TariffError:
        return None
