"""Watts × hours × days × price (K1), without a rounded step."""

from dataclasses import dataclass
from decimal import Decimal

from warmeter.core.errors import OutOfRange, within

HOURS_A_YEAR = Decimal(8760)


@dataclass(frozen=True, slots=True, kw_only=True)
class SimpleSaving:
    """A year's saving: energy [kWh], money, and years until the cost has come back (None if never)."""

    kwh_per_year: Decimal
    money_per_year: Decimal
    payback_years: Decimal | None


def exact(value: float) -> Decimal:
    """Return a number as the decimal that is written for it."""
    return Decimal(repr(float(value)))


def simple_saving(
    *, power_w: float, hours_per_day: float, days_per_year: float, price_per_kwh: Decimal, cost: Decimal
) -> SimpleSaving:
    """Return what a year without some watts saves.

    Parameters
    ----------
    power_w : float
        Power no longer drawn, 0 to 1e6 [W].
    hours_per_day : float
        0 to 24 [h].
    days_per_year : float
        0 to 366.
    price_per_kwh : Decimal
        Marginal price [currency/kWh]; may be negative.
    cost : Decimal
        Of what prevents the waste, at least 0.

    Raises
    ------
    OutOfRange
        If a number lies outside its range.

    Notes
    -----
    docs/methods K1: kWh = W h d/1000; saving = kWh × price; payback = cost/saving, None without a saving.
    """
    within("power", power_w, 0.0, 1e6, "W")
    within("hours a day", hours_per_day, 0.0, 24.0, "h")
    within("days a year", days_per_year, 0.0, 366.0)
    if cost < 0:
        raise OutOfRange("cost", float(cost), 0.0, 1e9)
    kwh = exact(power_w) * exact(hours_per_day) * exact(days_per_year) / 1000
    return saving_of(kwh, price_per_kwh, cost)


def saving_of(kwh_per_year: Decimal, price_per_kwh: Decimal, cost: Decimal) -> SimpleSaving:
    """Return the saving of a year's energy that was measured rather than multiplied [kWh]."""
    return saving_with(kwh_per_year, kwh_per_year * price_per_kwh, cost)


def saving_with(kwh_per_year: Decimal, money_per_year: Decimal, cost: Decimal) -> SimpleSaving:
    """Return the saving of a year whose energy [kWh] and money are known already."""
    payback = cost / money_per_year if money_per_year > 0 else None
    return SimpleSaving(kwh_per_year=kwh_per_year, money_per_year=money_per_year, payback_years=payback)
