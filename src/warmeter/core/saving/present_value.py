"""What a saving of some years is worth today, against what it costs (K2)."""

from dataclasses import dataclass
from decimal import Decimal

from warmeter.core.errors import OutOfRange, within

MOST_YEARS = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class PresentValue:
    """Net present value [currency], and years until the discounted savings have paid the cost (None if they do not)."""

    net: Decimal
    payback_years: Decimal | None


def present_value(
    *, cost: Decimal, saving_year1: Decimal, discount_rate: Decimal, price_growth: Decimal, years: int
) -> PresentValue:
    """Return what savings at the end of each year are worth today, less a cost paid at once.

    Parameters
    ----------
    cost : Decimal
        At least 0 [currency].
    saving_year1 : Decimal
        Of the first year; may be negative [currency].
    discount_rate, price_growth : Decimal
        A year, −0.5 to 1 (ratio).
    years : int
        That it lasts, 1 to 100.

    Raises
    ------
    OutOfRange
        If a number lies outside its range.

    Notes
    -----
    docs/methods K2: net = −cost + Σ s (1 + g)^(k − 1)/(1 + r)^k; the payback is interpolated within its year.
    """
    if cost < 0:
        raise OutOfRange("cost", float(cost), 0.0, 1e9)
    within("discount rate", float(discount_rate), -0.5, 1.0)
    within("growth of prices", float(price_growth), -0.5, 1.0)
    within("years", years, 1, MOST_YEARS)
    net, payback = -cost, None if cost else Decimal(0)
    for year in range(1, years + 1):
        worth = saving_year1 * (1 + price_growth) ** (year - 1) / (1 + discount_rate) ** year
        if payback is None and net + worth >= 0:
            payback = year - 1 - net / worth
        net += worth
    return PresentValue(net=net, payback_years=payback)
