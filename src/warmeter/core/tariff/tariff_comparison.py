"""Which tariff: a home's own year on each, the hours that decide, and how far things may move before the answer changes."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from itertools import pairwise

import numpy as np

from warmeter.core.home.tariffs import Tariff
from warmeter.core.tariff.bill import LineKind, Metered
from warmeter.core.tariff.bill_slots import BillSlots, bill_slots, slot_prices
from warmeter.core.tariff.bills_of_year import MonthBill, month_bills
from warmeter.core.tariff.metered_energy import MILLION
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_H

LOAD_SHARE = 0.2
MOST_BANDS = 3
_FIXED: tuple[LineKind, ...] = ("standing",)


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffYear:
    """A year's bills on a tariff.

    Parameters
    ----------
    total : Decimal or None
        What its months come to; None where a month cannot be billed.
    low, high : float
        Had every interval been a fifth less, or more.
    fixed : Decimal
        What does not hang on use, taxes left out.
    """

    tariff: Tariff
    months: tuple[MonthBill, ...]
    total: Decimal | None
    low: float
    high: float
    fixed: Decimal

    @property
    def why_not(self) -> str:
        """Why a month cannot be billed; "" if all can."""
        return next((month.why for month in self.months if month.bill is None), "")


@dataclass(frozen=True, slots=True, kw_only=True)
class DecidingHours:
    """Hours of the day [from, to) in some months in which one tariff costs more than another: energy, and how much more."""

    from_hour: int
    to_hour: int
    is_winter: bool
    kwh: float
    more: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffVerdict:
    """What tells the best tariff from another.

    Parameters
    ----------
    lead : Decimal
        How much less the best costs over the time.
    hours : tuple of DecidingHours
        Where the other is dearer (``more`` above nought) or cheaper, those that weigh most first.
    load_factor : float or None
        Times which all use would have to be multiplied for both to cost the same; None where no factor does it.
    price_share : float
        By which share the best one's prices may rise until both cost the same.
    """

    best: str
    other: str
    lead: Decimal
    hours: tuple[DecidingHours, ...]
    load_factor: float | None
    price_share: float


def tariff_year(tariff: Tariff, clock: LocalClock, first_month: date, months: int, metered: Metered) -> TariffYear:
    """Return a home's months on a tariff, whatever dates it is valid on."""
    bills = month_bills([open_ended(tariff)], clock, first_month, months, metered)
    total: Decimal | None = Decimal(0)
    fixed = Decimal(0)
    for month in bills:
        total = None if total is None or month.bill is None else total + month.bill.total
        fixed += month.of(*_FIXED)
    moving = 0.0 if total is None else LOAD_SHARE * float(total - fixed)
    middle = 0.0 if total is None else float(total)
    return TariffYear(tariff=tariff, months=bills, total=total, low=middle - moving, high=middle + moving, fixed=fixed)


def open_ended(tariff: Tariff) -> Tariff:
    """Return a tariff without dates of validity."""
    return replace(
        tariff,
        valid_from=None,
        valid_to=None,
        rates=tuple(replace(rate, valid_from=None, valid_to=None) for rate in tariff.rates),
    )


def verdict(years: Sequence[TariffYear], clock: LocalClock, metered: Metered, now_id: str = "") -> TariffVerdict | None:
    """Return what tells the best tariff from the one in force, or from the next where that is the best.

    None with fewer than two that can be billed.
    """
    ranked = sorted((year for year in years if year.total is not None), key=lambda year: year.total or Decimal(0))
    if len(ranked) < 2:
        return None
    best, other = ranked[:2]
    other = next((year for year in ranked[1:] if year.tariff.id == now_id), other)
    assert best.total is not None  # those without were left out
    assert other.total is not None
    lead = other.total - best.total
    slope = float((other.total - other.fixed) - (best.total - best.fixed))
    offset = float(other.fixed - best.fixed)
    factor = -offset / slope if slope else None
    return TariffVerdict(
        best=best.tariff.id,
        other=other.tariff.id,
        lead=lead,
        hours=_deciding(best.tariff, other.tariff, clock, metered, best.months),
        load_factor=factor if factor is not None and factor > 0 else None,
        price_share=float(lead / best.total) if best.total > 0 else 0.0,
    )


def _deciding(
    best: Tariff, other: Tariff, clock: LocalClock, metered: Metered, months: Sequence[MonthBill]
) -> tuple[DecidingHours, ...]:
    first, last = months[0].first, months[-1].last
    # Both on the finer of their slots, so that they can be taken from each other.
    both = replace(best, rates=(*best.rates, *other.rates), market=best.market or other.market)
    slots: BillSlots = bill_slots(both, clock, first, last, metered.bought)
    more = slot_prices(other, slots, metered.market) - slot_prices(best, slots, metered.market)
    kwh = slots.bought / MILLION
    hour = slots.calendar.minute // MIN_PER_H
    month = slots.calendar.month_day // 100
    winter = (month >= 10) | (month <= 3)
    found: list[DecidingHours] = []
    for is_winter in (True, False):
        own = winter == is_winter
        cost = np.bincount(hour[own], weights=np.nan_to_num(more[own]) * kwh[own], minlength=24)
        energy = np.bincount(hour[own], weights=kwh[own], minlength=24)
        edges = [0, *(np.flatnonzero(np.diff(np.sign(np.round(cost, 6)))) + 1).tolist(), 24]
        found += [
            DecidingHours(
                from_hour=a, to_hour=b, is_winter=is_winter, kwh=float(energy[a:b].sum()), more=float(cost[a:b].sum())
            )
            for a, b in pairwise(edges)
        ]
    ranked = sorted(found, key=lambda hours: abs(hours.more), reverse=True)
    return tuple(hours for hours in ranked[:MOST_BANDS] if abs(hours.more) > 0)
