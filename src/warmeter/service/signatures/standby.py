"""What a home draws doing nothing: by machine, in money a year, what a switch would save, what no plug explains."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NeverAtStandby, NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, MachineKind
from warmeter.core.saving.simple import HOURS_A_YEAR, SimpleSaving, exact, saving_with
from warmeter.core.saving.standby_switching import CutFacts, CutOrLeave, cut_or_leave
from warmeter.core.signature.standby_days import StandbyStep, daily_standby, standby_steps
from warmeter.core.signature.standby_power import StandbyPower, is_cut_at_times, standby_power_of
from warmeter.core.signature.standby_states import StandbyStates, standby_states
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.signatures.machines import local_days, machine_record, power_of
from warmeter.service.signatures.meter import Meter, meter_of
from warmeter.service.tariffs.bill_shares import UseMoney, money_of_standing_use

KEPT = 24
OFF_W = 0.5  # below it a plug that reads an exact nought is off
WORK_OVER_REST = 1.5  # docs/methods H1


@dataclass(frozen=True, slots=True, kw_only=True)
class StandbyProfile:
    """A machine at rest.

    Parameters
    ----------
    rest : Rest
        As its log shows it.
    now_w : float
        Since rest last changed [W].
    share : Decimal
        Of the year that it rests: the share of the log outside its cycles; 1 where it has none.
    kwh_per_year : Decimal
        Of its rest, at the hours it rests.
    money : UseMoney
        Of that energy, drawn evenly.
    steps : tuple of (date, RestStep)
        When rest rose or fell.
    daily_w : (day,) float array
        Rest of each day [W].
    first_date, last_date : date
        Of the log.
    never_rests : bool
        Whether it works all the time: its least is not standby.
    states : StandingStates or None
        Its hours off at the plug, at rest and at work, where its plug is cut at times.
    saved_money_year : Decimal or None
        What cutting already saves over a year; None without a tariff or where it is never cut.
    """

    appliance: Appliance
    rest: StandbyPower
    now_w: float
    share: Decimal
    kwh_per_year: Decimal
    money: UseMoney
    steps: tuple[tuple[date, StandbyStep], ...]
    daily_w: Floats
    first_date: date
    last_date: date
    never_rests: bool
    states: StandbyStates | None = None
    saved_money_year: Decimal | None = None

    @property
    def money_per_year(self) -> Decimal | None:
        """Money of its rest over a year; None without a tariff."""
        return self.money.year

    def saving(self, cost: Decimal) -> SimpleSaving | None:
        """Return what a switch of some cost would save that cuts all of its rest; None without a tariff."""
        if self.money_per_year is None:
            return None
        return saving_with(self.kwh_per_year, self.money_per_year, cost)


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeStandby:
    """A home at rest: its machines, those without a log with the reason, and its meter."""

    machines: tuple[StandbyProfile, ...]
    silent: tuple[tuple[str, str], ...]
    meter: Meter | None
    meter_why: str
    total_w: float
    total_kwh: Decimal
    total_money: UseMoney


_PROFILES: Cache[StandbyProfile] = Cache(KEPT)


def home_standby(app: App, home: Home) -> HomeStandby:
    """Return what a home draws doing nothing."""
    found, silent = [], []
    for machine in home.appliances:
        try:
            found.append(standby_profile(app, home, machine))
        except NotKnowable as error:
            silent.append((machine.name, str(error)))
    resting = [s for s in found if not s.never_rests]
    meter, why = None, ""
    try:
        meter = meter_of(app, home, sum(s.now_w for s in found))
    except NotKnowable as error:
        why = str(error)
    total_kwh = sum((s.kwh_per_year for s in resting), Decimal(0))
    last = max((s.last_date for s in resting), default=date(1970, 1, 1))
    return HomeStandby(
        machines=tuple(found),
        silent=tuple(silent),
        meter=meter,
        meter_why=why,
        total_w=sum(s.now_w for s in resting),
        total_kwh=total_kwh,
        total_money=money_of_standing_use(app, home, last, total_kwh),
    )


def standby_profile(app: App, home: Home, machine: Appliance) -> StandbyProfile:
    """Return a machine at rest; ``NotKnowable`` without its power."""
    imports = app.readings.import_stamp(home.id)
    paid = home.tariffs_of("electricity"), home.currency_changes, home.meters
    key = str(app.engine.url), home.id, machine.id, machine.marks, home.time_zone, paid, imports
    return replace(_PROFILES.get(key, lambda: _worked_out(app, home, machine)), appliance=machine)


def _worked_out(app: App, home: Home, machine: Appliance) -> StandbyProfile:
    share, never_rests = Decimal(1), False
    try:
        record = machine_record(app, home, machine.id)
        power, start, step = record.power_w, record.start_ms, record.step_s
        working = sum(c.end - c.start for c in record.found.cycles)
        share = 1 - Decimal(working) / Decimal(int((~np.isnan(power)).sum()))
    except NotKnowable as error:
        never_rests = isinstance(error, NeverAtStandby)
        power, start, step = power_of(app, home, machine)
    clock = app.clock(home)
    heard = power[~np.isnan(power)]
    is_cut = not never_rests and is_cut_at_times(heard)
    rest = standby_power_of(heard[heard > 0] if is_cut else heard)
    standing_w = np.where(power == 0, np.nan, power) if is_cut else power
    day = local_days(clock, start, step, power.size)
    first = clock.local(start).date()
    daily = daily_standby(standing_w, step, day)
    steps = standby_steps(daily)
    now_w = steps[-1].after_w if steps else rest.level_w
    last = first + timedelta(days=int(day[-1]))
    states = _states(power, step, rest) if is_cut else None
    kwh = exact(now_w) * HOURS_A_YEAR * share / 1000
    saved_money = None
    if states is not None:
        share = Decimal(states.rest.hours) / Decimal(states.known_h)
        kwh = exact(states.rest_kwh_year or 0.0)
        saved_money = money_of_standing_use(app, home, last, exact(states.saved_kwh_year or 0.0)).year
    return StandbyProfile(
        appliance=machine,
        rest=rest,
        now_w=now_w,
        share=share,
        kwh_per_year=kwh,
        money=money_of_standing_use(app, home, last, kwh),
        steps=tuple((first + timedelta(days=s.day), s) for s in steps),
        daily_w=daily,
        first_date=first,
        last_date=last,
        never_rests=never_rests,
        states=states,
        saved_money_year=saved_money,
    )


def _states(power: Floats, step_s: float, rest: StandbyPower) -> StandbyStates:
    """Return the hours of a machine whose plug is cut at times: an exact nought is off."""
    return standby_states(
        np.arange(power.size, dtype=np.float64) * step_s,
        power,
        np.full(power.size, np.nan),
        floor_w=OFF_W,
        work_w=max(WORK_OVER_REST * rest.high_w, OFF_W),
        longest_hold_s=step_s,
        end_s=power.size * step_s,
    )


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


def cut_or_leave_of(app: App, home: Home, machine: Appliance, plug_own_w: float) -> CutOrLeave:
    """Return both ways for a machine over a year; ``NotKnowable`` without its power."""
    standing = standby_profile(app, home, machine)
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
