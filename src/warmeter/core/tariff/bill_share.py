"""What a part of a home's use adds to its bills: each month billed as it was, and as it would have been without it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.home.tariffs import CurrencyChange, Tariff
from warmeter.core.tariff.bill import Metered
from warmeter.core.tariff.bills_of_year import MonthBill, month_bills
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_H, W_PER_KW


@dataclass(frozen=True, slots=True, kw_only=True)
class BillShare:
    """What a part adds to the bill of each month, first to last; None where a month cannot be billed."""

    by_month: tuple[Decimal | None, ...]

    @property
    def last(self) -> Decimal | None:
        """Of the last month."""
        return self.by_month[-1]

    @property
    def total(self) -> Decimal | None:
        """Of all months; None where one cannot be billed."""
        return self.known if self.months == len(self.by_month) else None

    @property
    def months(self) -> int:
        """How many months can be billed."""
        return sum(each is not None for each in self.by_month)

    @property
    def known(self) -> Decimal:
        """Of the months that can be billed."""
        return sum((each for each in self.by_month if each is not None), Decimal(0))


def bill_share(
    as_was: Sequence[MonthBill],
    tariffs: Sequence[Tariff],
    clock: LocalClock,
    metered: Metered,
    part: MeteredEnergy,
    changes: Sequence[CurrencyChange] = (),
) -> BillShare:
    """Return what a part adds to bills of neighbouring months.

    Parameters
    ----------
    as_was : sequence of MonthBill
        Of ``metered``, by ``month_bills``; one or more.
    part : MeteredEnergy
        What went through the part; time of which it knows nothing counts as nothing.

    Notes
    -----
    docs/methods I1: tiers, demand, taxes and rounding are those of whole bills, so that shares of several parts need
    not add up to the share of all of them together.
    """
    rest = month_bills(tariffs, clock, as_was[0].first, len(as_was), without(metered, part), changes)
    return BillShare(
        by_month=tuple(
            None if whole.bill is None or left.bill is None else whole.bill.total - left.bill.total
            for whole, left in zip(as_was, rest, strict=True)
        )
    )


def without(metered: Metered, part: MeteredEnergy) -> Metered:
    """Return what the meters would have counted without a part: bought is less, and what is left over is sold."""
    own = _within(part, metered.bought)
    taken = np.minimum(own, metered.bought.millionths)
    bought = replace(metered.bought, millionths=metered.bought.millionths - taken)
    if metered.sold is None or not (own > taken).any():
        return replace(metered, bought=bought)
    more = _within(replace(metered.bought, millionths=own - taken), metered.sold)
    return Metered(bought, replace(metered.sold, millionths=metered.sold.millionths + more), metered.market)


def own_use(metered: Metered, made: MeteredEnergy) -> MeteredEnergy:
    """Return what of the sun's energy was used at home in each stretch of the bought meter: made less sold (docs/methods I6)."""
    sold = 0 if metered.sold is None else _within(metered.sold, metered.bought)
    return replace(metered.bought, millionths=np.maximum(_within(made, metered.bought) - sold, 0))


def bought_instead(metered: Metered, own: MeteredEnergy) -> Metered:
    """Return what the meters would have counted, had what ``own_use`` tells been bought."""
    return replace(metered, bought=replace(metered.bought, millionths=metered.bought.millionths + own.millionths))


def even_use(metered: MeteredEnergy, power_w: float) -> MeteredEnergy:
    """Return a power drawn all the time that a meter knows of [W]."""
    hours = (metered.end_ms - metered.start_ms) / MS_PER_H
    amount = np.rint(hours * power_w / W_PER_KW * MILLION).astype(np.int64)
    return replace(metered, millionths=amount)


def _within(part: MeteredEnergy, stretches: MeteredEnergy) -> Ints:
    """Return what went through a part in each stretch of a meter [millionth of a unit]."""
    edges = np.unique(np.concatenate([stretches.start_ms, stretches.end_ms]))
    if edges.size < 2:
        return np.zeros(stretches.start_ms.size, dtype=np.int64)
    passed = np.concatenate([[0], np.cumsum(part.between(edges)[0])])
    found: Ints = passed[np.searchsorted(edges, stretches.end_ms)] - passed[np.searchsorted(edges, stretches.start_ms)]
    return found
