"""A bill to the smallest coin: every line with its units, price and rounding, over clock changes and new tariffs (I1 to I7)."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from itertools import groupby
from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import CurrencyChange, Rate, Rounding, Tariff, Tax
from warmeter.core.tariff.bill_slots import BillSlots, bill_slots, slot_prices
from warmeter.core.tariff.demand import daily_peaks, demand_kw
from warmeter.core.tariff.market_prices import MarketPrices, market_cost
from warmeter.core.tariff.metered_energy import MeteredEnergy, exact
from warmeter.core.tariff.missing import MissingEnergy, SpreadEnergy, missing_energy, spread_energy
from warmeter.core.tariff.prices import BOUGHT
from warmeter.core.tariff.rates_in_force import NO_RATE, hours_hold, rates_in_force
from warmeter.core.tariff.taxes import converted, converted_price, to_coin
from warmeter.core.tariff.tiers import tier_uses
from warmeter.core.timegrid import LocalClock

LineKind = Literal["energy", "network", "levy", "market", "standing", "demand", "export", "tax"]
MOST_DAYS = 1100


@dataclass(frozen=True, slots=True, kw_only=True)
class BillLine:
    """A line of a bill.

    Parameters
    ----------
    units, unit : Decimal, str
        How much of what: kWh, kW, days, months.
    price : Decimal or None
        Of a unit; None where it is a mean of the market's, or a tax.
    amount : Decimal
        As the bill rounds it; what is paid to the home is negative.
    first, last : date
        Local days that it is for.
    above : Decimal or None
        For a tier: from how many units on.
    at_ms : tuple of int
        Of a demand: when its highest intervals began [ms UTC].
    is_taxed : bool
        Whether taxes are worked out on it.
    is_within : bool
        A tax that the other lines hold already: told, not added.
    is_least : bool
        A demand from readings longer than its interval: it was at least this.
    """

    kind: LineKind
    name: str
    units: Decimal
    unit: str
    price: Decimal | None
    amount: Decimal
    first: date
    last: date
    above: Decimal | None = None
    at_ms: tuple[int, ...] = ()
    is_taxed: bool = True
    is_within: bool = False
    is_least: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Bill:
    """A bill over local days [first, last].

    Parameters
    ----------
    lines : tuple of BillLine
        In the order of the bill, taxes last.
    net, tax, total : Decimal
        ``net`` is what is left of the sum without taxes; ``total`` is net and tax, rounded to the smallest coin.
    units, sold : Decimal
        Bought and sold energy that is known [billed unit].
    missing : MissingEnergy
        Intervals that are not known, and what they could change.
    spread : SpreadEnergy or None
        What is known only over longer times than the prices hold, and between what its cost can lie.
    unpriced : Decimal
        Energy whose market price is not known: in no line.
    conversions : tuple of CurrencyChange
        Which were used.
    """

    first: date
    last: date
    currency: str
    unit: str
    lines: tuple[BillLine, ...]
    net: Decimal
    tax: Decimal
    total: Decimal
    units: Decimal
    sold: Decimal
    missing: MissingEnergy
    spread: SpreadEnergy | None = None
    unpriced: Decimal = Decimal(0)
    conversions: tuple[CurrencyChange, ...] = ()

    @property
    def days(self) -> int:
        """How many local days it is for."""
        return (self.last - self.first).days + 1


@dataclass(frozen=True, slots=True)
class Metered:
    """What a bill is made from: bought and sold energy in billed units, and the market's prices."""

    bought: MeteredEnergy
    sold: MeteredEnergy | None = None
    market: MarketPrices | None = None


@dataclass(frozen=True, slots=True)
class _Segment:
    """Days of a bill under one tariff in one currency, and how many the whole bill has."""

    tariff: Tariff
    first: date
    last: date
    bill_days: int
    change: CurrencyChange | None = None
    is_turned: bool = False

    @property
    def share(self) -> Decimal:
        """Its share of the bill's days."""
        return Decimal((self.last - self.first).days + 1) / self.bill_days

    @property
    def is_to_turn(self) -> bool:
        """Whether its amounts are in the old currency and paid in the new one."""
        return self.change is not None and not self.is_turned


