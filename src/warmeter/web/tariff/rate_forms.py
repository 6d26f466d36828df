"""Forms of a tariff, of its rates, of typed bills and of readings, read into the document's parts."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Le, Len

from warmeter.core.edits.ids import new_id
from warmeter.core.errors import WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name, TimeOfDay
from warmeter.core.home.tariffs import (
    RATE_DAYS,
    Carrier,
    DemandCharge,
    MarketPrice,
    MeterUnit,
    PricePart,
    Rate,
    RateDay,
    RateHours,
    Rounding,
    StandingCharge,
    Tariff,
    Tax,
    TypedBill,
    TypedBillLine,
)
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, read_form
from warmeter.web.tariff.rate_texts import parse_dates, parse_seasons, parse_tiers
from warmeter.web.tariff.rate_words import season_text

MOST_STANDING, MOST_DEMAND, MOST_TAXES, MOST_LINES = 4, 3, 3, 40
Money = Annotated[Decimal, Ge(-1_000_000), Le(1_000_000)]
Short = Annotated[str, Len(0, 200)]


def decimal_text(value: Decimal | None) -> str:
    """Return an exact number as a field has it, "" for none."""
    return "" if value is None else f"{value.normalize():f}"


@dataclass(frozen=True, slots=True, kw_only=True)
class _HoursForm:
    seasons: Short = ""
    days: tuple[str, ...] = RATE_DAYS
    from_min: TimeOfDay = 0
    to_min: TimeOfDay = 1440

    def hours(self) -> RateHours:
        """Return the hours; ``FormError`` if the fields do not go together."""
        days: tuple[RateDay, ...] = tuple(day for day in RATE_DAYS if day in self.days)
        if not days:
            raise FormError({"days": "Tick at least one day"})
        if self.from_min == self.to_min:
            raise FormError({"from_min": "Two different times; 00:00 to 24:00 is the whole day"})
        try:
            seasons = parse_seasons(self.seasons)
        except ValueError as error:
            raise FormError({"seasons": str(error)}) from error
        return RateHours(seasons=seasons, days=days, from_min=self.from_min, to_min=self.to_min)


@dataclass(frozen=True, slots=True, kw_only=True)
class _RateForm(_HoursForm):
    """A rate as it is typed."""

    name: Name
    price: Money
    part: PricePart = "energy"
    valid_from: date | None = None
    valid_to: date | None = None
    tiers: Short = ""


def rate_texts(rate: Rate | None) -> dict[str, str]:
    """Return a form's texts of a rate, those of a new one for None."""
    if rate is None:
        return {"from_min": "00:00", "to_min": "24:00", "part": "energy", **{f"days.{day}": "on" for day in RATE_DAYS}}
    return {
        "name": rate.name,
        "price": decimal_text(rate.price_per_unit),
        "part": rate.part,
        "valid_from": str(rate.valid_from or ""),
        "valid_to": str(rate.valid_to or ""),
        "tiers": "; ".join(f"above {decimal_text(t.above)}: {decimal_text(t.price_per_unit)}" for t in rate.tiers),
        **_hours_texts(rate.hours),
    }


def _hours_texts(hours: RateHours) -> dict[str, str]:
    return {
        "seasons": season_text(hours),
        "from_min": show.clock_time(hours.from_min),
        "to_min": show.clock_time(hours.to_min),
        **{f"days.{day}": "on" for day in hours.days},
    }


def read_rate(texts: Texts) -> Rate:
    """Return the rate of a form; ``FormError`` with a sentence for every field that is wrong."""
    form = read_form(_RateForm, texts)
    try:
        tiers = parse_tiers(form.tiers)
    except ValueError as error:
        raise FormError({"tiers": str(error)}) from error
    try:
        return Rate(
            name=form.name,
            price_per_unit=form.price,
            part=form.part,
            hours=form.hours(),
            valid_from=form.valid_from,
            valid_to=form.valid_to,
            tiers=tiers,
        )
    except FormError:
        raise
    except WarmeterError as error:
        raise FormError({"valid_to" if "ends on" in str(error) else "tiers": str(error)}) from error


