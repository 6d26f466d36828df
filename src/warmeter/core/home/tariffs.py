"""Tariffs of a home: prices by part, season, kind of day and hour, charges, taxes, and typed bills and meter readings."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import TariffError
from warmeter.core.home.part import Document, Id, Name, Text, Word
from warmeter.core.timegrid import LocalClock

Carrier = Literal["electricity", "gas", "oil", "lpg", "pellets", "logs", "district_heat", "water"]
MeterUnit = Literal["kWh", "m³", "L", "kg", "therm", "gal", "ft³", "CCF"]
PricePart = Literal["energy", "network", "levy", "export"]
PRICE_PARTS: tuple[PricePart, ...] = ("energy", "network", "levy", "export")
RateDay = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun", "holiday"]
RATE_DAYS: tuple[RateDay, ...] = ("mon", "tue", "wed", "thu", "fri", "sat", "sun", "holiday")
WORKDAYS, WEEKEND = RATE_DAYS[:5], RATE_DAYS[5:7]
MOST_RATES = 200
YEAR_BEGINS, YEAR_ENDS = "01-01", "12-31"
_MONTH_DAYS = (31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
MonthDay = Annotated[str, Len(5, 5)]
Price = Annotated[Decimal, Ge(-1_000_000), Le(1_000_000)]
Amount = Annotated[Decimal, Ge(-1_000_000_000), Le(1_000_000_000)]
Quantity = Annotated[Decimal, Ge(0), Le(1_000_000_000)]
Currency = Annotated[str, Len(3, 3)]


def month_day_number(text: str) -> int:
    """Return "10-01" as 1001; ``TariffError`` if it is no month and day."""
    month, dash, day = text.partition("-")
    if not (dash and len(month) == len(day) == 2 and (month + day).isdecimal()):
        raise TariffError(f"{text!r} is no month and day such as 10-01")
    if not (1 <= int(month) <= 12 and 1 <= int(day) <= _MONTH_DAYS[int(month) - 1]):
        raise TariffError(f"{text!r} is no day of a year")
    return 100 * int(month) + int(day)


@dataclass(frozen=True, slots=True, kw_only=True)
class YearSpan(Document):
    """Days of every year, both ends counted, over the new year where the first comes after the last."""

    from_day: MonthDay
    to_day: MonthDay

    def __post_init__(self) -> None:
        month_day_number(self.from_day)
        month_day_number(self.to_day)


@dataclass(frozen=True, slots=True, kw_only=True)
class TierPrice(Document):
    """What a unit costs above a limit [unit a bill, or a ``Tariff.tier_days``], up to the next tier's."""

    above: Annotated[Decimal, Gt(0), Le(1_000_000)]
    price_per_unit: Price


@dataclass(frozen=True, slots=True, kw_only=True)
class RateHours(Document):
    """When something holds: seasons, kinds of day, and local minutes [from, to).

    Parameters
    ----------
    seasons : tuple of YearSpan
        Empty for the whole year.
    days : tuple of str
        Days of the week, and ``holiday``; a holiday is none of the others.
    from_min, to_min : int
        Over midnight where from > to; 0 to 1440 is the whole day. The kind of day is that of the instant itself.
    """

    seasons: Annotated[tuple[YearSpan, ...], Len(0, 12)] = ()
    days: Annotated[tuple[RateDay, ...], Len(1, 8)] = RATE_DAYS
    from_min: Annotated[int, Ge(0), Le(1440)] = 0
    to_min: Annotated[int, Ge(0), Le(1440)] = 1440

    def __post_init__(self) -> None:
        if self.from_min == self.to_min or not (0 <= self.from_min <= 1440 and 0 <= self.to_min <= 1440):
            raise TariffError("hours run between two different times of day; 0 to 1440 is the whole day")
        if not self.days:
            raise TariffError("hours hold on one day of the week at least, or on holidays")


ALWAYS = RateHours()


@dataclass(frozen=True, slots=True, kw_only=True)
class Rate(Document):
    """One rate of a tariff: in its part of the price the first rate that matches an instant holds.

    Parameters
    ----------
    name : str
        As on the bill.
    price_per_unit : Decimal
        [currency a billed unit], tax included or not as the tariff says; for export what is paid to the home.
    part : str
        Which part of the price: ``energy``, ``network``, ``levy``, or ``export`` for what is sold.
    hours : RateHours
        When it holds.
    valid_from, valid_to : date, optional
        First and last local date of its price.
    tiers : tuple of TierPrice
        Dearer or cheaper blocks of this rate's own energy, limits rising.
    """

    name: Name
    price_per_unit: Price
    part: PricePart = "energy"
    hours: RateHours = ALWAYS
    valid_from: date | None = None
    valid_to: date | None = None
    tiers: Annotated[tuple[TierPrice, ...], Len(0, 10)] = ()

    def __post_init__(self) -> None:
        if not self.price_per_unit.is_finite():
            raise TariffError(f"the price of {self.name!r} must be a number (got {self.price_per_unit})")
        _in_order(self.valid_from, self.valid_to, self.name)
        limits = [tier.above for tier in self.tiers]
        if limits != sorted(set(limits)):
            raise TariffError(f"the limits of {self.name!r} must rise from tier to tier")


