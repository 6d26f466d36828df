"""Worked examples of tariffs (I)."""

from collections.abc import Callable, Sequence
from datetime import date, timedelta
from decimal import Decimal
from itertools import pairwise
from math import exp
from typing import Any

import numpy as np

from warmeter.cli.worked import Case, utc_text
from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.day_plan.planned_room import RoomHeat, reachable
from warmeter.core.day_plan.problem import DayPlan, PlannedRun, PlanProblem, SlotLoad
from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import (
    RATE_DAYS,
    WEEKEND,
    WORKDAYS,
    DemandCharge,
    MarketPrice,
    Rate,
    RateHours,
    Rounding,
    StandingCharge,
    Tariff,
    Tax,
    TierPrice,
    YearSpan,
)
from warmeter.core.tariff.bill import Metered, bill, marginal_prices
from warmeter.core.tariff.bill_slots import bill_slots
from warmeter.core.tariff.cheapest_start import cheapest_start, starts_by_cost
from warmeter.core.tariff.demand import daily_peaks
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy
from warmeter.core.tariff.prices import prices_at
from warmeter.core.tariff.rates_in_force import hours_hold
from warmeter.core.tariff.reconcile import BillSide, SideRate, reconciled
from warmeter.core.tariff.tiers import tier_uses
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.units import MS_PER_MIN, S_PER_MIN, W_PER_KW

FIRST_DAY = date(2026, 1, 1)
UTC_CLOCK = LocalClock("UTC")
_DAYS = {"weekday": WORKDAYS, "weekend": WEEKEND, "holiday": RATE_DAYS[7:]}
_LAST = (31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)


def _decimal(value: float) -> Decimal:
    return Decimal(repr(value))


def _metered(start_ms: int, step_min: int, units: Sequence[float]) -> MeteredEnergy:
    start = start_ms + np.arange(len(units), dtype=np.int64) * step_min * MS_PER_MIN
    return MeteredEnergy(
        start_ms=start,
        end_ms=start + step_min * MS_PER_MIN,
        millionths=np.rint(np.array(units, dtype=float) * MILLION).astype(np.int64),
        step_ms=step_min * MS_PER_MIN,
    )


def _over_days(energy_kwh: float, days: int) -> tuple[MeteredEnergy, date, date]:
    """Return an energy in one reading over whole days of UTC, and the first and last of them."""
    begin = FIRST_DAY
    end = begin + timedelta(days=days)
    edges = [UTC_CLOCK.instant(day, 0) for day in (begin, end)]
    amount = round(energy_kwh * MILLION)
    metered = MeteredEnergy(
        start_ms=np.array(edges[:1], dtype=np.int64),
        end_ms=np.array(edges[1:], dtype=np.int64),
        millionths=np.array([amount], dtype=np.int64),
        step_ms=0,
    )
    return metered, begin, end - timedelta(days=1)


def i1(i: Case) -> Case:
    """Flat bill."""
    metered, first, last = _over_days(i["energy_kWh"], i["days"])
    totals = {}
    for each in ("line", "total"):
        tariff = Tariff(
            name="flat",
            currency="EUR",
            rates=(Rate(name="all hours", price_per_unit=_decimal(i["price_per_kWh"])),),
            standing=(StandingCharge(amount=_decimal(i["standing_per_day"])),),
            taxes=(Tax(rate=_decimal(i["vat"])),),
            rounding=Rounding(each=each, mode=i["rounding"]),
        )
        totals[each] = bill([tariff], UTC_CLOCK, first, last, Metered(metered))
    amounts = {line.kind: float(line.amount) for line in totals["line"].lines}
    return {
        "energy": amounts.get("energy", 0.0),
        "standing": amounts["standing"],
        "vat": amounts["tax"],
        "total": float(totals["line"].total),
        "total_if_rounded_once": float(totals["total"].total),
    }