def bill(
    tariffs: Sequence[Tariff],
    clock: LocalClock,
    first: date,
    last: date,
    metered: Metered,
    changes: Sequence[CurrencyChange] = (),
) -> Bill:
    """Return the bill of local days [first, last].

    Parameters
    ----------
    tariffs : sequence of Tariff
        Of one carrier; on each day the last that is valid counts.
    clock : LocalClock
        The home's.
    changes : sequence of CurrencyChange
        Amounts before them are turned at their rate; prices still in the old currency too.

    Raises
    ------
    TariffError
        Where a day has no tariff, or energy no rate; or two currencies meet without a fixed rate.

    Notes
    -----
    docs/methods I1 to I7. Limits of tiers, charges a month and demand of a part of a bill count by its days. Where taxes and
    rounding are the same before and after a change, tax is worked out once, on the sum.
    """
    if not 0 <= (last - first).days < MOST_DAYS:
        raise TariffError(f"a bill runs from a day to a later one, over at most {MOST_DAYS} days")
    segments = _segments(tariffs, first, last, [change for change in changes if change.on <= last])
    currency = _paid_in(segments)
    lines: list[BillLine] = []
    taxes: list[BillLine] = []
    slots = [bill_slots(s.tariff, clock, s.first, s.last, metered.bought, metered.sold) for s in segments]
    unpriced = Decimal(0)
    grouped = groupby(zip(segments, slots, strict=True), key=lambda pair: _custom(pair[0]))
    for _, pairs in grouped:
        own: list[BillLine] = []
        for segment, of_segment in pairs:
            found, left = _lines(segment, of_segment, metered.market)
            own += found
            unpriced += left
        tariff = segment.tariff
        own = [replace(line, amount=_rounded(line.amount, tariff)) for line in own]
        added = _tax_lines(own, tariff, segment.first, segment.last)
        if segment.change is not None and segment.is_to_turn:
            own, added = (_turned(part, segment.change) for part in (own, added))
        lines += own
        taxes += added
    tax = sum((line.amount for line in taxes), Decimal(0))
    within = sum((line.amount for line in taxes if line.is_within), Decimal(0))
    net = sum((line.amount for line in lines), Decimal(0)) - within
    total = net + tax
    last_tariff = segments[-1].tariff
    found_missing = [
        (s, slot_prices(segment.tariff, s, metered.market)) for segment, s in zip(segments, slots, strict=True)
    ]
    return Bill(
        first=first,
        last=last,
        currency=currency,
        unit=last_tariff.billed_unit,
        lines=(*lines, *taxes),
        net=net,
        tax=tax,
        total=to_coin(total, currency, last_tariff.rounding.mode),
        units=sum((exact(int(s.bought.sum())) for s in slots), Decimal(0)),
        sold=sum((exact(int(s.sold.sum())) for s in slots), Decimal(0)),
        missing=missing_energy(found_missing, metered.bought),
        spread=spread_energy(found_missing, metered.bought),
        unpriced=unpriced,
        conversions=tuple(dict.fromkeys(s.change for s in segments if s.change is not None)),
    )


def marginal_prices(made: Bill, tariffs: Sequence[Tariff]) -> tuple[tuple[str, Decimal], ...]:
    """Return the price of the last block with energy of each rate in tiers: a kWh less saves that much, before tax."""
    tiered = {rate.name for tariff in tariffs for rate in tariff.rates if rate.tiers}
    found: dict[str, Decimal] = {}
    for line in made.lines:
        if line.name in tiered and line.price is not None and line.kind != "standing":
            found[line.name] = line.price
    return tuple(found.items())


def tariff_of_day(tariffs: Sequence[Tariff], on: date) -> Tariff | None:
    """Return the tariff of a day: the last in the list that is valid; None where there is none."""
    return next((t for t in reversed(tariffs) if t.is_valid_on(on)), None)