@dataclass(frozen=True, slots=True, kw_only=True)
class StandingCharge(Document):
    """A charge that does not hang on use: an amount a day, a month, a year (by its days) or a bill."""

    name: Name = "Standing charge"
    amount: Price = Decimal(0)
    per: Literal["day", "month", "year", "bill"] = "day"
    is_taxed: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class DemandCharge(Document):
    """A charge for the highest mean power of an interval, by calendar month or by bill.

    Parameters
    ----------
    price_per_kw : Decimal
        [currency a kW and month, or a kW and bill]; of a month that is billed in part, by its days.
    interval_min : int
        Over which the utility takes the mean.
    counts : str
        ``highest``, or ``top3_days``: the mean of the three largest daily peaks.
    hours : RateHours
        Only intervals within them count.
    """

    name: Name = "Demand"
    price_per_kw: Annotated[Decimal, Ge(0), Le(1_000_000)]
    interval_min: Literal[15, 30, 60] = 30
    counts: Literal["highest", "top3_days"] = "highest"
    over: Literal["month", "bill"] = "month"
    hours: RateHours = ALWAYS
    is_taxed: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class MarketPrice(Document):
    """Energy at the market's price of each interval, times a factor; the energy rates are added to it.

    ``time_zone`` is the market's own, ``step_min`` the length of its intervals; ``pays_export`` whether what is sold
    earns the market's price (with the export rates added) too.
    """

    time_zone: Annotated[str, Len(1, 64)] = "UTC"
    step_min: Literal[15, 30, 60] = 60
    factor: Annotated[Decimal, Ge(0), Le(10)] = Decimal(1)
    pays_export: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Tax(Document):
    """A tax on what is taxed, as a ratio (0.05 is 5 %); ``is_on_taxes``: also on the taxes before it."""

    name: Name = "VAT"
    rate: Annotated[Decimal, Ge(0), Le(2)]
    is_on_taxes: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Rounding(Document):
    """A bill's custom: what is rounded to the currency's smallest coin, how, and on what tax is worked out.

    ``each`` is ``line`` (each line, then the tax of their sum), ``line_with_tax`` (also the tax of each line), or
    ``total`` (only the sum to pay).
    """

    each: Literal["line", "line_with_tax", "total"] = "line"
    mode: Literal["half_up", "half_even"] = "half_up"


BY_LINE = Rounding()


@dataclass(frozen=True, slots=True, kw_only=True)
class Tariff(Document):
    """What a carrier costs between two dates.

    Parameters
    ----------
    carrier : str
        What it prices.
    billed_unit : str
        Prices are per this unit.
    meter_unit, kwh_per_unit
        What the meter counts, and the energy in one of it as the bill has it (gas: correction times calorific value).
        Only where the meter counts another unit than is billed.
    rates : tuple of Rate
        In each part of the price the first that matches holds.
    tier_days : int, optional
        Limits of tiers are for so many days; not given: for a bill.
    prices_include_tax : bool
        Whether the prices typed hold the taxes already.
    export_netting : str
        ``interval``: as metered; ``bill``: what is sold is first taken off what is bought, rate by rate.
    valid_from, valid_to : date, optional
        First and last local date.
    holidays : tuple of date
        Beside those of the home's calendar.
    is_standard_time : bool
        Whether the meter's switch ignores summer time.
    is_offer : bool
        To be compared only; nothing is priced by it.
    """

    id: Id = "tariff"
    name: Name
    currency: Currency
    carrier: Carrier = "electricity"
    billed_unit: MeterUnit = "kWh"
    meter_unit: MeterUnit | None = None
    kwh_per_unit: Annotated[Decimal, Gt(0), Le(10_000)] | None = None
    rates: Annotated[tuple[Rate, ...], Len(1, MOST_RATES)]
    standing: Annotated[tuple[StandingCharge, ...], Len(0, 20)] = ()
    demand: Annotated[tuple[DemandCharge, ...], Len(0, 10)] = ()
    market: MarketPrice | None = None
    taxes: Annotated[tuple[Tax, ...], Len(0, 5)] = ()
    prices_include_tax: bool = False
    rounding: Rounding = BY_LINE
    tier_days: Annotated[int, Ge(1), Le(366)] | None = None
    export_netting: Literal["interval", "bill"] = "interval"
    is_export_taxed: bool = False
    valid_from: date | None = None
    valid_to: date | None = None
    holidays: tuple[date, ...] = ()
    is_standard_time: bool = False
    is_offer: bool = False

    def __post_init__(self) -> None:
        _in_order(self.valid_from, self.valid_to, self.name)
        if self.meter_unit not in (None, self.billed_unit) and self.kwh_per_unit is None:
            raise TariffError(
                f"{self.name!r} bills {self.billed_unit} of a meter in {self.meter_unit}: "
                f"it needs kwh_per_unit, the energy in one {self.meter_unit} as the bill has it"
            )
        if self.meter_unit not in (None, self.billed_unit) and self.billed_unit != "kWh":
            raise TariffError(f"{self.name!r} can turn {self.meter_unit} into kWh only, not into {self.billed_unit}")

    def is_valid_on(self, on: date) -> bool:
        """Return whether a date lies in its time."""
        return (self.valid_from is None or self.valid_from <= on) and (self.valid_to is None or on <= self.valid_to)

    def rates_of(self, part: PricePart) -> tuple[Rate, ...]:
        """Return the rates of a part of the price, in their order."""
        return tuple(rate for rate in self.rates if rate.part == part)