def i2(i: Case) -> Case:
    """Time of use."""
    rates = tuple(
        Rate(
            name=r["name"],
            price_per_unit=_decimal(r["price_per_kWh"]),
            hours=RateHours(
                seasons=tuple(YearSpan(from_day=f"{m:02d}-01", to_day=f"{m:02d}-{_LAST[m - 1]}") for m in r["months"]),
                days=tuple(day for kind in r["days"] for day in _DAYS[kind]),
                from_min=r["from_min"],
                to_min=r["to_min"],
            ),
        )
        for r in i["rules"]
    )
    tariff = Tariff(
        name="time of use",
        currency="EUR",
        rates=rates,
        holidays=tuple(date.fromisoformat(d) for d in i["holidays"]),
        rounding=Rounding(each="total"),
    )
    clock, start = LocalClock(i["tz"]), parse_utc(i["start_utc"])
    metered = _metered(start, 60, i["hourly_kWh"])
    first, last = (clock.local(at).date() for at in (start, metered.span_ms[1] - 1))
    found = bill([tariff], clock, first, last, Metered(metered))
    lines = [line for line in found.lines if line.kind == "energy"]
    return {
        "kWh_by_rule": {line.name: float(line.units) for line in lines},
        "energy_cost": float(sum((line.amount for line in lines), Decimal(0))),
    }


def i3(i: Case) -> Case:
    """Blocks."""
    blocks = i["blocks"]
    rate = Rate(
        name="blocks",
        price_per_unit=_decimal(blocks[0]["price_per_kWh"]),
        tiers=tuple(
            TierPrice(above=_decimal(before["up_to_kWh"]), price_per_unit=_decimal(block["price_per_kWh"]))
            for before, block in pairwise(blocks)
        ),
    )
    reference = i["prorate_reference_days"]
    tariff = Tariff(name="blocks", currency="EUR", rates=(rate,), tier_days=reference, rounding=Rounding(each="total"))
    metered, first, last = _over_days(i["energy_kWh"], i["days"])
    found = bill([tariff], UTC_CLOCK, first, last, Metered(metered))
    uses = tier_uses(rate, found.units, i["days"], reference or i["days"])
    lines = [line for line in found.lines if line.kind == "energy"]
    return {
        "kWh_in_block": [float(use.units) for use in uses],
        "energy_cost": float(sum((line.amount for line in lines), Decimal(0))),
        "marginal_price": float(marginal_prices(found, [tariff])[0][1]),
    }


def i4(i: Case) -> Case:
    """Dynamic prices."""
    step_min = round(i["step_h"] * 60)
    start = UTC_CLOCK.instant(FIRST_DAY, 0)
    metered = _metered(start, step_min, i["energy_kWh"])
    tariff = Tariff(
        name="market",
        currency="EUR",
        rates=(Rate(name="adder", price_per_unit=_decimal(i["adder_per_kWh"])),),
        market=MarketPrice(step_min=step_min),
        taxes=(Tax(rate=_decimal(i["vat"])),),
        rounding=Rounding(each="total"),
    )
    market = MarketPrices(
        start_ms=metered.start_ms, step_ms=step_min * MS_PER_MIN, price=np.array(i["spot_per_kWh"], dtype=float)
    )
    last = UTC_CLOCK.local(metered.span_ms[1] - 1).date()
    found = bill([tariff], UTC_CLOCK, FIRST_DAY, last, Metered(metered, market=market))
    cost = found.net + found.tax
    prices = prices_at(tariff, UTC_CLOCK, metered.start_ms, market.price)
    return {
        "cost": float(cost),
        "mean_price": float(cost / found.units),
        "paid_steps": np.flatnonzero(prices.by_step < 0).tolist(),
    }


