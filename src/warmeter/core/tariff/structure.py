"""A time-of-use tariff (I2) on the home's clock, in exact decimals; flat bills (I1); clock days (I7)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Literal, NamedTuple

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import TariffError
from warmeter.core.timegrid import LocalClock, month_of_epoch_days, weekday_of_epoch_days
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN

DayKind = Literal["weekday", "weekend", "holiday"]
DAY_KINDS: tuple[DayKind, ...] = ("weekday", "weekend", "holiday")
ALL_MONTHS = tuple(range(1, 13))
_EPOCH_DATE = date(1970, 1, 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rate:
    """One rule of a tariff: the first that matches an instant gives its price.

    Parameters
    ----------
    name : str
        As on the bill.
    price_per_kwh : Decimal
        Price, tax included or not as the tariff says [currency/kWh].
    months : tuple of int
        Months 1 to 12 in which it holds.
    days : tuple of str
        Of weekday, weekend, holiday; a holiday is neither of the others.
    from_min, to_min : int
        Local minutes [from, to), over midnight where from > to; 0 to 1440 is the whole day.
    """

    name: str
    price_per_kwh: Decimal
    months: tuple[int, ...] = ALL_MONTHS
    days: tuple[DayKind, ...] = DAY_KINDS
    from_min: int = 0
    to_min: int = 1440

    def __post_init__(self) -> None:
        if not self.price_per_kwh.is_finite():
            raise TariffError(f"the price of {self.name!r} must be a number (got {self.price_per_kwh})")
        if not (0 <= self.from_min <= 1440 and 0 <= self.to_min <= 1440) or self.from_min == self.to_min:
            raise TariffError(f"{self.name!r} must run between two different times of day")
        if not self.months or not set(self.months) <= set(ALL_MONTHS):
            raise TariffError(f"{self.name!r} needs months between 1 and 12")
        if not self.days:
            raise TariffError(f"{self.name!r} needs at least one kind of day")


def rate_of_minutes(
    rates: Sequence[Rate], at_ms: Ints, *, clock: LocalClock, holidays: frozenset[date], standard_time: bool = False
) -> Ints:
    """Return the index of the rate in force at many instants, shape as given.

    Parameters
    ----------
    rates : sequence of Rate
        First match wins.
    at_ms : int array
        Instants [ms UTC].
    clock : LocalClock
        The home's clock.
    holidays : frozenset of date
        Local dates that count as holidays.
    standard_time : bool
        Whether the meter's switch ignores summer time.

    Raises
    ------
    TariffError
        If no rate covers an instant; the sentence names the first.

    Notes
    -----
    docs/methods I2: months, then kind of day (holiday before weekend before weekday), then local minute. The
    kind is that of the instant itself, also past midnight.
    """
    days, minutes = _wall(at_ms, clock, standard_time)
    months = month_of_epoch_days(days)
    unique, place = np.unique(days, return_inverse=True)
    kinds = np.array([_kind_number(int(day), holidays) for day in unique], dtype=np.int64)[place]
    found = np.full(at_ms.shape, -1, dtype=np.int64)
    for number, rate in enumerate(rates):
        inside = (
            (minutes >= rate.from_min) & (minutes < rate.to_min)
            if rate.from_min < rate.to_min
            else (minutes >= rate.from_min) | (minutes < rate.to_min)
        )
        wanted = [DAY_KINDS.index(kind) for kind in rate.days]
        matches = inside & np.isin(months, rate.months) & np.isin(kinds, wanted)
        found[(found < 0) & matches] = number
    if (found < 0).any():
        missing = clock.local(int(at_ms[np.argmax(found < 0)]))
        raise TariffError(f"no rate covers {missing:%a %d %b %Y, %H:%M}; add one without limits at the end of the list")
    return found


def _wall(at_ms: Ints, clock: LocalClock, standard_time: bool) -> tuple[Ints, Ints]:
    if not standard_time:
        return clock.local_minutes(at_ms)
    years = {clock.local(int(at)).year for at in (at_ms.min(), at_ms.max())} if at_ms.size else set()
    # Standard time is the smaller offset of midwinter and midsummer.
    offset = min(
        (clock.offset_min(clock.instant(date(year, month, 1), 0)) for year in years for month in (1, 7)), default=0
    )
    minutes = at_ms // MS_PER_MIN + offset
    return minutes // MIN_PER_DAY, minutes % MIN_PER_DAY


def _kind_number(epoch_day: int, holidays: frozenset[date]) -> int:
    if _EPOCH_DATE + timedelta(days=epoch_day) in holidays:
        return DAY_KINDS.index("holiday")
    weekday = int(weekday_of_epoch_days(np.array([epoch_day]))[0])
    return DAY_KINDS.index("weekend" if weekday >= 5 else "weekday")


class BillLine(NamedTuple):
    """What was drawn at a rate: energy [kWh], cost and price a kWh, exactly."""

    name: str
    kwh: Decimal
    cost: Decimal
    price_per_kwh: Decimal


def by_rate(rates: Sequence[tuple[str, Decimal]], rate: Ints, energy_kwh: Floats) -> tuple[BillLine, ...]:
    """Return the line of each rate that has energy; docs/methods I2.

    Parameters
    ----------
    rates : sequence of (str, Decimal)
        Name and price a kWh.
    rate : (step,) int array
        Place of the rate in force.
    energy_kwh : (step,) float array
        Energy; each rate's sum is taken to a millionth of a kWh.
    """
    sums = np.bincount(rate, weights=energy_kwh, minlength=len(rates))
    exact = [Decimal(repr(round(float(kwh), 6))) for kwh in sums]
    return tuple(
        BillLine(name, kwh, kwh * price, price) for (name, price), kwh in zip(rates, exact, strict=True) if kwh != 0
    )