@dataclass(frozen=True, slots=True, kw_only=True)
class _TariffForm:
    """A tariff without its rates and charges."""

    name: Name
    currency: Annotated[str, Len(3, 3)]
    carrier: Carrier = "electricity"
    billed_unit: MeterUnit = "kWh"
    meter_unit: MeterUnit = "kWh"
    kwh_per_unit: Annotated[Decimal, Ge(0), Le(10_000)] | None = None
    valid_from: date | None = None
    valid_to: date | None = None
    holidays: Annotated[str, Len(0, 4000)] = ""
    prices_include_tax: bool = False
    standard: bool = False
    offer: bool = False
    tier_days: Annotated[int, Ge(1), Le(366)] | None = None
    each: Literal["line", "line_with_tax", "total"] = "line"
    mode: Literal["half_up", "half_even"] = "half_up"
    netting: Literal["interval", "bill"] = "interval"
    export_taxed: bool = False
    follows_market: bool = False
    market_zone: Annotated[str, Len(0, 64)] = ""
    market_step: Literal["15", "30", "60"] = "60"
    market_factor: Annotated[Decimal, Ge(0), Le(10)] = Decimal(1)
    pays_export: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _ChargeForm:
    name: Name
    amount: Money
    per: Literal["day", "month", "year", "bill"] = "day"
    taxed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _DemandForm(_HoursForm):
    name: Name
    amount: Annotated[Decimal, Ge(0), Le(1_000_000)]
    interval: Literal["15", "30", "60"] = "30"
    counts: Literal["highest", "top3_days"] = "highest"
    over: Literal["month", "bill"] = "month"
    taxed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _TaxForm:
    name: Name
    pct: Annotated[Decimal, Ge(0), Le(200)]
    on_taxes: bool = False


def tariff_texts(tariff: Tariff | None, home: Home) -> dict[str, str]:
    """Return a form's texts of a tariff, those of a new one for None."""
    if tariff is None:
        return {"name": "My tariff", "currency": home.currency, "each": "line", "mode": "half_up", "market_step": "60"}
    flags = {
        "prices_include_tax": tariff.prices_include_tax,
        "standard": tariff.is_standard_time,
        "offer": tariff.is_offer,
        "export_taxed": tariff.is_export_taxed,
        "follows_market": tariff.market is not None,
        "pays_export": tariff.market is not None and tariff.market.pays_export,
    }
    market = tariff.market or MarketPrice(time_zone=home.time_zone)
    texts = {
        "name": tariff.name,
        "currency": tariff.currency,
        "carrier": tariff.carrier,
        "billed_unit": tariff.billed_unit,
        "meter_unit": tariff.meter_unit or tariff.billed_unit,
        "kwh_per_unit": decimal_text(tariff.kwh_per_unit),
        "valid_from": str(tariff.valid_from or ""),
        "valid_to": str(tariff.valid_to or ""),
        "holidays": ", ".join(str(day) for day in tariff.holidays),
        "tier_days": str(tariff.tier_days or ""),
        "each": tariff.rounding.each,
        "mode": tariff.rounding.mode,
        "netting": tariff.export_netting,
        "market_zone": market.time_zone,
        "market_step": str(market.step_min),
        "market_factor": decimal_text(market.factor),
        **{name: "on" for name, is_set in flags.items() if is_set},
    }
    for k, charge in enumerate(tariff.standing, 1):
        texts |= {f"s{k}_name": charge.name, f"s{k}_amount": decimal_text(charge.amount), f"s{k}_per": charge.per}
        texts |= {f"s{k}_taxed": "on"} if charge.is_taxed else {}
    for k, demand in enumerate(tariff.demand, 1):
        texts |= {
            f"d{k}_name": demand.name,
            f"d{k}_amount": decimal_text(demand.price_per_kw),
            f"d{k}_interval": str(demand.interval_min),
            f"d{k}_counts": demand.counts,
            f"d{k}_over": demand.over,
            **{f"d{k}_{name}": text for name, text in _hours_texts(demand.hours).items()},
        }
        texts |= {f"d{k}_taxed": "on"} if demand.is_taxed else {}
    for k, tax in enumerate(tariff.taxes, 1):
        texts |= {f"t{k}_name": tax.name, f"t{k}_pct": decimal_text(tax.rate * 100)}
        texts |= {f"t{k}_on_taxes": "on"} if tax.is_on_taxes else {}
    return texts


