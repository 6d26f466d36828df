"""A bill's time cut into slots in which no rate changes, with what was bought and sold in each."""

import math
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import Tariff
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.tariff.metered_energy import MeteredEnergy
from warmeter.core.tariff.prices import prices_at
from warmeter.core.tariff.rates_in_force import LocalCalendar, calendar_of
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_H, MS_PER_H, MS_PER_MIN

# Clocks change on a half hour, so no slot is longer.
LONGEST_SLOT_MIN = 30


@dataclass(frozen=True, slots=True, kw_only=True)
class Intervals:
    """A demand's intervals: beginnings, what was bought in each, whether it is wholly known, on the meter's clock.

    ``is_coarse``: the meter's own readings are longer than the interval, so peaks within them are hidden.
    """

    start_ms: Ints
    bought: Ints
    is_known: Flags
    calendar: LocalCalendar
    is_coarse: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class BillSlots:
    """Slots of local days [first, last].

    Parameters
    ----------
    edges_ms : (slot + 1,) int array
        [ms UTC]
    bought, sold : (slot,) int arrays
        [millionth of a billed unit]
    is_known : (slot,) bool array
        Whether all of the slot's time is metered.
    """

    clock: LocalClock
    first: date
    last: date
    edges_ms: Ints
    bought: Ints
    sold: Ints
    is_known: Flags
    calendar: LocalCalendar
    metered: MeteredEnergy

    @property
    def start_ms(self) -> Ints:
        """Beginnings of the slots [ms UTC]."""
        return self.edges_ms[:-1]

    def intervals(self, tariff: Tariff, interval_min: int) -> Intervals:
        """Return the same time in intervals of a demand charge."""
        step = interval_min * MS_PER_MIN
        edges = np.arange(self.edges_ms[0], self.edges_ms[-1] + 1, step, dtype=np.int64)
        bought, known = self.metered.between(edges)
        return Intervals(
            start_ms=edges[:-1],
            bought=bought,
            is_known=known,
            calendar=calendar_of(tariff, self.clock, edges[:-1]),
            is_coarse=self.metered.step_ms == 0 or self.metered.step_ms > step,
        )


def bill_slots(
    tariff: Tariff, clock: LocalClock, first: date, last: date, bought: MeteredEnergy, sold: MeteredEnergy | None = None
) -> BillSlots:
    """Return the slots of local days [first, last]: the longest at whose edges every rate and interval changes."""
    begin, end = clock.instant(first, 0), clock.instant(last + timedelta(days=1), 0)
    step = slot_min(tariff, clock, begin, end, bought.step_ms // MS_PER_MIN) * MS_PER_MIN
    edges = np.arange(begin, end + 1, step, dtype=np.int64)
    amounts, known = bought.between(edges)
    out = np.zeros_like(amounts) if sold is None else sold.between(edges)[0]
    return BillSlots(
        clock=clock,
        first=first,
        last=last,
        edges_ms=edges,
        bought=amounts,
        sold=out,
        is_known=known,
        calendar=calendar_of(tariff, clock, edges[:-1]),
        metered=bought,
    )


def slot_min(tariff: Tariff, clock: LocalClock, start_ms: int, end_ms: int, step_min: int) -> int:
    """Return the longest slot [min] at whose edges each rate, market interval and meter interval begins, 30 at most."""
    edges = [minute for rate in tariff.rates for minute in (rate.hours.from_min, rate.hours.to_min)]
    offsets = np.unique(clock.offsets_min(np.arange(start_ms, end_ms, 24 * MS_PER_H, dtype=np.int64))).tolist()
    market = [] if tariff.market is None else [tariff.market.step_min]
    return math.gcd(LONGEST_SLOT_MIN, *edges, *(abs(o) % MIN_PER_H for o in offsets), *market, step_min)


def slot_prices(tariff: Tariff, slots: BillSlots, market: MarketPrices | None) -> Floats:
    """Return the price of each slot, all parts and taxes in, NaN where none is known [currency/unit]."""
    known = np.full(slots.start_ms.shape, np.nan) if market is None else market.at(slots.start_ms)
    try:
        return prices_at(tariff, slots.clock, slots.start_ms, np.nan_to_num(known)).by_step * np.where(
            np.isnan(known) & (tariff.market is not None), np.nan, 1.0
        )
    except TariffError:
        return np.full(slots.start_ms.shape, np.nan)
