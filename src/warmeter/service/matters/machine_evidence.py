"""What is known of machines over a year: at rest, their runs at the hours they were started, and the meter's nights."""

from datetime import timedelta
from functools import partial

import numpy as np

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.tariff_year import mean_price
from warmeter.core.home.document import Home
from warmeter.core.home.machines import CYCLES_BY_ITSELF, Appliance
from warmeter.core.matters.evidence import NightBase, RestingMachine, StartedMachine
from warmeter.core.saving.standby_switching import PLUG_OWN_W
from warmeter.core.signature.cycles import Cycle
from warmeter.core.tariff.cheapest_start import cheapest_start, starts_by_cost
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.signatures.machines import machine_record
from warmeter.service.signatures.meter import meter_of
from warmeter.service.signatures.standby import StandbyProfile, cut_or_leave_of, standby_profile
from warmeter.service.tariffs.pricing import known_prices

MOST_RUNS = 60  # the newest
_STARTED: Cache[StartedMachine] = Cache(64)


def resting_machines(app: App, home: Home) -> tuple[RestingMachine, ...]:
    """Return the machines that may be cut at rest and whose rest has a price."""
    found = []
    for machine in home.appliances:
        try:
            profile = standby_profile(app, home, machine)
        except NotKnowable:
            continue
        one = None if profile.never_rests else _resting(app, home, machine, profile)
        if one is not None:
            found.append(one)
    return tuple(found)


def _resting(app: App, home: Home, machine: Appliance, profile: StandbyProfile) -> RestingMachine | None:
    both = cut_or_leave_of(app, home, machine, PLUG_OWN_W)
    heard = profile.daily_w[~np.isnan(profile.daily_w)]
    if both.better != "cut" or both.saved_money is None or profile.money_per_year is None or not heard.size:
        return None
    since = profile.steps[-1][0] if profile.steps else profile.first_date
    steady = profile.daily_w[(since - profile.first_date).days :]
    steady = steady[~np.isnan(steady)]
    rose = profile.steps[-1][1].after_w - profile.steps[-1][1].before_w if profile.steps else 0.0
    return RestingMachine(
        appliance_id=machine.id,
        name=machine.name,
        rest_w=profile.now_w,
        daily_sd_w=float(steady.std(ddof=1)) if steady.size > 1 else profile.rest.high_w - profile.rest.low_w,
        days=float(max(steady.size, 1)),
        kwh_year=float(profile.kwh_per_year),
        money_year=float(profile.money_per_year),
        saved_money=float(both.saved_money),
        plug_own_w=PLUG_OWN_W,
        rose_w=max(0.0, rose),
    )


def started_machines(app: App, home: Home) -> tuple[StartedMachine, ...]:
    """Return the machines that a person starts, with what each whole run cost and could have cost."""
    found = []
    for machine in home.appliances:
        if machine.kind in CYCLES_BY_ITSELF:
            continue
        try:
            record = machine_record(app, home, machine.id)
        except NotKnowable:
            continue
        imports = app.readings.import_stamp(home.id)
        key = str(app.engine.url), home.id, machine, home.time_zone, home.tariffs, imports
        started = _STARTED.get(key, partial(_started, app, home, record))
        if started.cost:
            found.append(started)
    return tuple(found)


def _started(app: App, home: Home, record: MachineRecord) -> StartedMachine:
    newest = record.found.whole[-MOST_RUNS:]
    runs = [_costs(app, home, record, cycle) for cycle in newest]
    priced = [run for run in runs if run is not None]
    return StartedMachine(
        appliance_id=record.appliance.id,
        name=record.appliance.name,
        cost=tuple(cost for cost, _ in priced),
        cheapest=tuple(cheapest for _, cheapest in priced),
        days=record.days * len(newest) / max(len(record.found.whole), 1),
    )


def _costs(app: App, home: Home, record: MachineRecord, cycle: Cycle) -> tuple[float, float] | None:
    """Return what a run cost, and would have at the cheapest start that its machine's times allow that day."""
    clock, machine = app.clock(home), record.appliance
    begin = record.at_ms(cycle.start) // MS_PER_MIN * MS_PER_MIN
    on = clock.local(begin).date()
    start, end = clock.instant(on, 0), clock.instant(on + timedelta(days=2), 0)
    prices = known_prices(app, home, minutes_between(start, end))
    if prices is None:
        return None
    kwh = record.by_minute_kwh(cycle)
    at = (begin - start) // MS_PER_MIN
    if at + kwh.size > prices.by_step.size:
        return None
    cost = float(kwh @ prices.by_step[at : at + kwh.size])
    earliest, latest = min(machine.earliest_min, at), max(machine.latest_end_min, at + kwh.size)
    if latest - earliest < kwh.size or latest > 2 * MIN_PER_DAY:
        return cost, cost
    starts = starts_by_cost(
        prices.by_step,
        kwh,
        1,
        earliest_min=earliest,
        latest_end_min=min(latest, prices.by_step.size),
        start_step_min=machine.start_step_min,
    )
    return cost, min(cost, float(cheapest_start(starts).cost))


def night_base(app: App, home: Home, plugs_w: float) -> NightBase | None:
    """Return what the meter draws all night; None without a priced meter or a night that counts."""
    try:
        meter = meter_of(app, home, plugs_w)
    except NotKnowable:
        return None
    floors = np.array([night.floor_w for night in meter.floor.nights if night.floor_w is not None])
    price = mean_price(home, app.clock(home).local(meter.last_ms).date())
    if not floors.size or meter.floor.floor_w is None or price is None:
        return None
    standing = meter.standing
    return NightBase(
        floor_w=meter.floor.floor_w if standing.floor_w is None else standing.floor_w,
        night_sd_w=float(floors.std(ddof=1)) if floors.size > 1 else float(floors[0]),
        nights=int(floors.size),
        plugs_w=plugs_w,
        price=float(price),
        heating_down_w=standing.down_w,
        heating_up_w=standing.up_w,
        hidden=standing.why,
    )
