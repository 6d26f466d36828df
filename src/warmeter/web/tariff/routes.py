"""Routes of rates and bills: edits of tariffs, rates, typed bills and readings, and files in and out."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import APIRouter, Depends, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from warmeter.core.csv_cells import csv_text
from warmeter.core.edits.edit import Command
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.tariff_commands import (
    AddTariffs,
    ChangeTariff,
    FollowTariff,
    MoveRate,
    MoveRateEdge,
    PutBill,
    PutMeter,
    PutRate,
    RemoveBill,
    RemoveMeter,
    RemoveRate,
    RemoveTariff,
    SetCurrencyChange,
)
from warmeter.core.errors import HomeError, ReadingError, TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name, TimeOfDay
from warmeter.core.home.tariffs import (
    Carrier,
    CurrencyChange,
    MeterUnit,
    Rate,
    StandingCharge,
    Tariff,
    TariffFile,
    TypedMeter,
    TypedMeterReading,
)
from warmeter.core.tariff.bill import Bill
from warmeter.core.tariff.price_file import read_prices
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.service.homes.homefile import joined
from warmeter.service.readings import logs
from warmeter.service.tariffs.bills import home_bill, year_of_bills
from warmeter.service.tariffs.tariff_file import tariffs_from_json, tariffs_to_json
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, form_texts, read_form
from warmeter.web.page import app_of, back_to, is_fragment, units_of
from warmeter.web.public_holidays import public_holidays
from warmeter.web.saving import save
from warmeter.web.tariff.rate_forms import Money, read_bill, read_rate, read_tariff
from warmeter.web.tariff.rates_page import tariff_page

router = APIRouter()
Place = Annotated[int, Ge(0), Le(1000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Which:
    """The tariff, the place of a rate, the typed bill or the meter that a form is about."""

    id: str = ""
    place: Place = 0
    to_place: Place = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class _FirstTariff:
    """The short form of a home's first tariff: one price, and the standing charge a day."""

    name: Name = "My tariff"
    price: Money
    standing: Money = Decimal(0)


@dataclass(frozen=True, slots=True, kw_only=True)
class _FollowForm:
    begins: date


@dataclass(frozen=True, slots=True, kw_only=True)
class _ReadingForm:
    """A reading of a meter as it is typed; the first one makes the meter."""

    carrier: Carrier = "electricity"
    unit: MeterUnit = "kWh"
    on: date
    minute: TimeOfDay = 0
    value: Annotated[Decimal, Ge(0), Le(1_000_000_000)]
    estimate: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _CurrencyForm:
    on: date
    from_currency: str
    to_currency: str
    rate: Annotated[Decimal, Ge(0), Le(1_000_000)]


def _command(name: str, texts: Texts, home: Home) -> Command:
    """Return the command of a name for a home; ``FormError`` for fields, ``TariffError`` for what cannot be."""
    which = read_form(_Which, texts)
    if name in ("first", "offer"):
        return _first(texts, home, is_offer=name == "offer")
    if name == "details":
        return ChangeTariff(tariff=read_tariff(texts, home.tariff(which.id)))
    if name == "follow":
        begins = read_form(_FollowForm, texts).begins
        return FollowTariff.of(home.tariff(which.id), begins, new_id())
    if name == "remove":
        return RemoveTariff(tariff_id=which.id)
    if name == "rate":
        return PutRate(tariff_id=which.id, rate=read_rate(texts), place=which.place)
    if name == "rate-add":
        tariff = home.tariff(which.id)
        rate = read_rate(texts)
        return PutRate(tariff_id=which.id, rate=rate, place=_place_of_new(tariff, rate), is_new=True)
    if name == "rate-move":
        return MoveRate(tariff_id=which.id, place=which.place, to_place=which.to_place)
    if name == "rate-remove":
        return RemoveRate(tariff_id=which.id, place=which.place)
    return _record_command(name, texts, home, which)


