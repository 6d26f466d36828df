"""What a home draws doing nothing, as lanes of its days and a table, ready strings."""

from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.saving.present_value import present_value
from warmeter.core.saving.simple import simple_saving
from warmeter.core.timegrid import LocalClock
from warmeter.service.signatures.meter import MeterStretch
from warmeter.service.signatures.per_load import PerLoad
from warmeter.service.signatures.standby import HomeStandby, StandbyProfile, cut_facts
from warmeter.service.tariffs.bill_shares import UseMoney
from warmeter.web import format as show
from warmeter.web.signatures.meter_view import MeterView, meter_view
from warmeter.web.signatures.words import watts
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import Axis, Curve, Lane, StripStretch, StripView, gutter_name

MOST_LANES = 6
SHOWN_DAYS = 366


@dataclass(frozen=True, slots=True, kw_only=True)
class StandbyRow:
    """A machine in the table."""

    id: str
    name: str
    now: str
    spread: str
    share: str
    kwh: str
    month: str
    money: str
    payback: str
    since: str
    working: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AlwaysOnView:
    """The pane."""

    strip: DrawnStrip | None
    rows: list[StandbyRow]
    total: tuple[str, str, str, str]
    month: str
    billed: str
    loads: list[tuple[str, ...]]
    loads_per_week: str
    waste: str
    silent: tuple[tuple[str, str], ...]
    cut: list[str]
    meter: MeterView | None
    meter_why: str
    cost: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Wasted:
    """Watts wasted so many hours a day on so many days a year, and what would prevent it."""

    power_w: float
    hours: float
    days: float
    cost: Decimal
    price: Decimal
    years: int
    discount_pct: Decimal
    growth_pct: Decimal


def always_on_view(
    home: Home,
    clock: LocalClock,
    found: HomeStandby,
    loads: tuple[PerLoad, ...],
    *,
    cost: Decimal | None,
    loads_per_week: Decimal | None,
    wasted: Wasted | None,
    stretch: MeterStretch | None,
    width: int,
) -> AlwaysOnView:
    """Return the pane; ``cost`` is what a switch costs, ``loads_per_week`` what all machines are compared at, if asked."""
    return AlwaysOnView(
        strip=_strip(home, clock, found.machines, width) if found.machines else None,
        rows=[_row(home, s, cost) for s in found.machines],
        total=(
            f"{watts(found.total_w)} W",
            f"{show.number(float(found.total_kwh))} kWh",
            show.money(found.total_money.month, home.currency),
            show.money(found.total_money.year, home.currency),
        ),
        month=_month(found.total_money),
        billed=_billed(found.total_money),
        loads=[_load(home, each) for each in loads],
        loads_per_week="" if loads_per_week is None else f"{loads_per_week}",
        waste=_waste(home, wasted) if wasted else "",
        silent=found.silent,
        cut=[_cut(home, s) for s in found.machines if s.states is not None],
        meter=meter_view(home, clock, found.meter, stretch, width) if found.meter else None,
        meter_why=found.meter_why,
        cost="" if cost is None else f"{cost}",
    )


def _month(money: UseMoney) -> str:
    """Return which month is billed, and how many days of it are metered."""
    return "a month" if money.month_on is None else f"{money.month_on:%b %Y}, {money.month_days} days"


def _billed(money: UseMoney) -> str:
    """Return how a year's money was come by."""
    if money.is_billed:
        return (
            "Money is what the home's own twelve bills would have been less without it: tiers, demand, taxes and "
            "rounding are in it."
        )
    return "A year's money is at the price of each of its hours: fewer than twelve months of bills can be worked out."


def _load(home: Home, load: PerLoad) -> tuple[str, ...]:
    return (
        load.name,
        show.number(load.cycles_per_week, 1),
        f"{show.number(load.kwh, 2)} ({show.number(load.kwh_low, 2)} to {show.number(load.kwh_high, 2)})",
        show.duration(60 * load.hours),
        show.money(load.money, home.currency, 3),
        show.number(float(load.kwh_year)),
        f"{show.number(100 * float(load.rest_kwh_year / load.kwh_year))} %" if load.kwh_year else "–",
        show.money(load.money_year, home.currency),
    )


def _waste(home: Home, wasted: Wasted) -> str:
    """Return K1 with its working."""
    saving = simple_saving(
        power_w=wasted.power_w,
        hours_per_day=wasted.hours,
        days_per_year=wasted.days,
        price_per_kwh=wasted.price,
        cost=wasted.cost,
    )
    payback = (
        "never pays back"
        if saving.payback_years is None
        else f"pays back in {show.number(float(saving.payback_years), 2)} years"
    )
    return (
        f"{wasted.power_w:g} W × {wasted.hours:g} h × {wasted.days:g} days / 1000 = {show.number(float(saving.kwh_per_year), 1)} kWh a year; "
        f"× {show.small_money(float(wasted.price), home.currency)} {show.small_money_unit(home.currency)}/kWh = "
        f"{show.money(saving.money_per_year, home.currency)}; what prevents it for {show.money(wasted.cost, home.currency)} {payback}."
        f" {_worth_today(home, wasted, saving.money_per_year)}"
    )


