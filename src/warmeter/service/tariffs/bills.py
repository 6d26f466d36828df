"""Bills of a home from what its meters said: logs of the grid meter, or readings that were typed."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import Carrier, Tariff, TypedMeter
from warmeter.core.tariff.bill import Bill, Metered, bill
from warmeter.core.tariff.bills_of_year import MONTHS, MonthBill, month_bills
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy, counted_energy, in_billed_units, metered_energy
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import series_of
from warmeter.service.tariffs.pricing import market_prices
from warmeter.store.readings import StoredSeries

_METERED: Cache["CarrierMeter"] = Cache(24)
_YEARS: Cache[tuple[MonthBill, ...]] = Cache(60)


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterSeries:
    """One record of the same meter: its interval [ms], what it says of a stretch [kWh], and how many intervals lack."""

    name: str
    step_ms: int
    kwh: float
    missing: int


@dataclass(frozen=True, slots=True, kw_only=True)
class CarrierMeter:
    """What a home's meters say of a carrier: bought and sold energy in metered units, and from where."""

    metered: Metered
    source: str
    span_ms: tuple[int, int]


def carrier_meter(app: App, home: Home, carrier: Carrier) -> CarrierMeter:
    """Return what is metered of a carrier: of several records of one meter the one that covers most; typed readings else."""
    key = str(app.engine.url), home.id, carrier, home.meters, home.time_zone, app.readings.import_stamp(home.id)
    return _METERED.get(key, lambda: _carrier_meter(app, home, carrier))


def _carrier_meter(app: App, home: Home, carrier: Carrier) -> CarrierMeter:
    bought, source = _typed(app, home, carrier), "readings typed in"
    sold = None
    if carrier == "electricity":
        found = [(s, _energy(app, s)) for s in series_of(app, home.id, "grid_import_w", "")]
        best = max(found, key=lambda pair: _rank(pair[1]), default=None)
        if best is not None and best[1].start_ms.size:
            bought, source = best[1], _series_name(best[0])
        out = [_energy(app, s) for s in series_of(app, home.id, "grid_export_w", "")]
        sold = max(out, key=_rank, default=None)
    begin, end = bought.span_ms
    market = market_prices(app, home, begin, end) if carrier == "electricity" and end else None
    return CarrierMeter(metered=Metered(bought, sold, market), source=source, span_ms=(begin, end))


def _energy(app: App, series: StoredSeries) -> MeteredEnergy:
    return metered_energy(series.record, app.readings.readings(series.id))


def _rank(metered: MeteredEnergy) -> tuple[int, int]:
    """Return how much a record is worth: time that it covers to the day, then how fine it is."""
    covered = int((metered.end_ms - metered.start_ms).sum()) // MS_PER_DAY
    return covered, -(metered.step_ms or MS_PER_DAY)


def _series_name(series: StoredSeries) -> str:
    step_min = series.record.step_s / 60
    return f"the meter's log, every {step_min:g} min" if step_min else "the meter's log"


def _typed(app: App, home: Home, carrier: Carrier) -> MeteredEnergy:
    """Return the typed readings of a carrier's meters, the longest row of them."""
    clock = app.clock(home)
    rows: list[MeteredEnergy] = []
    for meter in home.meters:
        if meter.carrier == carrier:
            at = np.array([clock.instant(r.on, r.minute) for r in meter.readings], dtype=np.int64)
            value = np.array([int(r.value * MILLION) for r in meter.readings], dtype=np.int64)
            rows.append(counted_energy(at, value))
    none = np.zeros(0, dtype=np.int64)
    return max(rows, key=_rank, default=MeteredEnergy(start_ms=none, end_ms=none, millionths=none, step_ms=0))


def meter_of(home: Home, carrier: Carrier) -> TypedMeter | None:
    """Return the meter with typed readings of a carrier, the first."""
    return next((meter for meter in home.meters if meter.carrier == carrier), None)


def billed(metered: Metered, tariff: Tariff) -> Metered:
    """Return metered energy in the units that a tariff bills."""
    factor = tariff.kwh_per_unit
    if factor is None or tariff.meter_unit in (None, tariff.billed_unit):
        return metered
    return Metered(
        in_billed_units(metered.bought, factor),
        None if metered.sold is None else in_billed_units(metered.sold, factor),
        metered.market,
    )


def home_bill(app: App, home: Home, carrier: Carrier, first: date, last: date) -> Bill:
    """Return the bill of local days [first, last]; ``TariffError`` where it cannot be worked out."""
    tariffs = home.tariffs_of(carrier)
    metered = carrier_meter(app, home, carrier).metered
    if tariffs:
        metered = billed(metered, tariffs[-1])
    return bill(tariffs, app.clock(home), first, last, metered, home.currency_changes)


def year_of_bills(app: App, home: Home, carrier: Carrier, last_month: date) -> tuple[MonthBill, ...]:
    """Return the bills of the twelve months that end with the month of a date."""
    tariffs = home.tariffs_of(carrier)
    begin = date(last_month.year - (last_month.month < MONTHS), last_month.month % MONTHS + 1, 1)
    key = (
        str(app.engine.url),
        home.id,
        carrier,
        tariffs,
        home.meters,
        home.currency_changes,
        home.time_zone,
        begin,
        app.readings.import_stamp(home.id),
    )

    def make() -> tuple[MonthBill, ...]:
        metered = carrier_meter(app, home, carrier).metered
        if tariffs:
            metered = billed(metered, tariffs[-1])
        return month_bills(tariffs, app.clock(home), begin, MONTHS, metered, home.currency_changes)

    return _YEARS.get(key, make)


def last_metered_month(app: App, home: Home, carrier: Carrier) -> date | None:
    """Return the first day of the last calendar month that is wholly metered, else of the last that is in part; None of none."""
    meter = carrier_meter(app, home, carrier)
    if not meter.span_ms[1]:
        return None
    clock = app.clock(home)
    begin = clock.local(meter.span_ms[0]).date()
    last = clock.local(meter.span_ms[1] - 1).date()
    month = last.replace(day=1)
    is_whole = (last + timedelta(days=1)).month != last.month
    if is_whole or begin >= month:
        return month
    return (month - timedelta(days=1)).replace(day=1)


def records_of_meter(app: App, home: Home, first: date, last: date) -> tuple[MeterSeries, ...]:
    """Return what each record of the grid meter says of local days [first, last]: minutes against hours against days."""
    clock = app.clock(home)
    edges = np.array([clock.instant(first, 0), clock.instant(last + timedelta(days=1), 0)], dtype=np.int64)
    found = []
    for series in series_of(app, home.id, "grid_import_w", ""):
        energy = _energy(app, series)
        step = energy.step_ms or MS_PER_DAY
        amount, _ = energy.between(edges)
        _, known = energy.between(np.arange(edges[0], edges[1] + 1, step, dtype=np.int64))
        found.append(
            MeterSeries(
                name=f"every {step // MS_PER_MIN} min" if energy.step_ms else "readings far apart",
                step_ms=step,
                kwh=float(amount[0]) / MILLION,
                missing=int((~known).sum()),
            )
        )
    return tuple(sorted(found, key=lambda each: each.step_ms))