class _Rows:
    """Numbered rows of a form; a row is there where its leading field says something."""

    def __init__(self, texts: Texts) -> None:
        self.texts = texts
        self.errors: dict[str, str] = {}

    def numbers(self, letter: str, lead: str, most: int) -> list[str]:
        """Return the prefixes of the rows that are there."""
        return [f"{letter}{k}_" for k in range(1, most + 1) if self.texts.get(f"{letter}{k}_{lead}", "").strip()]

    def noted(self, error: FormError, prefix: str) -> None:
        """Keep what is wrong with a row under its own fields."""
        self.errors |= {name if name.startswith(prefix) else prefix + name: why for name, why in error.errors.items()}


def _standing(rows: _Rows) -> tuple[StandingCharge, ...]:
    found = []
    for prefix in rows.numbers("s", "amount", MOST_STANDING):
        try:
            form = read_form(_ChargeForm, {f"{prefix}name": "Standing charge", **_said(rows.texts)}, prefix=prefix)
            found.append(StandingCharge(name=form.name, amount=form.amount, per=form.per, is_taxed=form.taxed))
        except FormError as error:
            rows.noted(error, prefix)
    return tuple(found)


def _demand(rows: _Rows) -> tuple[DemandCharge, ...]:
    found = []
    for prefix in rows.numbers("d", "amount", MOST_DEMAND):
        try:
            form = read_form(_DemandForm, {f"{prefix}name": "Demand", **_said(rows.texts)}, prefix=prefix)
            found.append(
                DemandCharge(
                    name=form.name,
                    price_per_kw=form.amount,
                    interval_min={"15": 15, "30": 30, "60": 60}[form.interval],  # type: ignore[arg-type]
                    counts=form.counts,
                    over=form.over,
                    hours=form.hours(),
                    is_taxed=form.taxed,
                )
            )
        except FormError as error:
            rows.noted(error, prefix)
    return tuple(found)


def _taxes(rows: _Rows) -> tuple[Tax, ...]:
    found = []
    for prefix in rows.numbers("t", "pct", MOST_TAXES):
        try:
            form = read_form(_TaxForm, {f"{prefix}name": "VAT", **_said(rows.texts)}, prefix=prefix)
            found.append(Tax(name=form.name, rate=form.pct / 100, is_on_taxes=form.on_taxes))
        except FormError as error:
            rows.noted(error, prefix)
    return tuple(found)


def _said(texts: Texts) -> dict[str, str]:
    """Return the texts of fields that say something: an empty one leaves what is usual."""
    return {name: text for name, text in texts.items() if text.strip()}


