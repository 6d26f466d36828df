"""What a plan of the day expects besides its wants: other use, sun, outdoors, export and peak prices, from logs and tariff."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.day_plan.check import load_of
from warmeter.core.day_plan.other_use import OtherUse, other_use
from warmeter.core.day_plan.problem import DayPlan, PeakPrice, PlanProblem
from warmeter.core.day_plan.wanted import PlanTime
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.like_days import LikeDays, like_days
from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import Tariff
from warmeter.core.tariff.bill_slots import bill_slots
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy, metered_energy
from warmeter.core.tariff.prices import export_prices_at
from warmeter.core.tariff.rates_in_force import hours_hold, local_calendar
from warmeter.core.tariff.taxes import tax_factor
from warmeter.core.units import MIN_PER_H, MS_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.forecast.outdoor_forecast import outdoor_between
from warmeter.service.readings.room_logs import series_of
from warmeter.service.tariffs.bills import carrier_meter
from warmeter.service.tariffs.pricing import market_prices
from warmeter.store.readings import StoredSeries

LOOKED_BACK_DAYS = 28


def export_price(app: App, home: Home, tariff: Tariff | None, time: PlanTime) -> Floats:
    """Return what is paid for what is given away in each slot [currency/kWh]."""
    if tariff is None:
        return np.zeros(time.slots)
    market = None
    if tariff.market is not None and tariff.market.pays_export:
        known = market_prices(app, home, int(time.start_ms[0]), int(time.start_ms[-1]) + 1)
        market = None if known is None else known.at(time.start_ms)
    return np.nan_to_num(export_prices_at(tariff, app.clock(home), time.start_ms, market))


def outdoor_by_slot(app: App, home: Home, time: PlanTime, assumed: list[str]) -> Floats:
    """Return the mean outdoor temperature of each slot, heard or forecast, else the year's mean [°C]."""
    begin, end = int(time.start_ms[0]), int(time.start_ms[-1]) + time.step_min * MS_PER_MIN
    try:
        found, _, _ = outdoor_between(app, home, app.clock(home), app.as_of_ms(home.id), begin, end, None)
        by_slot: Floats = found.outdoor_c[:-1].reshape(time.slots, time.step_min).mean(axis=1)
        return by_slot
    except NotKnowable:
        assumed.append("Outdoors is taken as the year's mean: neither heard nor forecast.")
        return np.full(time.slots, home.design.annual_mean_c)


def solar_meter(app: App, home: Home) -> MeteredEnergy | None:
    """Return what the sun's inverter counted; None without a log of it."""
    series = series_of(app, home.id, "sun_power_w", "")
    return None if not series else metered_energy(series[0].record, app.readings.readings(series[0].id))


def sun_by_slot(app: App, home: Home, time: PlanTime, on: date, assumed: list[str]) -> Floats:
    """Return what the sun is expected to make in each slot [kWh]: by an imported forecast of all of it, else as on like days."""
    edges = np.append(time.start_ms, time.start_ms[-1] + time.step_min * MS_PER_MIN)
    for series in series_of(app, home.id, "sun_forecast_w", ""):
        energy = metered_energy(
            series.record, app.readings.readings(series.id, int(edges[0]) - MS_PER_DAY, int(edges[-1]) + MS_PER_DAY)
        )
        amount, known = energy.between(edges)
        if known.all():
            assumed.append("Sun is as the imported forecast has it.")
            return np.asarray(amount / MILLION, dtype=np.float64)
    found = like_slots(app, solar_meter(app, home), home, time, on, by_weekday=False)
    if found is None:
        return np.zeros(time.slots)
    assumed.append(
        f"Sun is the mean of {len(found.dates)} days up to {found.dates[-1]}: import a forecast for a better guess."
    )
    return np.clip(found.mean_kwh, 0.0, None)