def _segments(tariffs: Sequence[Tariff], first: date, last: date, changes: Sequence[CurrencyChange]) -> list[_Segment]:
    days = [first + timedelta(days=k) for k in range((last - first).days + 1)]
    of_days = [tariff_of_day(tariffs, day) for day in days]
    if None in of_days:
        missing = days[of_days.index(None)]
        raise TariffError(
            f"no tariff is valid on {missing:%d %b %Y} ({of_days.count(None)} of {len(days)} days have none); "
            "add one, or correct the dates of the one before"
        )
    keyed = [
        (tariff, next((c for c in changes if c.from_currency == tariff.currency), None), day)
        for tariff, day in zip(of_days, days, strict=True)
        if tariff is not None
    ]
    found = []
    for _, group in groupby(keyed, key=lambda k: (k[0].id, k[1] is not None and k[2] >= k[1].on)):
        rows = list(group)
        tariff, change, begin = rows[0]
        is_turned = change is not None and begin >= change.on
        if change is not None and is_turned:
            tariff = _in_currency(tariff, change)
        found.append(_Segment(tariff, begin, rows[-1][2], len(days), change, is_turned))
    return found


def _in_currency(tariff: Tariff, change: CurrencyChange) -> Tariff:
    """Return a tariff with its prices in the new currency."""
    rates = tuple(
        replace(
            rate,
            price_per_unit=converted_price(rate.price_per_unit, change),
            tiers=tuple(replace(t, price_per_unit=converted_price(t.price_per_unit, change)) for t in rate.tiers),
        )
        for rate in tariff.rates
    )
    return replace(
        tariff,
        currency=change.to_currency,
        rates=rates,
        standing=tuple(replace(s, amount=converted_price(s.amount, change)) for s in tariff.standing),
        demand=tuple(replace(d, price_per_kw=converted_price(d.price_per_kw, change)) for d in tariff.demand),
    )


def _paid_in(segments: Sequence[_Segment]) -> str:
    """Return the currency of a bill: its last part's; ``TariffError`` if another part cannot be turned into it."""
    last = segments[-1]
    wanted = last.change.to_currency if last.change is not None else last.tariff.currency
    for segment in segments:
        paid = segment.change.to_currency if segment.change is not None else segment.tariff.currency
        if paid != wanted:
            raise TariffError(
                f"{segment.tariff.name} is in {segment.tariff.currency}, {last.tariff.name} in {wanted}; "
                "give the fixed rate between them, or bill each alone"
            )
    return wanted


def _custom(segment: _Segment) -> tuple[tuple[Tax, ...], Rounding, bool, str]:
    tariff = segment.tariff
    return tariff.taxes, tariff.rounding, tariff.prices_include_tax, tariff.currency


def _rounded(amount: Decimal, tariff: Tariff) -> Decimal:
    return amount if tariff.rounding.each == "total" else to_coin(amount, tariff.currency, tariff.rounding.mode)


def _turned(lines: list[BillLine], change: CurrencyChange) -> list[BillLine]:
    return [
        replace(
            line,
            amount=converted(line.amount, change),
            price=None if line.price is None else converted_price(line.price, change),
        )
        for line in lines
    ]


def _tax_lines(lines: Sequence[BillLine], tariff: Tariff, first: date, last: date) -> list[BillLine]:
    """Return the taxes of lines, each on their sum or on each of them, as the tariff's custom is."""
    bases = [line.amount for line in lines if line.is_taxed]
    if tariff.rounding.each != "line_with_tax":
        bases = [sum(bases, Decimal(0))]
    found = []
    before = [Decimal(0)] * len(bases)
    if tariff.prices_include_tax:
        factor = Decimal(1) + sum((tax.rate for tax in tariff.taxes), Decimal(0))
        bases = [base / factor for base in bases]
    for tax in tariff.taxes:
        each = [
            _rounded(tax.rate * (base + (gone if tax.is_on_taxes else 0)), tariff)
            for base, gone in zip(bases, before, strict=True)
        ]
        before = [gone + own for gone, own in zip(before, each, strict=True)]
        amount = sum(each, Decimal(0))
        found.append(
            BillLine(
                kind="tax",
                name=tax.name,
                units=sum(bases, Decimal(0)),
                unit=tariff.currency,
                price=tax.rate,
                amount=amount,
                first=first,
                last=last,
                is_taxed=False,
                is_within=tariff.prices_include_tax,
            )
        )
    return found


