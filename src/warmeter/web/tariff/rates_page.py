"""The page of rates and bills: lanes, year, table of rates, forms, the bill of a month."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from fastapi import Request
from fastapi.responses import Response

from warmeter.core.errors import TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import Carrier, PricePart, RateDay, Tariff, TypedMeter, YearSpan, month_day_number
from warmeter.core.tariff.bill import Bill, tariff_of_day
from warmeter.core.tariff.bills_of_year import MonthBill
from warmeter.core.tariff.reconcile import reconciled, side_of_bill, side_of_typed
from warmeter.core.tariff.tariff_findings import TariffFinding, date_findings, tariff_findings
from warmeter.core.tariff.taxes import tax_factor
from warmeter.service.tariffs.bill_shares import own_sun
from warmeter.service.tariffs.bills import (
    MeterSeries,
    carrier_meter,
    home_bill,
    last_metered_month,
    meter_of,
    records_of_meter,
    year_of_bills,
)
from warmeter.web import format as show
from warmeter.web.page import Page, app_of, frame_of, is_fragment, render, strip_width
from warmeter.web.strip.draw import Drawing, DrawnStrip
from warmeter.web.tariff.bill_view import (
    BillView,
    DifferenceView,
    bill_view,
    difference_view,
    month_bars,
    period_words,
    price_words,
)
from warmeter.web.tariff.finding_view import TariffFindingRow, tariff_finding_rows
from warmeter.web.tariff.price_lanes import price_strip
from warmeter.web.tariff.price_year import price_year
from warmeter.web.tariff.rate_forms import bill_texts, rate_texts, tariff_texts
from warmeter.web.tariff.rate_words import DAY_WORDS, PART_WORDS, dates_words, days_words, hours_words, seasons_words

BILL_WIDTH, TWO_COLUMNS_PX = 356, 700
ROUNDING_MAX = Decimal("0.05")
CARRIER_WORDS: dict[Carrier, str] = {
    "electricity": "electricity",
    "gas": "gas",
    "oil": "oil",
    "lpg": "liquid gas",
    "pellets": "pellets",
    "logs": "logs",
    "district_heat": "district heat",
    "water": "water",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class RateRow:
    """A rate in the table."""

    place: int
    name: str
    season: str
    days: str
    hours: str
    part: str
    price: str
    with_tax: str
    year_units: str
    dates: str
    tiers: str
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffRow:
    """A tariff that can be chosen."""

    id: str
    name: str
    dates: str
    carrier: str
    is_offer: bool
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffPage(Page):
    """Rates and bills of a home."""

    home: Home
    tab: str
    query: dict[str, str]
    tariffs: list[TariffRow]
    tariff: Tariff | None
    rows: list[RateRow]
    strip: DrawnStrip | None
    year: Drawing | None
    findings: list[TariffFindingRow]
    rate: str
    rate_fields: Mapping[str, str]
    tariff_fields: Mapping[str, str]
    bill_fields: Mapping[str, str]
    bill_lines: list[str]
    bill: BillView | None
    no_bill: str
    month: date | None
    months_words: str
    bars: Drawing | None
    differences: list[DifferenceView]
    meter_words: str
    records: list[str]
    meter: TypedMeter | None
    pane: str
    priced_to: str
    part_words: Mapping[PricePart, str]
    day_words: Mapping[RateDay, str]
    carriers: Mapping[Carrier, str]


def tariff_page(
    request: Request, home_id: str, *, at: str | None = None, texts: Mapping[str, str] | None = None, notice: str = ""
) -> Response:
    """Return the page of rates and bills, or its part; ``texts`` are a tariff's form that was not yet saved."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    asked = request.query_params
    key = asked.get("tariff", "") if at is None else at
    today = app.clock(home).local(app.as_of_ms(home_id)).date()
    tariff = _chosen(home, key, today)
    carrier: Carrier = tariff.carrier if tariff is not None else "electricity"
    month = _month(asked.get("month", "")) or last_metered_month(app, home, carrier)
    year = year_of_bills(app, home, carrier, month or today) if tariff is not None else ()
    rate = asked.get("rate", "") if tariff is not None else ""
    place = int(rate) if rate.isdecimal() and tariff is not None and int(rate) < len(tariff.rates) else None
    found = _findings(request, home, tariff, today)
    first = today.replace(day=1) - timedelta(days=153)
    width = strip_width(request, has_aside=False)
    if width >= TWO_COLUMNS_PX:
        width -= BILL_WIDTH + 24
    made, why = _bill(request, home, carrier, month)
    pane = asked.get("pane", "")
    page = TariffPage(
        frame=frame_of(request, home, revision, "tariff"),
        home=home,
        tab="rates",
        query={k: v for k, v in (("tariff", key), ("month", asked.get("month", "")), ("pane", pane)) if v},
        tariffs=[
            TariffRow(
                id=each.id,
                name=each.name,
                dates=dates_words(each.valid_from, each.valid_to, home.country),
                carrier=CARRIER_WORDS[each.carrier],
                is_offer=each.is_offer,
                is_on=tariff is not None and each.id == tariff.id,
            )
            for each in home.tariffs
        ],
        tariff=tariff,
        rows=[] if tariff is None else _rows(tariff, home, year, place),
        strip=None
        if tariff is None
        else price_strip(tariff, width, str(request.url_for("tariff_edge", home_id=home_id, tariff_id=tariff.id).path)),
        year=None
        if tariff is None
        else price_year(
            home.tariffs_of(carrier) if not tariff.is_offer else (tariff,),
            first.replace(day=1),
            today,
            width,
            [(row.letter, finding) for row, finding in found],
        ),
        findings=[row for row, _ in found],
        rate=rate if place is not None or rate == "new" else "",
        rate_fields=rate_texts(None if place is None or tariff is None else tariff.rates[place]),
        tariff_fields=texts if texts is not None else tariff_texts(tariff, home),
        bill_fields=_bill_fields(home, asked.get("bill", ""), month),
        bill_lines=[] if made is None else _line_names(made, tariff),
        bill=None
        if made is None
        else bill_view(
            made,
            home,
            app.clock(home),
            _last_tariff(home, carrier, made),
            own_sun(app, home, made) if carrier == "electricity" else None,
        ),
        no_bill=why,
        month=month,
        months_words="" if month is None else period_words(month, _month_end(month), home.country),
        bars=month_bars(year, month, BILL_WIDTH - 16, home.currency) if month is not None and year else None,
        differences=_differences(request, home, carrier),
        meter_words=_meter_words(request, home, carrier),
        records=_records(request, home, carrier, month),
        meter=meter_of(home, carrier),
        pane=pane,
        priced_to="" if tariff is None else show.day_long(tariff.valid_to, home.country) if tariff.valid_to else "",
        part_words=PART_WORDS,
        day_words=DAY_WORDS,
        carriers=CARRIER_WORDS,
        notice=notice or asked.get("notice", ""),
    )
    return render(request, "tariff/_rates.html" if is_fragment(request) else "tariff/rates.html", page)


