"""What is wrong with a home's tariffs: hours without a rate, rates that take from narrower ones, dates that gap or meet."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

import numpy as np

from warmeter.core.arrays import Flags, Ints, true_runs
from warmeter.core.home.tariffs import Carrier, Rate, Tariff
from warmeter.core.tariff.price_days import idle_rates
from warmeter.core.tariff.rates_in_force import NO_RATE, LocalCalendar, calendar_of, hours_hold, rates_in_force
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN

LOOKED_STEP_MIN = 5
_EPOCH_DATE = date(1970, 1, 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffFinding:
    """Something wrong, with its place on the year.

    Parameters
    ----------
    kind : str
        ``hole``: no rate of energy; ``overlap``: a wider rate stands before a narrower one and takes hours from it;
        ``idle``: a rate never holds; ``no_tariff``: dates without any; ``two_tariffs``: dates with more than one.
    first, last : date or None
        First and last day that it touches.
    days : int
        How many.
    from_min, to_min : int
        Between which minutes of the day, at the widest.
    rate, other : int or None
        Places of the rate that loses, and of the one that takes.
    tariff_id, other_id : str
        Whose.
    """

    kind: Literal["hole", "overlap", "idle", "no_tariff", "two_tariffs"]
    tariff_id: str
    first: date | None = None
    last: date | None = None
    days: int = 0
    from_min: int = 0
    to_min: int = MIN_PER_DAY
    rate: int | None = None
    other: int | None = None
    other_id: str = ""


def tariff_findings(tariff: Tariff, clock: LocalClock, first: date, last: date) -> tuple[TariffFinding, ...]:
    """Return what is wrong within a tariff between two local dates, both counted, as far as it is valid there."""
    begin = max(first, tariff.valid_from or first)
    end = min(last, tariff.valid_to or last)
    found = [TariffFinding(kind="idle", tariff_id=tariff.id, rate=place) for place in idle_rates(tariff.rates)]
    if begin > end:
        return tuple(found)
    start, until = clock.instant(begin, 0), clock.instant(end + timedelta(days=1), 0)
    calendar = calendar_of(tariff, clock, np.arange(start, until, LOOKED_STEP_MIN * MS_PER_MIN, dtype=np.int64))
    energy = tariff.rates_of("energy")
    holding = rates_in_force(energy, calendar)
    for own in _date_runs(calendar, holding == NO_RATE):
        found.append(_at("hole", tariff, calendar, own))
    idle = {finding.rate for finding in found}
    for place, rate in enumerate(energy):
        if tariff.rates.index(rate) not in idle:
            found += _taken(tariff, energy, place, calendar, holding)
    return tuple(found)


def _taken(
    tariff: Tariff, energy: Sequence[Rate], place: int, calendar: LocalCalendar, holding: Ints
) -> list[TariffFinding]:
    """Return who takes hours from a narrower rate behind it."""
    wanted = hours_hold(energy[place].hours, calendar)
    found = []
    for other in range(place):
        lost = wanted & (holding == other)
        if lost.any() and int(wanted.sum()) < int(hours_hold(energy[other].hours, calendar).sum()):
            finding = _at("overlap", tariff, calendar, np.flatnonzero(lost))
            found.append(
                TariffFinding(
                    kind="overlap",
                    tariff_id=tariff.id,
                    first=finding.first,
                    last=finding.last,
                    days=finding.days,
                    from_min=finding.from_min,
                    to_min=finding.to_min,
                    rate=tariff.rates.index(energy[place]),
                    other=tariff.rates.index(energy[other]),
                )
            )
    return found


def _date_runs(calendar: LocalCalendar, flags: Flags) -> list[Ints]:
    """Return the places of flagged instants, one array for each run of days that have some."""
    if not flags.any():
        return []
    days = calendar.epoch_day[flags]
    every = np.arange(days.min(), days.max() + 1)
    low, high = true_runs(np.isin(every, days))
    places = np.flatnonzero(flags)
    return [
        places[(days >= every[a]) & (days <= every[b - 1])] for a, b in zip(low.tolist(), high.tolist(), strict=True)
    ]


def _at(kind: Literal["hole", "overlap"], tariff: Tariff, calendar: LocalCalendar, places: Ints) -> TariffFinding:
    days, minutes = calendar.epoch_day[places], calendar.minute[places]
    return TariffFinding(
        kind=kind,
        tariff_id=tariff.id,
        first=_EPOCH_DATE + timedelta(days=int(days.min())),
        last=_EPOCH_DATE + timedelta(days=int(days.max())),
        days=int(np.unique(days).size),
        from_min=int(minutes.min()),
        to_min=int(minutes.max()) + LOOKED_STEP_MIN,
    )


def date_findings(tariffs: Sequence[Tariff], carrier: Carrier, first: date, last: date) -> tuple[TariffFinding, ...]:
    """Return dates of [first, last] on which no tariff of a carrier holds, or more than one."""
    own = [t for t in tariffs if t.carrier == carrier and not t.is_offer]
    if not own:
        return ()
    days = [first + timedelta(days=k) for k in range((last - first).days + 1)]
    counts = np.array([sum(t.is_valid_on(day) for t in own) for day in days])
    found = []
    kinds: tuple[tuple[Literal["no_tariff", "two_tariffs"], Flags], ...] = (
        ("no_tariff", counts == 0),
        ("two_tariffs", counts > 1),
    )
    for kind, flags in kinds:
        for low, high in zip(*(edge.tolist() for edge in true_runs(flags)), strict=True):
            valid = [t for t in own if t.is_valid_on(days[low])] or [own[-1]]
            found.append(
                TariffFinding(
                    kind=kind,
                    tariff_id=valid[-1].id,
                    other_id=valid[0].id if kind == "two_tariffs" else "",
                    first=days[low],
                    last=days[high - 1],
                    days=high - low,
                )
            )
    return tuple(found)
