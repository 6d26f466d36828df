"""What each machine and room used on each day, what that cost at its hours, and what is left of the meter."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN

SLOT_MIN = 15
REST = "The rest"
LEAST_HEARD = 0.9  # of a day, or it is not known


@dataclass(frozen=True, slots=True, kw_only=True)
class UseShare:
    """What one part of a home used.

    Parameters
    ----------
    by_day : (day,) float array
        [kWh]; NaN where less than nine tenths of a day were heard.
    kwh : float
        Of all days that are known.
    cost : float or None
        At the prices of its hours; None without prices.
    heard_days : int
        How many days are known.
    """

    name: str
    by_day: Floats
    kwh: float
    cost: float | None
    heard_days: int


@dataclass(frozen=True, slots=True, kw_only=True)
class UseOfDays:
    """The parts of a home's use over local days, the meter's whole, and what no part explains (None without a meter)."""

    first: date
    days: int
    parts: tuple[UseShare, ...]
    whole: UseShare | None
    rest: UseShare | None


def slot_starts(clock: LocalClock, first: date, last: date) -> Ints:
    """Return the beginnings of quarters of an hour of local days [first, last] [ms UTC], and the end of the last."""
    begin, end = clock.instant(first, 0), clock.instant(last + timedelta(days=1), 0)
    return np.arange(begin, end + 1, SLOT_MIN * MS_PER_MIN, dtype=np.int64)


def use_of_days(
    parts: Sequence[tuple[str, MeteredEnergy]],
    whole: MeteredEnergy | None,
    clock: LocalClock,
    first: date,
    last: date,
    price: Floats | None,
) -> UseOfDays:
    """Return the use of parts over local days [first, last].

    Parameters
    ----------
    parts : sequence of (str, MeteredEnergy)
        Machines and rooms; what one holds no other may hold too.
    whole : MeteredEnergy or None
        The home's meter.
    price : (slot,) float array or None
        Of each slot of ``slot_starts`` [currency/kWh].
    """
    edges = slot_starts(clock, first, last)
    days = (last - first).days + 1
    place = clock.local_minutes(edges[:-1])[0]
    place = place - place[0]
    shares = [_share(name, energy, edges, place, days, price) for name, energy in parts]
    of_home = None if whole is None else _share("The meter", whole, edges, place, days, price)
    rest = None
    if of_home is not None:
        explained = np.sum([np.nan_to_num(share.by_day) for share in shares], axis=0) if shares else np.zeros(days)
        by_day = of_home.by_day - explained
        known_cost = [share.cost for share in shares if share.cost is not None]
        cost = None if of_home.cost is None else of_home.cost - sum(known_cost)
        rest = UseShare(
            name=REST,
            by_day=by_day,
            kwh=of_home.kwh - sum(share.kwh for share in shares),
            cost=cost,
            heard_days=of_home.heard_days,
        )
    return UseOfDays(first=first, days=days, parts=tuple(shares), whole=of_home, rest=rest)


def _share(name: str, energy: MeteredEnergy, edges: Ints, place: Ints, days: int, price: Floats | None) -> UseShare:
    amounts, known = energy.between(edges)
    kwh = amounts / MILLION
    by_day = np.bincount(place, weights=kwh, minlength=days)
    heard = np.bincount(place, weights=known, minlength=days) / np.maximum(np.bincount(place, minlength=days), 1)
    is_known = heard >= LEAST_HEARD
    cost = None if price is None else float(np.nan_to_num(price) @ kwh)
    return UseShare(
        name=name,
        by_day=np.where(is_known, by_day, np.nan),
        kwh=float(kwh.sum()),
        cost=cost,
        heard_days=int(is_known.sum()),
    )