def _chosen(home: Home, key: str, today: date) -> Tariff | None:
    named = next((t for t in home.tariffs if t.id == key), None)
    if named is not None:
        return named
    return home.tariff_on(today) or (home.tariffs[-1] if home.tariffs else None)


def _month(text: str) -> date | None:
    try:
        return date.fromisoformat(f"{text}-01")
    except ValueError:
        return None


def _month_end(month: date) -> date:
    return date(month.year + month.month // 12, month.month % 12 + 1, 1) - timedelta(days=1)


def _rows(tariff: Tariff, home: Home, year: tuple[MonthBill, ...], place: int | None) -> list[RateRow]:
    factor = Decimal(1) if tariff.prices_include_tax else tax_factor(tariff.taxes)
    units: dict[tuple[str, str], Decimal] = {}
    for month in year:
        for line in month.bill.lines if month.bill is not None else ():
            units[line.kind, line.name] = units.get((line.kind, line.name), Decimal(0)) + line.units
    return [
        RateRow(
            place=k,
            name=rate.name,
            season=seasons_words([_span(span) for span in rate.hours.seasons]),
            days=days_words(rate.hours.days),
            hours=hours_words(rate.hours),
            part=PART_WORDS[rate.part],
            price=price_words(rate.price_per_unit, tariff.currency, tariff.billed_unit),
            with_tax=show.small_money(
                float(rate.price_per_unit * (factor if rate.part != "export" else 1)), tariff.currency, 2
            ),
            year_units=show.number(float(units.get((rate.part, rate.name), Decimal(0))), 0),
            dates=dates_words(rate.valid_from, rate.valid_to, home.country),
            tiers=", ".join(
                f"above {show.number(float(t.above), 0)}: "
                f"{price_words(t.price_per_unit, tariff.currency, tariff.billed_unit)}"
                for t in rate.tiers
            ),
            is_on=k == place,
        )
        for k, rate in enumerate(tariff.rates)
    ]


def _span(span: YearSpan) -> tuple[int, int]:
    return month_day_number(span.from_day), month_day_number(span.to_day)


def _findings(
    request: Request, home: Home, tariff: Tariff | None, today: date
) -> list[tuple[TariffFindingRow, TariffFinding]]:
    if tariff is None:
        return []
    clock = app_of(request).clock(home)
    first = (today.replace(day=1) - timedelta(days=153)).replace(day=1)
    last = first + timedelta(days=364)
    found = list(tariff_findings(home.with_holidays(tariff), clock, first, last))
    if not tariff.is_offer:
        found += date_findings(home.tariffs, tariff.carrier, max(first, _since(request, home, tariff, today)), last)
    return tariff_finding_rows(found, home)


def _since(request: Request, home: Home, tariff: Tariff, today: date) -> date:
    """Return from when on a date without a tariff matters: where the meter begins, today at the latest."""
    app = app_of(request)
    begin, end = carrier_meter(app, home, tariff.carrier).span_ms
    return min(today, app.clock(home).local(begin).date()) if end else today


def _bill(request: Request, home: Home, carrier: Carrier, month: date | None) -> tuple[Bill | None, str]:
    if month is None:
        return None, ("Nothing is metered yet: import the meter's log or monthly totals, or type two readings below.")
    try:
        return home_bill(app_of(request), home, carrier, month, _month_end(month)), ""
    except TariffError as error:
        return None, f"{str(error)[:1].upper()}{str(error)[1:]}."


def _last_tariff(home: Home, carrier: Carrier, made: Bill) -> Tariff | None:
    return tariff_of_day(home.tariffs_of(carrier), made.last)


def _line_names(made: Bill, tariff: Tariff | None) -> list[str]:
    side = side_of_bill(made, () if tariff is None else tariff.taxes, has_tax_within=False)
    return [rate.name for rate in side.rates]


def _bill_fields(home: Home, key: str, month: date | None) -> dict[str, str]:
    typed = next((bill for bill in home.typed_bills if bill.id == key), None)
    if typed is not None:
        return bill_texts(typed) | {"id": typed.id}
    return {} if month is None else {"first": str(month), "last": str(_month_end(month))}


def _differences(request: Request, home: Home, carrier: Carrier) -> list[DifferenceView]:
    found = []
    for typed in home.typed_bills:
        if typed.carrier != carrier:
            continue
        try:
            made = home_bill(app_of(request), home, carrier, typed.first, typed.last)
            tariff = _last_tariff(home, carrier, made)
            side = side_of_bill(
                made,
                () if tariff is None else tariff.taxes,
                has_tax_within=tariff is not None and tariff.prices_include_tax,
            )
            why = reconciled(side, side_of_typed(typed, side), ROUNDING_MAX)
            found.append(difference_view(typed, why, made, home.country))
        except TariffError as error:
            found.append(
                DifferenceView(
                    id=typed.id,
                    title=f"{typed.label or 'Bill'}, {period_words(typed.first, typed.last, home.country)}",
                    sentence=f"It cannot be held against anything: {error}.",
                    rows=[],
                    is_explained=False,
                )
            )
    return found


def _meter_words(request: Request, home: Home, carrier: Carrier) -> str:
    app = app_of(request)
    meter = carrier_meter(app, home, carrier)
    if not meter.span_ms[1]:
        return ""
    clock = app.clock(home)
    first, last = (clock.local(at).date() for at in (meter.span_ms[0], meter.span_ms[1] - 1))
    words = f"From {meter.source}, {show.day_long(first, home.country)} to {show.day_long(last, home.country)}."
    falls = meter.metered.bought.falls_ms
    if falls:
        when = clock.local(falls[0])
        words += (
            f" {len(falls)} reading{'s' * (len(falls) != 1)} stood lower than before (first "
            f"{show.day_long(when.date(), home.country)}, {when:%H:%M}): that time counts as missing."
        )
    return words


def _records(request: Request, home: Home, carrier: Carrier, month: date | None) -> list[str]:
    if carrier != "electricity" or month is None:
        return []
    rows: tuple[MeterSeries, ...] = records_of_meter(app_of(request), home, month, _month_end(month))
    if len(rows) < 2:
        return []
    first = rows[0]
    return [
        f"{row.name}: {show.number(row.kwh, 1)} kWh, {row.missing} missing"
        + ("" if row is first else f", {show.number(row.kwh - first.kwh, 1, is_signed=True)} kWh against the finest")
        for row in rows
    ]