def _worth_today(home: Home, wasted: Wasted, money_per_year: Decimal) -> str:
    """Return K2 in words."""
    worth = present_value(
        cost=wasted.cost,
        saving_year1=money_per_year,
        discount_rate=wasted.discount_pct / 100,
        price_growth=wasted.growth_pct / 100,
        years=wasted.years,
    )
    assumed = (
        f"Over {wasted.years} years, money at {wasted.discount_pct} % and prices rising {wasted.growth_pct} % a year"
    )
    amount = show.money(abs(worth.net), home.currency)
    if worth.net < 0:
        return f"{assumed}, it costs {amount} more than it brings in today's money."
    if not wasted.cost or worth.payback_years is None:
        return f"{assumed}, that is {amount} in today's money."
    return (
        f"{assumed}, it brings {amount} more than it costs in today's money, "
        f"and has paid for itself after {show.number(float(worth.payback_years), 2)} years."
    )


def _row(home: Home, standing: StandbyProfile, cost: Decimal | None) -> StandbyRow:
    may_cut = not cut_facts(standing.appliance).must_stay_on and not standing.never_rests
    saving = standing.saving(cost) if cost is not None and may_cut else None
    payback = "–" if may_cut else "not to be cut"
    if saving is not None:
        payback = "never" if saving.payback_years is None else f"{show.number(float(saving.payback_years), 1)} years"
    hours = 8760 * standing.share
    return StandbyRow(
        id=standing.appliance.id,
        name=standing.appliance.name,
        now=show.number(standing.now_w, 1),
        spread=f"{show.number(standing.rest.low_w, 1)} to {show.number(standing.rest.high_w, 1)}",
        share="never rests" if standing.never_rests else f"{show.number(float(hours))} h",
        kwh=show.number(float(standing.kwh_per_year), 1),
        month=show.money(standing.money.month, home.currency),
        money=show.money(standing.money_per_year, home.currency),
        payback=payback,
        since=_since(home, standing),
        working=(
            f"{float(standing.kwh_per_year / hours) * 1000 if hours else 0.0:.2f} W × {float(hours):.0f} h / 1000 = {float(standing.kwh_per_year):.2f} kWh a year, "
            + (
                "billed with it and without it, month by month"
                if standing.money.is_billed
                else "priced by the share of the year that each rate holds"
            )
        ),
    )


def _since(home: Home, standing: StandbyProfile) -> str:
    """Return when rest changed, the newest first, with what that costs a year."""
    words = []
    for on, step in reversed(standing.steps):
        verb = "rose" if step.after_w > step.before_w else "fell"
        words.append(
            f"{verb} on {show.day_long(on, home.country)} from {show.number(step.before_w, 1)} to {show.number(step.after_w, 1)} W"
        )
    return "; ".join(words) or "unchanged over the log"


def _cut(home: Home, standing: StandbyProfile) -> str:
    """Return what a machine whose plug is cut at times stands at, and what cutting already saves."""
    states = standing.states
    if states is None or states.rest.mean_w is None:
        return f"{standing.appliance.name} was never recorded at rest: what cutting its plug saves cannot be told."
    a_week = 168 / states.known_h
    saved = (
        f"cutting already saves {show.number(states.saved_kwh_year, 1)} kWh, "
        f"{show.money(standing.saved_money_year, home.currency)} a year; never cut, it would take "
        f"{show.number(states.never_cut_kwh_year, 1)} kWh"
    )
    return (
        f"{standing.appliance.name}: off at the plug {show.number(states.off.hours * a_week, 1)} h a week, at rest "
        f"{show.number(states.rest.hours * a_week, 1)} h at {show.number(states.rest.mean_w, 1)} W, at work "
        f"{show.number(states.work.hours * a_week, 1)} h. At rest it takes {show.number(states.rest_kwh_year, 1)} kWh, "
        f"{show.money(standing.money_per_year, home.currency)} a year; {saved}."
    )


def _strip(home: Home, clock: LocalClock, machines: tuple[StandbyProfile, ...], width: int) -> DrawnStrip:
    """Return each machine's rest by day over the last year of the logs."""
    last = max(s.last_date for s in machines)
    first = max(min(s.first_date for s in machines), last - timedelta(days=SHOWN_DAYS - 1))
    days = (last - first).days + 1
    every = max(1, -(-days // 10))
    ticks = [(float(k), show.day_short(first + timedelta(days=k), home.country)) for k in range(0, days, every)]
    times = [show.day_short(first + timedelta(days=k), home.country) for k in range(days)]
    lanes = []
    for standing in machines[:MOST_LANES]:
        values = np.full(days, np.nan)
        offset = (standing.first_date - first).days
        for k, value in enumerate(standing.daily_w):
            if 0 <= k + offset < days:
                values[k + offset] = value
        top = max(1.25 * float(np.nanmax(values, initial=0.5)), 1.0)
        silent = [
            StripStretch(start=float(k), end=float(k + 1), css="wm-gap")
            for k in np.flatnonzero(np.isnan(values)).tolist()
        ]
        mark = round(top / 2) if top >= 4 else round(top / 2, 1)
        lanes.append(
            Lane(
                name=gutter_name(standing.appliance.name),
                note="W, by day",
                height=46,
                high=top,
                axis=[(mark, show.number(mark, 0 if top >= 4 else 1))],
                fills=(Curve(values=np.repeat(values, 8), css="wm-pw", step=0.125),),
                stretches=silent if len(silent) < 40 else (),
                table=[(["" if np.isnan(v) else show.number(float(v), 1) for v in values], "W", "")],
            )
        )
    return draw(
        StripView(
            id="rest",
            title="Power at rest by day",
            axis=Axis(
                length=float(days),
                grid=[(at, False) for at, _ in ticks],
                numerals=ticks,
                table_step=1.0,
                table_times=times,
                crosshair=days - 0.5,
                clock_names=[(0.0, clock.local(clock.day(last).start_ms).tzname() or "")],
            ),
            lanes=lanes,
            width=width,
        )
    )
