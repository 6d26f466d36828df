"""What a home draws doing nothing: by machine, in money a year, what a switch would save, what no plug explains."""

from collections import OrderedDict
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import NeverRests, NotKnowable, TariffError
from warmeter.core.home.document import Home, Tariff
from warmeter.core.home.machines import Appliance, MachineKind
from warmeter.core.saving.cutting import CutFacts, CutOrLeave, cut_or_leave
from warmeter.core.saving.simple import HOURS_A_YEAR, SimpleSaving, exact, saving_with
from warmeter.core.signature.rest import Rest, rest_of
from warmeter.core.signature.standing_use import RestStep, daily_rest, night_floor, rest_steps
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN
from warmeter.service.machines import local_days, machine_record, power_of
from warmeter.service.outlook import prices_between
from warmeter.service.roomlogs import means, series_of
from warmeter.service.workbench import Workbench

Floats = NDArray[np.float64]
KEPT = 24
FINEST_S = 60  # standby needs no finer step


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """A machine at rest.

    Parameters
    ----------
    rest : Rest
        As its log shows it.
    now_w : float
        Since rest last changed [W].
    share : Decimal
        Of the year that it rests: the share of the log outside its cycles; 1 where it has none.
    kwh_per_year, money_per_year : Decimal
        Of its rest, at the hours it rests; money is None without a tariff.
    steps : tuple of (date, RestStep)
        When rest rose or fell.
    daily_w : (day,) float array
        Rest of each day [W].
    first_date, last_date : date
        Of the log.
    never_rests : bool
        Whether it works all the time: its least is not standby.
    """

    appliance: Appliance
    rest: Rest
    now_w: float
    share: Decimal
    kwh_per_year: Decimal
    money_per_year: Decimal | None
    steps: tuple[tuple[date, RestStep], ...]
    daily_w: Floats
    first_date: date
    last_date: date
    never_rests: bool

    def saving(self, cost: Decimal) -> SimpleSaving | None:
        """Return what a switch of some cost would save that cuts all of its rest; None without a tariff."""
        if self.money_per_year is None:
            return None
        return saving_with(self.kwh_per_year, self.money_per_year, cost)


@dataclass(frozen=True, slots=True, kw_only=True)
class NightFloor:
    """What the meter shows of a night: the floor [W], its usual spread, and what no plug explains [W]."""

    floor_w: float
    low_w: float
    high_w: float
    plugs_w: float
    nights: int
    kwh_per_year: Decimal
    money_per_year: Decimal | None

    @property
    def unexplained_w(self) -> float:
        """Floor less what the plugs show at rest [W]."""
        return self.floor_w - self.plugs_w


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeStandby:
    """A home at rest: its machines, those without a log with the reason, and the meter's night floor."""

    machines: tuple[Standing, ...]
    silent: tuple[tuple[str, str], ...]
    floor: NightFloor | None
    floor_why: str
    total_w: float
    total_kwh: Decimal
    total_money: Decimal | None


_STANDINGS: OrderedDict[object, Standing] = OrderedDict()


def home_standby(bench: Workbench, home: Home) -> HomeStandby:
    """Return what a home draws doing nothing."""
    found, silent = [], []
    for machine in home.appliances:
        try:
            found.append(standing_of(bench, home, machine))
        except NotKnowable as error:
            silent.append((machine.name, str(error)))
    resting = [s for s in found if not s.never_rests]
    floor, why = None, ""
    try:
        floor = _floor(bench, home, sum(s.now_w for s in found))
    except NotKnowable as error:
        why = str(error)
    money = [s.money_per_year for s in resting]
    return HomeStandby(
        machines=tuple(found),
        silent=tuple(silent),
        floor=floor,
        floor_why=why,
        total_w=sum(s.now_w for s in resting),
        total_kwh=sum((s.kwh_per_year for s in resting), Decimal(0)),
        total_money=None if any(m is None for m in money) else sum((m for m in money if m is not None), Decimal(0)),
    )


def standing_of(bench: Workbench, home: Home, machine: Appliance) -> Standing:
    """Return a machine at rest; ``NotKnowable`` without its power."""
    imports = tuple(i.id for i in bench.readings.imports(home.id) if not i.is_taken_back)
    key = str(bench.engine.url), home.id, machine.id, machine.marks, home.zone, home.tariffs, imports
    if key not in _STANDINGS:
        _STANDINGS[key] = _worked_out(bench, home, machine)
        while len(_STANDINGS) > KEPT:
            _STANDINGS.popitem(last=False)
    return replace(_STANDINGS[key], appliance=machine)


def _worked_out(bench: Workbench, home: Home, machine: Appliance) -> Standing:
    share, never_rests = Decimal(1), False
    try:
        record = machine_record(bench, home, machine.id)
        power, start, step = record.power_w, record.start_ms, record.step_s
        working = sum(c.end - c.start for c in record.found.cycles)
        share = 1 - Decimal(working) / Decimal(int((~np.isnan(power)).sum()))
    except NotKnowable as error:
        never_rests = isinstance(error, NeverRests)
        power, start, step = power_of(bench, home, machine)
    clock = bench.clock(home)
    rest = rest_of(power[~np.isnan(power)])
    day = local_days(clock, start, step, power.size)
    first = clock.local(start).date()
    daily = daily_rest(power, step, day)
    steps = rest_steps(daily)
    now_w = steps[-1].after_w if steps else rest.level_w
    last = first + timedelta(days=int(day[-1]))
    kwh = exact(now_w) * HOURS_A_YEAR * share / 1000
    return Standing(
        appliance=machine,
        rest=rest,
        now_w=now_w,
        share=share,
        kwh_per_year=kwh,
        money_per_year=_money(home, last, kwh),
        steps=tuple((first + timedelta(days=s.day), s) for s in steps),
        daily_w=daily,
        first_date=first,
        last_date=last,
        never_rests=never_rests,
    )