def i5(i: Case) -> Case:
    """Demand charge."""
    hourly = [power for day in i["hourly_kW_by_day"] for power in day]
    window = i["window_hours"] or (0, 24)
    charge = DemandCharge(
        price_per_kw=_decimal(i["price_per_kW"]),
        interval_min=60,
        counts={"max": "highest"}.get(i["method"], i["method"]),  # type: ignore[arg-type]
        over="bill",
        hours=RateHours(from_min=60 * window[0], to_min=60 * window[1]),
    )
    tariff = Tariff(
        name="demand",
        currency="EUR",
        rates=(Rate(name="all", price_per_unit=Decimal(0)),),
        demand=(charge,),
        rounding=Rounding(each="total"),
    )
    metered = _metered(UTC_CLOCK.instant(FIRST_DAY, 0), 60, hourly)
    last = FIRST_DAY + timedelta(days=len(i["hourly_kW_by_day"]) - 1)
    line = next(k for k in bill([tariff], UTC_CLOCK, FIRST_DAY, last, Metered(metered)).lines if k.kind == "demand")
    slots = bill_slots(tariff, UTC_CLOCK, FIRST_DAY, last, metered).intervals(tariff, 60)
    counted = hours_hold(charge.hours, slots.calendar)
    peaks = daily_peaks(slots.start_ms[counted], slots.calendar.epoch_day[counted], slots.bought[counted], 60)
    return {
        "demand_kW": float(line.units),
        "charge": float(line.amount),
        "daily_peaks_kW": [float(peak.kw) for peak in peaks],
    }


def _plan_problem(i: Case, prices: Sequence[float], **rest: Any) -> PlanProblem:
    size = len(prices)
    usual: dict[str, Any] = {
        "step_min": 60,
        "import_price": np.array(prices, dtype=float),
        "export_price": np.zeros(size),
        "base_kwh": np.array(i.get("base_kWh", [0.0] * size), dtype=float),
        "sun_kwh": np.zeros(size),
    }
    return PlanProblem(**{**usual, **rest})


def i6(i: Case) -> Case:
    """Sold and own use, netted within each slot as a plan is."""
    load, made = (np.array(i[name], dtype=float) for name in ("load_kWh", "generation_kWh"))
    problem = _plan_problem(
        i, i["import_price"], export_price=np.array(i["export_price"], dtype=float), base_kwh=load, sun_kwh=made
    )
    nothing = np.zeros(problem.slots)
    told = checked(
        problem,
        DayPlan(
            starts={}, on={}, charge_kw={}, store_kw={}, room_kw={}, battery_in_kwh=nothing, battery_out_kwh=nothing
        ),
    )
    return {
        "import_kWh": sum(told.imported_kwh),
        "export_kWh": sum(told.exported_kwh),
        "self_use_kWh": float(made.sum()) - sum(told.exported_kwh),
        "cost": told.cost,
    }


def i9(i: Case) -> Case:
    """Loads shifted."""
    runs, loads = [], []
    for k, job in enumerate(i["jobs"]):
        window = {"earliest": job["earliest"], "latest_end": job["latest_end"]}
        if job["kind"] == "contiguous":
            profile = np.array(job["profile_kWh"], dtype=float)
            runs.append(PlannedRun(key=f"j{k}", name=f"j{k}", profile_kwh=profile, peak_w=profile, **window))
        else:
            loads.append(
                SlotLoad(
                    key=f"j{k}",
                    name=f"j{k}",
                    slot_kwh=job["slot_kWh"],
                    slots=job["slots"],
                    min_run=job["min_run"],
                    **window,
                )
            )
    problem = _plan_problem(
        i, i["price_per_kWh"], runs=tuple(runs), loads=tuple(loads), import_cap_kwh=i["cap_kWh_per_slot"]
    )
    found = cheapest_plan(problem)
    if found.plan is None:
        return {"total_cost": None, "feasible": not found.is_infeasible}
    told = checked(problem, found.plan)
    return {"total_cost": told.cost, "feasible": told.is_kept}


def i7(i: Case) -> Case:
    """Clock days."""
    clock, on = LocalClock(i["tz"]), date.fromisoformat(i["local_date"])
    day = clock.day(on)
    cheap = RateHours(from_min=60 * i["cheap_from_hour"], to_min=60 * i["cheap_to_hour"])
    tariff = Tariff(
        name="clock",
        currency="EUR",
        rates=(
            Rate(name="cheap", hours=cheap, price_per_unit=_decimal(i["price_cheap"])),
            Rate(name="else", price_per_unit=_decimal(i["price_else"])),
        ),
        rounding=Rounding(each="total"),
    )
    metered = _metered(day.start_ms, 15, [i["load_kW"] / 4] * round(day.hours * 4))
    found = bill([tariff], clock, on, on, Metered(metered))
    in_cheap = sum((line.units for line in found.lines if line.name == "cheap"), Decimal(0))
    return {
        "hours": day.hours,
        "start_utc": utc_text(day.start_ms),
        "end_utc": utc_text(day.end_ms),
        "cheap_hours": float(in_cheap) / i["load_kW"],
        "cost": float(found.net),
    }


