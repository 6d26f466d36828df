"""Worked examples of tariffs (I)."""

from collections.abc import Callable
from datetime import date
from decimal import Decimal

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.tariff.structure import Rate, flat_bill, hours_between, time_of_use
from warmeter.core.tariff.window import cheapest_start, starts_by_cost
from warmeter.core.timegrid import LocalClock, parse_utc, utc_text


def _decimal(value: float) -> Decimal:
    return Decimal(repr(value))


def i1(i: Case) -> Case:
    """Flat bill."""
    b = flat_bill(
        energy_kwh=_decimal(i["energy_kWh"]),
        price_per_kwh=_decimal(i["price_per_kWh"]),
        standing_per_day=_decimal(i["standing_per_day"]),
        days=i["days"],
        vat=_decimal(i["vat"]),
        rounding=i["rounding"],
    )
    return {
        "energy": float(b.energy),
        "standing": float(b.standing),
        "vat": float(b.vat),
        "total": float(b.total),
        "total_if_rounded_once": float(b.total_if_rounded_once),
    }


def i2(i: Case) -> Case:
    """Time of use."""
    rates = [
        Rate(
            name=r["name"],
            months=tuple(r["months"]),
            days=tuple(r["days"]),
            from_min=r["from_min"],
            to_min=r["to_min"],
            price_per_kwh=_decimal(r["price_per_kWh"]),
        )
        for r in i["rules"]
    ]
    usage = time_of_use(
        rates,
        parse_utc(i["start_utc"]),
        60,
        [_decimal(e) for e in i["hourly_kWh"]],
        clock=LocalClock(i["tz"]),
        holidays=frozenset(date.fromisoformat(d) for d in i["holidays"]),
    )
    return {
        "kWh_by_rule": {name: float(kwh) for name, kwh in usage.kwh_by_rate.items()},
        "energy_cost": float(usage.energy_cost),
    }


def i7(i: Case) -> Case:
    """Clock days."""
    clock, on = LocalClock(i["tz"]), date.fromisoformat(i["local_date"])
    day = clock.day(on)
    cheap = hours_between(clock, on, 60 * i["cheap_from_hour"], 60 * i["cheap_to_hour"])
    rates = [
        Rate(
            name="cheap",
            from_min=60 * i["cheap_from_hour"],
            to_min=60 * i["cheap_to_hour"],
            price_per_kwh=_decimal(i["price_cheap"]),
        ),
        Rate(name="else", price_per_kwh=_decimal(i["price_else"])),
    ]
    quarter = [_decimal(i["load_kW"]) / 4] * round(day.hours * 4)
    cost = time_of_use(rates, day.start_ms, 15, quarter, clock=clock).energy_cost
    return {
        "hours": day.hours,
        "start_utc": utc_text(day.start_ms),
        "end_utc": utc_text(day.end_ms),
        "cheap_hours": cheap,
        "cost": float(cost),
    }


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


METHODS: dict[str, Callable[[Case], Case]] = {
    "I1.flat_bill": i1,
    "I2.time_of_use": i2,
    "I7.dst_day": i7,
    "I8.cheapest_window": i8,
}