def _lines(segment: _Segment, slots: BillSlots, market: MarketPrices | None) -> tuple[list[BillLine], Decimal]:
    """Return a part's lines without taxes, unrounded, and the energy whose price is not known."""
    lines: list[BillLine] = []
    unpriced = Decimal(0)
    bought, surplus = _netted(segment.tariff, slots)
    for part in BOUGHT:
        rates = segment.tariff.rates_of(part)
        for place, rate in enumerate(rates):
            if bought[part][place]:
                lines += _rate_lines(segment, rate, exact(bought[part][place]))
        if part == "energy" and segment.tariff.market is not None:
            found, unpriced = _market_line(segment, slots, market)
            lines = [found, *lines]
    lines += _standing_lines(segment)
    lines += _demand_lines(segment, slots)
    lines += _export_lines(segment, slots, surplus, market)
    return lines, unpriced


def _netted(tariff: Tariff, slots: BillSlots) -> tuple[dict[str, list[int]], int]:
    """Return what is bought at each rate of each part, and what is sold, after netting [millionth]."""
    found: dict[str, list[int]] = {}
    surplus = int(slots.sold.sum())
    for part in BOUGHT:
        rates = tariff.rates_of(part)
        place = rates_in_force(rates, slots.calendar)
        if part == "energy":
            bare = (place == NO_RATE) & (slots.bought > 0)
            if bare.any():
                first = slots.clock.local(int(slots.start_ms[np.argmax(bare)]))
                raise TariffError(
                    f"{tariff.name} has no rate for {first:%a %d %b %Y, %H:%M}, when energy was drawn; add one"
                )
        own = [int(slots.bought[place == k].sum()) for k in range(len(rates))]
        if tariff.export_netting == "bill":
            sold = [int(slots.sold[place == k].sum()) for k in range(len(rates))]
            if part == "energy":
                surplus = sum(max(0, s - b) for s, b in zip(sold, own, strict=True))
            own = [max(0, b - s) for s, b in zip(sold, own, strict=True)]
        found[part] = own
    return found, surplus


def _rate_lines(segment: _Segment, rate: Rate, units: Decimal) -> list[BillLine]:
    days = (segment.last - segment.first).days + 1
    of_days = segment.tariff.tier_days or segment.bill_days
    return [
        BillLine(
            kind=rate.part,
            name=rate.name,
            units=use.units,
            unit=segment.tariff.billed_unit,
            price=use.price_per_unit,
            amount=use.units * use.price_per_unit,
            first=segment.first,
            last=segment.last,
            above=use.above,
        )
        for use in tier_uses(rate, units, days, of_days)
        # Where the market's price is the energy's, a rate of nought adds nothing to it.
        if use.units and not (segment.tariff.market is not None and rate.part == "energy" and not use.price_per_unit)
    ]


def _market_line(segment: _Segment, slots: BillSlots, market: MarketPrices | None) -> tuple[BillLine, Decimal]:
    assert segment.tariff.market is not None  # asked by the caller
    price = np.full(slots.bought.shape, np.nan) if market is None else market.at(slots.start_ms)
    known = ~np.isnan(price)
    units = exact(int(slots.bought[known].sum()))
    cost = market_cost(slots.bought, price) * segment.tariff.market.factor
    if segment.change is not None and segment.is_turned:
        cost = cost / segment.change.rate
    line = BillLine(
        kind="market",
        name="Energy at the market's price",
        units=units,
        unit=segment.tariff.billed_unit,
        price=None,
        amount=cost,
        first=segment.first,
        last=segment.last,
    )
    return line, exact(int(slots.bought[~known].sum()))


