"""Which tariff: a home's own year on each, as it was and as it would have been planned."""

from dataclasses import dataclass
from datetime import date, timedelta

from warmeter.core.day_plan.moved_runs import MovableRun, MovedYear, moved_runs
from warmeter.core.errors import NotKnowable, TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.machines import CYCLES_BY_ITSELF
from warmeter.core.home.tariffs import Carrier, Tariff
from warmeter.core.tariff.bills_of_year import MONTHS
from warmeter.core.tariff.metered_energy import metered_energy
from warmeter.core.tariff.tariff_comparison import TariffVerdict, TariffYear, open_ended, tariff_year, verdict
from warmeter.core.units import MS_PER_DAY
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import series_of
from warmeter.service.signatures.machines import machine_record
from warmeter.service.tariffs.bills import CarrierMeter, billed, carrier_meter

_COMPARED: Cache["TariffChoice"] = Cache(24)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedYear:
    """A year on a tariff with its runs moved, and how many were moved of how many."""

    year: TariffYear
    moved: int
    movable: int


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffChoice:
    """A year on each tariff, as it was and as planned, and what tells the best from the next.

    ``planned`` is by a tariff's id, empty where no run of a machine that may be moved was logged; ``machines`` are the
    names of those.
    """

    years: tuple[TariffYear, ...]
    planned: dict[str, PlannedYear]
    machines: tuple[str, ...]
    verdict: TariffVerdict | None
    first_month: date
    months: int


def tariff_choice(app: App, home: Home, carrier: Carrier, last_month: date, now_id: str) -> TariffChoice | None:
    """Return a home's own year on each of its tariffs and offers; None without one or without a meter."""
    tariffs = tuple(home.with_holidays(t) for t in home.tariffs if t.carrier == carrier)
    meter = carrier_meter(app, home, carrier)
    if not tariffs or not meter.span_ms[1]:
        return None
    key = (
        str(app.engine.url),
        home.id,
        tariffs,
        home.meters,
        home.appliances,
        home.plan_practice.quiet,
        home.time_zone,
        last_month,
        now_id,
        app.readings.import_stamp(home.id),
    )
    return _COMPARED.get(key, lambda: _choice(app, home, tariffs, meter, last_month, now_id))


def _choice(
    app: App, home: Home, tariffs: tuple[Tariff, ...], meter: CarrierMeter, last_month: date, now_id: str
) -> TariffChoice:
    clock = app.clock(home)
    began = clock.local(meter.span_ms[0]).date().replace(day=1)
    year_before = date(last_month.year - (last_month.month < MONTHS), last_month.month % MONTHS + 1, 1)
    begin = max(began, year_before)
    months = MONTHS * (last_month.year - begin.year) + last_month.month - begin.month + 1
    years = tuple(tariff_year(t, clock, begin, months, billed(meter.metered, t)) for t in tariffs)
    runs = _logged_runs(app, home) if tariffs[0].carrier == "electricity" else {}
    planned = {}
    for tariff in tariffs:
        found = _moved(app, home, tariff, meter, begin, last_month, [run for own in runs.values() for run in own])
        if found is not None and found.movable:
            year = tariff_year(tariff, clock, begin, months, found.metered)
            planned[tariff.id] = PlannedYear(year=year, moved=found.moved, movable=found.movable)
    return TariffChoice(
        years=years,
        planned=planned,
        machines=tuple(runs),
        verdict=verdict(years, clock, meter.metered, now_id),
        first_month=begin,
        months=months,
    )


def _moved(
    app: App, home: Home, tariff: Tariff, meter: CarrierMeter, begin: date, last_month: date, runs: list[MovableRun]
) -> MovedYear | None:
    """Return the meters with runs moved; None where a slot has no price, where a meter counts other units, or without a run."""
    if not runs or billed(meter.metered, tariff) is not meter.metered:
        return None
    after = date(last_month.year + last_month.month // MONTHS, last_month.month % MONTHS + 1, 1)
    quiet = home.plan_practice.quiet
    try:
        return moved_runs(
            meter.metered, runs, open_ended(tariff), app.clock(home), quiet, begin, after - timedelta(days=1)
        )
    except TariffError:
        return None


def _logged_runs(app: App, home: Home) -> dict[str, list[MovableRun]]:
    """Return every whole run in the logs of machines that a person starts, by the machine's name."""
    found = {}
    for machine in home.appliances:
        series = series_of(app, home.id, "electric_w", machine.id)
        if machine.kind in CYCLES_BY_ITSELF or not series:
            continue
        try:
            record = machine_record(app, home, machine.id)
        except NotKnowable:
            continue
        spans = [(record.at_ms(c.start), record.at_ms(c.end)) for c in record.found.whole]
        if spans:
            low, high = spans[0][0] - MS_PER_DAY, spans[-1][1] + MS_PER_DAY
            own = metered_energy(series[0].record, app.readings.readings(series[0].id, low, high))
            found[machine.name] = [MovableRun(start_ms=a, end_ms=b, metered=own) for a, b in spans]
    return found
