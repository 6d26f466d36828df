"""Bills month by month over a year, added up as a customer pays them; energy by hour of day and day of week."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import CurrencyChange, Tariff
from warmeter.core.tariff.bill import Bill, LineKind, Metered, bill
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy
from warmeter.core.timegrid import LocalClock, weekday_of_epoch_days
from warmeter.core.units import MIN_PER_H, MS_PER_H

HOURS, WEEKDAYS, MONTHS = 24, 7, 12


@dataclass(frozen=True, slots=True, kw_only=True)
class MonthBill:
    """A month's bill, or why there is none."""

    first: date
    last: date
    bill: Bill | None
    why: str = ""

    def of(self, *kinds: LineKind) -> Decimal:
        """Return what lines of some kinds come to; 0 without a bill."""
        if self.bill is None:
            return Decimal(0)
        return sum((line.amount for line in self.bill.lines if line.kind in kinds and not line.is_within), Decimal(0))


def month_bills(
    tariffs: Sequence[Tariff],
    clock: LocalClock,
    first_month: date,
    months: int,
    metered: Metered,
    changes: Sequence[CurrencyChange] = (),
) -> tuple[MonthBill, ...]:
    """Return the bills of so many calendar months from the one of a date on; a month that cannot be billed says why."""
    found = []
    begin = first_month.replace(day=1)
    for _ in range(months):
        following = date(begin.year + begin.month // 12, begin.month % 12 + 1, 1)
        last = following - timedelta(days=1)
        try:
            found.append(MonthBill(first=begin, last=last, bill=bill(tariffs, clock, begin, last, metered, changes)))
        except TariffError as error:
            found.append(MonthBill(first=begin, last=last, bill=None, why=str(error)))
        begin = following
    return tuple(found)


def use_by_hour(metered: MeteredEnergy, clock: LocalClock, first: date, last: date) -> Floats:
    """Return the energy that is known of local days [first, last], by day of the week and hour, shape (7, 24) [unit]."""
    begin, end = clock.instant(first, 0), clock.instant(last + timedelta(days=1), 0)
    step = MS_PER_H // 4
    edges = np.arange(begin, end + 1, step, dtype=np.int64)
    amounts, _ = metered.between(edges)
    days, minutes = clock.local_minutes(edges[:-1])
    place = weekday_of_epoch_days(days) * HOURS + minutes // MIN_PER_H
    return (np.bincount(place, weights=amounts, minlength=WEEKDAYS * HOURS) / MILLION).reshape(WEEKDAYS, HOURS)