def _money(home: Home, on: date, kwh: Decimal) -> Decimal | None:
    """Return what an energy costs that is drawn evenly over the year before a date; None without a tariff."""
    tariff = home.tariff_on(on)
    shares = None if tariff is None else _rate_shares(tariff, home.zone, on)
    if tariff is None or shares is None:
        return None
    return sum((kwh * share * rate.price_per_kwh for share, rate in zip(shares, tariff.rates, strict=True)), Decimal(0))


_SHARES: OrderedDict[object, tuple[Decimal, ...] | None] = OrderedDict()


def _rate_shares(tariff: Tariff, zone: str, on: date) -> tuple[Decimal, ...] | None:
    """Return how much of a year each rate of a tariff holds; None if a minute of it has no rate."""
    key = tariff, zone, on
    if key not in _SHARES:
        clock = LocalClock(zone)
        start, end = clock.day(on - timedelta(days=364)).start_ms, clock.day(on).end_ms
        try:
            rate = prices_between(tariff, clock, start, end).rate
            counts = np.bincount(rate, minlength=len(tariff.rates))
            _SHARES[key] = tuple(Decimal(int(n)) / ((end - start) // MS_PER_MIN) for n in counts)
        except TariffError:
            _SHARES[key] = None
        while len(_SHARES) > KEPT:
            _SHARES.popitem(last=False)
    return _SHARES[key]


USUAL_FACTS: dict[MachineKind, CutFacts] = {
    "washer": CutFacts(locks_door=True, restarts_by_hand=True),
    "condenser_dryer": CutFacts(cools_down=True, restarts_by_hand=True),
    "heat_pump_dryer": CutFacts(cools_down=True, restarts_by_hand=True),
    "dishwasher": CutFacts(cools_down=True, restarts_by_hand=True),
    "dehumidifier": CutFacts(restarts_by_hand=True),
    "water_heater": CutFacts(must_stay_on=True),
    "fridge": CutFacts(must_stay_on=True),
    "freezer": CutFacts(must_stay_on=True),
    "tub": CutFacts(must_stay_on=True),
    "pump": CutFacts(must_stay_on=True),
    "computer": CutFacts(must_stay_on=True),
}


def cut_facts(machine: Appliance) -> CutFacts:
    """Return what cutting a machine's plug would cost: as somebody said, else as is usual for its kind."""
    usual = USUAL_FACTS.get(machine.kind, CutFacts())
    said = {n: getattr(machine, n) for n in ("loses_clock", "cools_down", "locks_door", "restarts_by_hand")}
    return replace(usual, **{n: v for n, v in said.items() if v is not None})


def cut_or_leave_of(bench: Workbench, home: Home, machine: Appliance, plug_own_w: float) -> CutOrLeave:
    """Return both ways for a machine over a year; ``NotKnowable`` without its power."""
    standing = standing_of(bench, home, machine)
    price = None
    if standing.money_per_year is not None and standing.kwh_per_year > 0:
        price = standing.money_per_year / standing.kwh_per_year
    return cut_or_leave(
        rest_w=min(standing.now_w, 1000.0),
        rest_share=standing.share,
        plug_own_w=plug_own_w,
        price_per_kwh=price,
        facts=cut_facts(machine),
    )


def mean_price(home: Home, on: date) -> Decimal | None:
    """Return what a kWh drawn evenly over the year before a date costs; None without a tariff."""
    return _money(home, on, Decimal(1))


def _floor(bench: Workbench, home: Home, plugs_w: float) -> NightFloor:
    """Return the meter's night floor; ``NotKnowable`` without its readings."""
    taken = series_of(bench, home.id, "grid_import_w", "")
    if not taken:
        raise NotKnowable("The meter's import has not been read in.", "Read in its interval data of a week or more.")
    given = series_of(bench, home.id, "grid_export_w", "")
    finest = sorted(taken, key=lambda s: s.record.step_s or s.record.longest_hold_s)
    step = float(max(FINEST_S, finest[0].record.step_s))
    spans = [bench.readings.span(s.id) for s in taken]
    start, last = min(s[0] for s in spans), max(s[1] for s in spans)
    steps = int((last - start) / 1000 // step) + 1
    power = means(bench, finest, start, step, steps)
    if given:
        power = power - np.nan_to_num(means(bench, given, start, step, steps))
    clock = bench.clock(home)
    at = start + (np.arange(steps) * (step * 1000)).astype(np.int64)
    _, minute = clock.wall_minutes(at)
    floors = night_floor(power, minute, local_days(clock, start, step, steps))
    floors = floors[~np.isnan(floors)]
    floor = float(np.median(floors))
    kwh = exact(floor) * HOURS_A_YEAR / 1000
    return NightFloor(
        floor_w=floor,
        low_w=float(np.quantile(floors, 0.1)),
        high_w=float(np.quantile(floors, 0.9)),
        plugs_w=plugs_w,
        nights=floors.size,
        kwh_per_year=kwh,
        money_per_year=_money(home, clock.local(last).date(), kwh),
    )