@dataclass(frozen=True, slots=True, kw_only=True)
class CurrencyChange(Document):
    """From a date on amounts in one currency are paid in another, at a fixed rate.

    ``rate`` is how much of the old one unit of the new is. Prices are turned unrounded (``price_decimals`` None) or
    to so many decimals, amounts to the new currency's smallest coin, halves up.
    """

    on: date
    from_currency: Currency
    to_currency: Currency
    rate: Annotated[Decimal, Gt(0), Le(1_000_000)]
    price_decimals: Annotated[int, Ge(2), Le(10)] | None = None

    def __post_init__(self) -> None:
        if self.from_currency == self.to_currency:
            raise TariffError("a currency changes into another one")


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedMeterReading(Document):
    """What a meter showed at the beginning of a local date, or at a minute of it."""

    on: date
    minute: Annotated[int, Ge(0), Le(1440)] = 0
    value: Quantity
    is_estimate: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedMeter(Document):
    """A meter whose readings are typed: of gas, oil, heat, water, or electricity without a log."""

    id: Id
    name: Name
    carrier: Carrier
    unit: MeterUnit = "kWh"
    readings: Annotated[tuple[TypedMeterReading, ...], Len(0, 2000)] = ()
    note: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedBillLine(Document):
    """A line of a bill as printed; what is not printed is None."""

    name: Name
    units: Annotated[Decimal, Ge(-1_000_000_000), Le(1_000_000_000)] | None = None
    price_per_unit: Price | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedBill(Document):
    """A bill that came, from its first to its last day, as printed; what is not printed is None."""

    id: Id
    carrier: Carrier = "electricity"
    first: date
    last: date
    total: Amount
    days: Annotated[int, Ge(0), Le(1000)] | None = None
    standing_per_day: Price | None = None
    tax_rate: Annotated[Decimal, Ge(0), Le(2)] | None = None
    lines: Annotated[tuple[TypedBillLine, ...], Len(0, 60)] = ()
    label: Word = ""

    def __post_init__(self) -> None:
        _in_order(self.first, self.last, "the bill")
        names = [line.name for line in self.lines]
        if len(set(names)) < len(names):
            raise TariffError("a bill's line stands twice; put both into one")


def tariffs_in_force(tariffs: Sequence[Tariff], carrier: Carrier = "electricity") -> tuple[Tariff, ...]:
    """Return the tariffs of a carrier that are no offers, in their order."""
    return tuple(t for t in tariffs if t.carrier == carrier and not t.is_offer)


def _in_order(first: date | None, last: date | None, name: str) -> None:
    if first is not None and last is not None and last < first:
        raise TariffError(f"{name} ends on {last}, before it begins on {first}")


TARIFF_FORMAT: Literal["warmeter-tariff/1"] = "warmeter-tariff/1"


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffFile(Document):
    """Tariffs as they are exchanged: one after another or side by side, with the time zone of their meter."""

    time_zone: Annotated[str, Len(1, 64)]
    tariffs: Annotated[tuple[Tariff, ...], Len(1, 60)]
    currency_changes: Annotated[tuple[CurrencyChange, ...], Len(0, 10)] = ()
    format: Literal["warmeter-tariff/1"] = TARIFF_FORMAT

    def __post_init__(self) -> None:
        LocalClock(self.time_zone)  # an unknown zone is refused here