def what_else_runs(
    app: App,
    home: Home,
    time: PlanTime,
    on: date,
    machines: tuple[str, ...],
    problem: PlanProblem,
    habit: DayPlan,
    assumed: list[str],
) -> OtherUse:
    """Return what the home is expected to draw besides what is planned: like days of its meter less the machines' plugs,
    less what planned rooms and stores draw by habit.
    """
    none = OtherUse(kwh=np.zeros(time.slots), counted=(), elsewhere=())
    meter = carrier_meter(app, home, "electricity").metered
    if not meter.bought.start_ms.size or not meter.bought.step_ms:
        assumed.append("What else runs is taken as nothing: the meter was never logged by intervals.")
        return none
    taken = [metered_energy(s.record, app.readings.readings(s.id)) for m in set(machines) for s in _plugs(app, home, m)]
    solar = solar_meter(app, home)
    found = like_slots(app, meter.bought, home, time, on, by_weekday=True, less=taken, sold=meter.sold, made=solar)
    if found is None:
        assumed.append("What else runs is taken as nothing: fewer than two like days of the meter are known.")
        return none
    assumed.append(f"What else runs is the mean of {len(found.dates)} like days of the meter, up to {found.dates[-1]}.")
    groups = [tuple(room.key for room in problem.rooms), *((store.key,) for store in problem.stores)]
    by_habit = {keys: np.sum([load_of(problem, habit, key) for key in keys], axis=0) for keys in groups if keys}
    other = other_use(found.mean_kwh, found.highest_kwh, by_habit)
    names = {part.key: part.name for part in problem.parts()}
    if other.counted:
        assumed.append(f"It is counted without what {_listed(names, other.counted)} would draw by habit.")
    if other.elsewhere:
        assumed.append(
            f"The meter cannot have counted {_listed(names, other.elsewhere)}: too little for that went through it."
        )
    return other


def _listed(names: Mapping[str, str], keys: tuple[str, ...]) -> str:
    words = [names[key] for key in keys]
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _plugs(app: App, home: Home, machine_id: str) -> list[StoredSeries]:
    return series_of(app, home.id, "electric_w", machine_id)[:1]


def like_slots(
    app: App,
    energy: MeteredEnergy | None,
    home: Home,
    time: PlanTime,
    on: date,
    *,
    by_weekday: bool,
    less: list[MeteredEnergy] | None = None,
    sold: MeteredEnergy | None = None,
    made: MeteredEnergy | None = None,
) -> LikeDays | None:
    """Return like days before a date in the slots of a plan, first day by first, repeated over the plan's days."""
    if energy is None:
        return None
    clock = app.clock(home)
    newest = min(on, clock.local(energy.span_ms[1] - 1).date() + timedelta(days=1)) if energy.span_ms[1] else on
    dates = tuple(newest - timedelta(days=k) for k in range(LOOKED_BACK_DAYS, 0, -1))
    per_day = 24 * MIN_PER_H // time.step_min
    rows = np.full((len(dates), per_day), np.nan)
    for place, day in enumerate(dates):
        begin = clock.instant(day, 0)
        edges = begin + np.arange(per_day + 1, dtype=np.int64) * time.step_min * MS_PER_MIN
        amount, known = energy.between(edges)
        if not known.all():
            continue
        row = amount / MILLION
        for each, sign in (*((other, -1.0) for other in less or []), (sold, -1.0), (made, 1.0)):
            if each is not None:
                row = row + sign * each.between(edges)[0] / MILLION
        rows[place] = row
    found = like_days(dates, rows, on, by_weekday=by_weekday)
    if found is None:
        return None
    slot = np.arange(time.slots) % per_day
    return replace(found, mean_kwh=found.mean_kwh[slot], low_kwh=found.low_kwh[slot], high_kwh=found.high_kwh[slot])


def peak_price(app: App, home: Home, tariff: Tariff, time: PlanTime) -> PeakPrice | None:
    """Return what more demand would cost, above the month's peak so far."""
    if not tariff.demand:
        return None
    charge, clock = tariff.demand[0], app.clock(home)
    calendar = local_calendar(time.start_ms, clock, tariff.holidays, is_standard_time=tariff.is_standard_time)
    counted = hours_hold(charge.hours, calendar)
    if not counted.any():
        return None
    so_far = 0.0
    first, yesterday = time.on.replace(day=1), time.on - timedelta(days=1)
    meter = carrier_meter(app, home, "electricity").metered.bought
    if yesterday >= first and meter.start_ms.size:
        intervals = bill_slots(tariff, clock, first, yesterday, meter).intervals(tariff, charge.interval_min)
        own = intervals.is_known & hours_hold(charge.hours, intervals.calendar)
        if own.any():
            so_far = float(intervals.bought[own].max()) / MILLION * MIN_PER_H / charge.interval_min
    factor = 1.0 if tariff.prices_include_tax or not charge.is_taxed else float(tax_factor(tariff.taxes))
    return PeakPrice(price_per_kw=float(charge.price_per_kw) * factor, so_far_kw=so_far, counted=counted)
