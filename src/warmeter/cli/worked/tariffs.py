"""Worked examples of tariffs (I)."""

from collections.abc import Callable
from datetime import date
from decimal import Decimal

import numpy as np

from warmeter.cli.worked import Case, utc_text
from warmeter.core.tariff.cheapest_start import cheapest_start, starts_by_cost
from warmeter.core.tariff.structure import Rate, by_rate, rate_of_minutes
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.units import MS_PER_MIN


def _decimal(value: float) -> Decimal:
    return Decimal(repr(value))


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
    holidays = frozenset(date.fromisoformat(d) for d in i["holidays"])
    found = _used(rates, parse_utc(i["start_utc"]), 60, i["hourly_kWh"], LocalClock(i["tz"]), holidays)
    return {
        "kWh_by_rule": {name: float(kwh) for name, kwh, _, _ in found},
        "energy_cost": float(sum((cost for _, _, cost, _ in found), Decimal(0))),
    }


def _used(
    rates: list[Rate],
    start_ms: int,
    step_min: int,
    energy_kwh: list[float],
    clock: LocalClock,
    holidays: frozenset[date] = frozenset(),
) -> tuple[tuple[str, Decimal, Decimal, Decimal], ...]:
    """Return energy and cost by rate of equal metering intervals, minute by minute as a day's cost is."""
    minutes = start_ms + np.arange(len(energy_kwh) * step_min, dtype=np.int64) * MS_PER_MIN
    rate = rate_of_minutes(rates, minutes, clock=clock, holidays=holidays, standard_time=False)
    by_minute = np.repeat(np.array(energy_kwh, dtype=float) / step_min, step_min)
    return by_rate([(r.name, r.price_per_kwh) for r in rates], rate, by_minute)


def i7(i: Case) -> Case:
    """Clock days."""
    clock, on = LocalClock(i["tz"]), date.fromisoformat(i["local_date"])
    day = clock.day(on)
    rates = [
        Rate(
            name="cheap",
            from_min=60 * i["cheap_from_hour"],
            to_min=60 * i["cheap_to_hour"],
            price_per_kwh=_decimal(i["price_cheap"]),
        ),
        Rate(name="else", price_per_kwh=_decimal(i["price_else"])),
    ]
    quarter = [i["load_kW"] / 4] * round(day.hours * 4)
    found = _used(rates, day.start_ms, 15, quarter, clock)
    minutes = np.arange(day.start_ms, day.end_ms, MS_PER_MIN, dtype=np.int64)
    cheap = float((rate_of_minutes(rates, minutes, clock=clock, holidays=frozenset()) == 0).sum()) / 60
    return {
        "hours": day.hours,
        "start_utc": utc_text(day.start_ms),
        "end_utc": utc_text(day.end_ms),
        "cheap_hours": cheap,
        "cost": float(sum((cost for _, _, cost, _ in found), Decimal(0))),
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


METHODS: dict[str, Callable[[Case], Case]] = {"I2.time_of_use": i2, "I7.dst_day": i7, "I8.cheapest_window": i8}