def _record_command(name: str, texts: Texts, home: Home, which: _Which) -> Command:
    if name == "bill":
        return PutBill(bill=read_bill(texts, which.id or None))
    if name == "bill-remove":
        return RemoveBill(bill_id=which.id)
    if name == "reading":
        return PutMeter(meter=_with_reading(texts, home))
    if name == "reading-remove":
        meter = home.meter(which.id)
        kept = tuple(r for k, r in enumerate(meter.readings) if k != which.place)
        return PutMeter(meter=_meter_with(meter, kept))
    if name == "meter-remove":
        return RemoveMeter(meter_id=which.id)
    if name == "currency":
        form = read_form(_CurrencyForm, texts)
        change = CurrencyChange(
            on=form.on, from_currency=form.from_currency.upper(), to_currency=form.to_currency.upper(), rate=form.rate
        )
        return SetCurrencyChange(change=change)
    if name == "currency-remove":
        return SetCurrencyChange(change=None)
    raise HomeError("there is no such act")


def _first(texts: Texts, home: Home, *, is_offer: bool) -> ChangeTariff:
    form = read_form(_FirstTariff, texts)
    standing = (StandingCharge(amount=form.standing),) if form.standing else ()
    return ChangeTariff(
        tariff=Tariff(
            id=new_id(),
            name=form.name,
            currency=home.currency,
            rates=(Rate(name="all hours", price_per_unit=form.price),),
            standing=standing,
            prices_include_tax=True,
            is_offer=is_offer,
        )
    )


def _place_of_new(tariff: Tariff, rate: Rate) -> int:
    """Return where a new rate stands so that it holds: in front of the last of its part if that one has no limits."""
    own = [k for k, each in enumerate(tariff.rates) if each.part == rate.part]
    if own and tariff.rates[own[-1]].hours == Rate(name="x", price_per_unit=Decimal(0)).hours:
        return own[-1]
    return len(tariff.rates)


def _with_reading(texts: Texts, home: Home) -> TypedMeter:
    form = read_form(_ReadingForm, texts)
    meter = next((m for m in home.meters if m.carrier == form.carrier), None)
    reading = TypedMeterReading(on=form.on, minute=form.minute, value=form.value, is_estimate=form.estimate)
    if meter is None:
        return TypedMeter(
            id=new_id(), name=f"Meter of {form.carrier}", carrier=form.carrier, unit=form.unit, readings=(reading,)
        )
    kept = tuple(r for r in meter.readings if (r.on, r.minute) != (reading.on, reading.minute))
    readings = tuple(sorted((*kept, reading), key=lambda r: (r.on, r.minute)))
    return _meter_with(meter, readings)


def _meter_with(meter: TypedMeter, readings: tuple[TypedMeterReading, ...]) -> TypedMeter:
    return TypedMeter(
        id=meter.id, name=meter.name, carrier=meter.carrier, unit=meter.unit, readings=readings, note=meter.note
    )


@router.get("/homes/{home_id}/tariff", name="tariff")
def tariff(request: Request, home_id: str) -> Response:
    """Show rates and bills."""
    return tariff_page(request, home_id)