def _standing_lines(segment: _Segment) -> list[BillLine]:
    days = [segment.first + timedelta(days=k) for k in range((segment.last - segment.first).days + 1)]
    found = []
    for charge in segment.tariff.standing:
        if charge.per == "day":
            units, unit = Decimal(len(days)), "days"
        elif charge.per == "month":
            units, unit = sum((Decimal(1) / _days_of_month(day) for day in days), Decimal(0)), "months"
            units = units.quantize(Decimal("1e-9"))
        elif charge.per == "year":
            units, unit = sum((Decimal(1) / _days_of_year(day) for day in days), Decimal(0)), "years"
            units = units.quantize(Decimal("1e-9"))
        else:
            units, unit = segment.share, "bill"
        found.append(
            BillLine(
                kind="standing",
                name=charge.name,
                units=units,
                unit=unit,
                price=charge.amount,
                amount=units * charge.amount,
                first=segment.first,
                last=segment.last,
                is_taxed=charge.is_taxed,
            )
        )
    return found


def _demand_lines(segment: _Segment, slots: BillSlots) -> list[BillLine]:
    found = []
    for charge in segment.tariff.demand:
        intervals = slots.intervals(segment.tariff, charge.interval_min)
        counted = hours_hold(charge.hours, intervals.calendar) & intervals.is_known
        months = intervals.calendar.epoch_day.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64)
        for month in np.unique(months).tolist() if charge.over == "month" else [None]:
            own = counted if month is None else counted & (months == month)
            peaks = daily_peaks(
                intervals.start_ms[own], intervals.calendar.epoch_day[own], intervals.bought[own], charge.interval_min
            )
            kw = demand_kw(peaks, charge.counts)
            if not kw:
                continue
            if month is None:
                first, last, share = segment.first, segment.last, segment.share
            else:
                begin = date(1970 + month // 12, month % 12 + 1, 1)
                length = _days_of_month(begin)
                first, last = max(segment.first, begin), min(segment.last, begin + timedelta(days=length - 1))
                share = Decimal((last - first).days + 1) / length
            top = sorted(peaks, key=lambda p: p.kw, reverse=True)[: 1 if charge.counts == "highest" else 3]
            found.append(
                BillLine(
                    kind="demand",
                    name=charge.name,
                    units=kw,
                    unit="kW",
                    price=charge.price_per_kw * share,
                    amount=kw * charge.price_per_kw * share,
                    first=first,
                    last=last,
                    at_ms=tuple(peak.at_ms for peak in top),
                    is_taxed=charge.is_taxed,
                    is_least=intervals.is_coarse,
                )
            )
    return found


def _export_lines(segment: _Segment, slots: BillSlots, surplus: int, market: MarketPrices | None) -> list[BillLine]:
    tariff = segment.tariff
    everything = int(slots.sold.sum())
    if not surplus:
        return []
    found = []
    share = Decimal(surplus) / everything
    if tariff.market is not None and tariff.market.pays_export and market is not None:
        price: Floats = market.at(slots.start_ms)
        known = ~np.isnan(price)
        found.append(
            _sold_line(
                segment,
                "Sold at the market's price",
                exact(int(slots.sold[known].sum())) * share,
                None,
                market_cost(slots.sold, price) * share,
            )
        )
    rates = tariff.rates_of("export")
    place = rates_in_force(rates, slots.calendar)
    for k, rate in enumerate(rates):
        units = exact(int(slots.sold[place == k].sum())) * share
        if units:
            found.append(_sold_line(segment, rate.name, units, rate.price_per_unit, units * rate.price_per_unit))
    return found


def _sold_line(segment: _Segment, name: str, units: Decimal, price: Decimal | None, paid: Decimal) -> BillLine:
    return BillLine(
        kind="export",
        name=name,
        units=units,
        unit=segment.tariff.billed_unit,
        price=None if price is None else -price,
        amount=-paid,
        first=segment.first,
        last=segment.last,
        is_taxed=segment.tariff.is_export_taxed,
    )


def _days_of_month(day: date) -> int:
    following = date(day.year + day.month // 12, day.month % 12 + 1, 1)
    return (following - day.replace(day=1)).days


def _days_of_year(day: date) -> int:
    return (date(day.year + 1, 1, 1) - date(day.year, 1, 1)).days