def q11(i: Case) -> Case:
    """Two bills reconciled."""
    try:
        found = reconciled(_side(i["computed"]), _side(i["bill"]), Decimal(str(i["rounding_max"])))
    except TariffError:
        return {"refused": "price"}
    parts = {
        "days": _plain(found.days),
        "energy": {name: _plain(amount) for name, amount in found.energy},
        "price": {name: _plain(amount) for name, amount in found.price},
        "standing": _plain(found.standing),
        "tax": _plain(found.tax),
        "rounding": _plain(found.rounding),
    }
    return {"difference": _plain(found.difference), "parts": parts, "explained": found.is_explained}


def _side(side: Case) -> BillSide:
    def number(value: str | None) -> Decimal | None:
        return None if value is None else Decimal(str(value))

    return BillSide(
        days=number(side["days"]),
        standing_per_day=number(side["standing_per_day"]),
        tax_rate=number(side["tax_rate"]),
        rates=tuple(SideRate(name=r["id"], units=number(r["kWh"]), price=number(r["price"])) for r in side["rates"]),
        total=Decimal(str(side["total"])),
    )


def _plain(amount: Decimal) -> str:
    text = f"{amount:f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in ("-0", "") else text


def i8(i: Case) -> Case:
    """Cheapest window."""
    prices = np.repeat(np.array(i["price_per_kWh"], float), i["price_step_min"])
    starts = starts_by_cost(
        prices,
        np.array(i["profile_kWh"], float),
        i["profile_step_min"],
        earliest_min=i["earliest_min"],
        latest_end_min=i["latest_end_min"],
    )
    best = cheapest_start(starts)
    return {"start_min": best.start_min, "cost": float(best.cost)}


def i10(i: Case) -> Case:
    """A room warmed ahead: one store, through the parts that the plan uses."""
    slots = len(i["price_per_kWh"])
    decay = exp(-i["step_s"] * i["H_W_K"] / i["C_J_K"])
    found = reachable(
        RoomHeat(
            key="room",
            name="room",
            state=np.array([[decay]]),
            per_kw=np.array([(1 - decay) * W_PER_KW / i["H_W_K"]]),
            brought_c=(1 - decay) * np.array(i["theta_ext_C"], dtype=float)[:, None],
            start_c=np.array([float(i["theta0_C"])]),
            most_kw=np.full(slots, i["Q_max_W"] / W_PER_KW),
            per_draw=np.full(slots, float(i["cop"])),
            low_c=np.array(i["theta_min_C"], dtype=float),
            high_c=np.array(i["theta_max_C"], dtype=float),
            end_low_c=np.array([float(i["theta_end_min_C"])]),
            end_high_c=np.full(1, np.inf),
        )
    )
    step_min = round(i["step_s"] / S_PER_MIN)
    problem = _plan_problem(i, i["price_per_kWh"], rooms=(found.room,), step_min=step_min)
    plan = cheapest_plan(problem).plan
    is_kept = found.is_kept and plan is not None
    return {"feasible": is_kept, "cost": checked(problem, plan).cost if plan is not None and is_kept else None}


METHODS: dict[str, Callable[[Case], Case]] = {
    "I1.flat_bill": i1,
    "I2.time_of_use": i2,
    "I3.tiered": i3,
    "I4.dynamic": i4,
    "I5.demand_charge": i5,
    "I6.export": i6,
    "I7.dst_day": i7,
    "I8.cheapest_window": i8,
    "I9.load_shift": i9,
    "I10.preheat_lp": i10,
    "Q11.reconcile": q11,
}
