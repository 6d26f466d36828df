"""Energy of a bill by blocks: each up to its limit at its own price (I3)."""

from collections.abc import Sequence
from decimal import Decimal
from typing import NamedTuple

from warmeter.core.home.tariffs import Rate


class TierUse(NamedTuple):
    """What fell into a block: from where on it counts (None for the first), the units in it, and its price."""

    above: Decimal | None
    units: Decimal
    price_per_unit: Decimal


def tier_uses(rate: Rate, units: Decimal, days: int, of_days: int) -> tuple[TierUse, ...]:
    """Return a rate's units block by block; limits are for ``of_days``, and grow or shrink with the ``days`` billed."""
    begins = [Decimal(0), *(tier.above * days / of_days for tier in rate.tiers)]
    prices = [rate.price_per_unit, *(tier.price_per_unit for tier in rate.tiers)]
    ends: Sequence[Decimal | None] = [*begins[1:], None]
    found = []
    for begin, end, price in zip(begins, ends, prices, strict=True):
        inside = max(Decimal(0), (units if end is None else min(units, end)) - begin)
        found.append(TierUse(None if begin == 0 else begin, inside, price))
    return tuple(found)