@router.post("/homes/{home_id}/tariff/{command}", name="tariff_edit")
def tariff_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on tariffs, bills or readings; or fill in the public holidays."""
    if command == "details" and "propose" in texts:
        app = app_of(request)
        home, _ = app.homes.load(home_id)
        year = app.clock(home).local(app.as_of_ms(home_id)).year
        days = ", ".join(str(day) for each in (year, year + 1) for day in public_holidays(home.country, each))
        return tariff_page(request, home_id, at=texts.get("id", ""), texts={**texts, "holidays": days})
    edit = save(request, home_id, texts, lambda home: _command(command, texts, home))
    if is_fragment(request):
        return tariff_page(request, home_id, at=edit.selected)
    return back_to(request, "tariff", home_id, **({"tariff": edit.selected} if edit.selected else {}))


@dataclass(frozen=True, slots=True, kw_only=True)
class _EdgeForm:
    key: str
    minute: Annotated[int, Ge(0), Le(1440)]


@router.post("/homes/{home_id}/tariffs/{tariff_id}/edge", name="tariff_edge")
def tariff_edge(
    request: Request, home_id: str, tariff_id: str, texts: Annotated[Texts, Depends(form_texts)]
) -> Response:
    """Move the minute at which one rate gives way to the next."""
    form = read_form(_EdgeForm, texts)
    save(request, home_id, texts, MoveRateEdge(tariff_id=tariff_id, edge=form.key, minute=form.minute))
    return tariff_page(request, home_id, at=tariff_id)


@router.get("/homes/{home_id}/tariffs.json", name="tariffs_file")
def tariffs_file(request: Request, home_id: str) -> Response:
    """Save all tariffs of a home as JSON."""
    home, _ = app_of(request).homes.load(home_id)
    if not home.tariffs:
        raise HomeError("there is no tariff to save yet")
    file = TariffFile(time_zone=home.time_zone, tariffs=home.tariffs, currency_changes=home.currency_changes)
    headers = {"Content-Disposition": f'attachment; filename="{home.id}-tariffs.json"'}
    return Response(tariffs_to_json(file), media_type="application/json", headers=headers)


def _bytes_of(file: UploadFile) -> bytes:
    return joined(iter(lambda: file.file.read(65_536), b""))


@router.post("/homes/{home_id}/tariffs-file", name="tariffs_read")
def tariffs_read(
    request: Request, home_id: str, base: Annotated[int, Form()], file: Annotated[UploadFile, File()]
) -> Response:
    """Add the tariffs of a JSON file to a home."""
    try:
        found = tariffs_from_json(_bytes_of(file))
        edit = save(request, home_id, {"base": str(base)}, AddTariffs(file=found))
    except (TariffError, HomeError) as error:
        return back_to(request, "tariff", home_id, show.error_words(error, units_of(request))[:400])
    return back_to(request, "tariff", home_id, "Added; undo takes them back.", tariff=edit.selected or "")


@router.post("/homes/{home_id}/tariffs/{tariff_id}/market", name="market_read")
def market_read(request: Request, home_id: str, tariff_id: str, file: Annotated[UploadFile, File()]) -> Response:
    """Turn a file of the market's prices into a table of instants, and go on to its import."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    own = home.tariff(tariff_id)
    zone = own.market.time_zone if own.market is not None else home.time_zone
    try:
        text = _bytes_of(file).decode("utf-8-sig", "replace")
        prices = read_prices(text, LocalClock(zone), own.currency)
        rows = [
            [f"{from_ms(at):%Y-%m-%dT%H:%M:%SZ}", repr(price)]
            for at, price in zip(prices.start_ms.tolist(), prices.price.tolist(), strict=True)
        ]
        table = csv_text([["time", f"Market price ({own.currency}/kWh)"], *rows]).encode()
        kept = logs.keep_log(app, file.filename or "prices.csv", iter([table]))
    except ReadingError as error:
        return back_to(request, "tariff", home_id, f"{error}."[:400], tariff=tariff_id)
    return RedirectResponse(str(request.url_for("map_log", home_id=home_id, token=kept.token).path), status_code=303)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Period:
    first: date
    last: date
    carrier: Carrier = "electricity"


@router.get("/homes/{home_id}/bill.csv", name="bill_csv")
def bill_csv(request: Request, home_id: str) -> Response:
    """Save a bill's lines as CSV: of the days ``first`` to ``last``, or of the twelve months that end with ``month``."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    query = request.query_params
    try:
        if "month" in query:
            carrier = read_form(_CarrierForm, query).carrier
            month = date.fromisoformat(f"{query['month']}-01")
            bills = [each.bill for each in year_of_bills(app, home, carrier, month) if each.bill is not None]
        else:
            asked = read_form(_Period, query)
            bills = [home_bill(app, home, asked.carrier, asked.first, asked.last)]
    except ValueError as error:
        if isinstance(error, FormError | TariffError):
            raise
        raise HomeError("write the month as 2026-01") from error
    headers = {"Content-Disposition": f'attachment; filename="{home.id}-bill.csv"'}
    return Response(csv_text(_csv_rows(bills)), media_type="text/csv; charset=utf-8", headers=headers)


@dataclass(frozen=True, slots=True, kw_only=True)
class _CarrierForm:
    carrier: Carrier = "electricity"


def _csv_rows(bills: list[Bill]) -> list[list[str]]:
    rows = [
        ["bill_first", "bill_last", "line", "kind", "first", "last", "units", "unit", "price", "amount", "currency"]
    ]
    for made in bills:
        for line in made.lines:
            price = "" if line.price is None else f"{line.price.normalize():f}"
            units = f"{line.units.normalize():f}"
            dates = [str(made.first), str(made.last), line.name, line.kind, str(line.first), str(line.last)]
            rows.append([*dates, units, line.unit, price, f"{line.amount:f}", made.currency])
        total = ["total", "", str(made.first), str(made.last), "", "", "", f"{made.total:f}", made.currency]
        rows.append([str(made.first), str(made.last), *total])
    return rows