def read_tariff(texts: Texts, before: Tariff | None, rate: Rate | None = None) -> Tariff:
    """Return the tariff of the form, with the rates that it had, or the first one of a new tariff.

    Raises
    ------
    FormError
        With a sentence for every field that is wrong.
    """
    rows = _Rows(texts)
    form: _TariffForm | None = None
    try:
        form = read_form(_TariffForm, texts)
    except FormError as error:
        rows.errors |= error.errors
    days: tuple[date, ...] = ()
    try:
        days = parse_dates(texts.get("holidays", ""))
    except ValueError as error:
        rows.errors["holidays"] = str(error)
    standing, demand, taxes = _standing(rows), _demand(rows), _taxes(rows)
    rates = before.rates if before is not None else (() if rate is None else (rate,))
    if rows.errors or form is None:
        raise FormError(rows.errors)
    is_turned = form.meter_unit != form.billed_unit
    try:
        return Tariff(
            id=before.id if before is not None else new_id(),
            name=form.name,
            currency=form.currency.upper(),
            carrier=form.carrier,
            billed_unit=form.billed_unit,
            meter_unit=form.meter_unit if is_turned else None,
            kwh_per_unit=form.kwh_per_unit if is_turned else None,
            rates=rates,
            standing=standing,
            demand=demand,
            market=_market(form),
            taxes=taxes,
            prices_include_tax=form.prices_include_tax,
            rounding=Rounding(each=form.each, mode=form.mode),
            tier_days=form.tier_days,
            export_netting=form.netting,
            is_export_taxed=form.export_taxed,
            valid_from=form.valid_from,
            valid_to=form.valid_to,
            holidays=days,
            is_standard_time=form.standard,
            is_offer=form.offer,
        )
    except WarmeterError as error:
        where = "kwh_per_unit" if "kwh_per_unit" in str(error) or "turn" in str(error) else "valid_to"
        raise FormError({where: str(error)}) from error


def _market(form: _TariffForm) -> MarketPrice | None:
    if not form.follows_market:
        return None
    return MarketPrice(
        time_zone=form.market_zone.strip() or "UTC",
        step_min={"15": 15, "30": 30, "60": 60}[form.market_step],  # type: ignore[arg-type]
        factor=form.market_factor,
        pays_export=form.pays_export,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _BillForm:
    carrier: Carrier = "electricity"
    first: date
    last: date
    total: Annotated[Decimal, Ge(-1_000_000_000), Le(1_000_000_000)]
    days: Annotated[int, Ge(0), Le(1000)] | None = None
    standing_per_day: Money | None = None
    tax_pct: Annotated[Decimal, Ge(0), Le(200)] | None = None
    label: Annotated[str, Len(0, 80)] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class _BillLineForm:
    name: Name
    units: Annotated[Decimal, Ge(-1_000_000_000), Le(1_000_000_000)] | None = None
    price: Money | None = None


def bill_texts(bill: TypedBill) -> dict[str, str]:
    """Return a form's texts of a typed bill."""
    texts = {
        "carrier": bill.carrier,
        "first": str(bill.first),
        "last": str(bill.last),
        "total": decimal_text(bill.total),
        "days": "" if bill.days is None else str(bill.days),
        "standing_per_day": decimal_text(bill.standing_per_day),
        "tax_pct": decimal_text(None if bill.tax_rate is None else bill.tax_rate * 100),
        "label": bill.label,
    }
    for k, line in enumerate(bill.lines, 1):
        texts |= {
            f"l{k}_name": line.name,
            f"l{k}_units": decimal_text(line.units),
            f"l{k}_price": decimal_text(line.price_per_unit),
        }
    return texts


def read_bill(texts: Texts, bill_id: str | None) -> TypedBill:
    """Return the typed bill of a form; ``FormError`` with a sentence for every field that is wrong."""
    rows = _Rows(texts)
    form: _BillForm | None = None
    try:
        form = read_form(_BillForm, texts)
    except FormError as error:
        rows.errors |= error.errors
    lines = []
    for prefix in rows.numbers("l", "name", MOST_LINES):
        try:
            line = read_form(_BillLineForm, texts, prefix=prefix)
            lines.append(TypedBillLine(name=line.name, units=line.units, price_per_unit=line.price))
        except FormError as error:
            rows.noted(error, prefix)
    if rows.errors or form is None:
        raise FormError(rows.errors)
    try:
        return TypedBill(
            id=bill_id or new_id(),
            carrier=form.carrier,
            first=form.first,
            last=form.last,
            total=form.total,
            days=form.days,
            standing_per_day=form.standing_per_day,
            tax_rate=None if form.tax_pct is None else form.tax_pct / 100,
            lines=tuple(lines),
            label=form.label,
        )
    except WarmeterError as error:
        raise FormError({"last" if "ends on" in str(error) else "l1_name": str(error)}) from error
