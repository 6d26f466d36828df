"""Tariffs and meters for tests."""

from collections.abc import Sequence
from datetime import date
from decimal import Decimal

import numpy as np

from warmeter.core.home.tariffs import Rate, RateHours, Tariff, YearSpan
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN


def rate(name: str, price: str, *, seasons: Sequence[tuple[str, str]] = (), **rest: object) -> Rate:
    """Return a rate; hours, days and seasons as its own words."""
    hours = {key: rest.pop(key) for key in ("from_min", "to_min", "days") if key in rest}
    spans = tuple(YearSpan(from_day=a, to_day=b) for a, b in seasons)
    when = RateHours(seasons=spans, **hours)  # type: ignore[arg-type]
    return Rate(name=name, price_per_unit=Decimal(price), hours=when, **rest)  # type: ignore[arg-type]


def tariff(*rates: Rate, **rest: object) -> Tariff:
    """Return a tariff in euros."""
    return Tariff(name="Test", rates=rates, **{"currency": "EUR", **rest})  # type: ignore[arg-type]


def metered(start_ms: int, step_min: int, units: Sequence[float | str | Decimal]) -> MeteredEnergy:
    """Return intervals on end, each with its units."""
    start = start_ms + np.arange(len(units), dtype=np.int64) * step_min * MS_PER_MIN
    return MeteredEnergy(
        start_ms=start,
        end_ms=start + step_min * MS_PER_MIN,
        millionths=np.array([int(Decimal(str(each)) * MILLION) for each in units], dtype=np.int64),
        step_ms=step_min * MS_PER_MIN,
    )


def steady(clock: LocalClock, first: date, last: date, kw: str, step_min: int = 30) -> MeteredEnergy:
    """Return a load that is the same in each interval of local days [first, last]."""
    begin = clock.instant(first, 0)
    end = clock.instant(date.fromordinal(last.toordinal() + 1), 0)
    count = (end - begin) // (step_min * MS_PER_MIN)
    return metered(begin, step_min, [Decimal(kw) * step_min / 60] * count)
