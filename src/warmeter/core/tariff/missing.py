"""What a bill cannot know: intervals that are missing, and energy that is known only over long times, with their range."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints, true_runs
from warmeter.core.tariff.bill_slots import BillSlots
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy
from warmeter.core.units import MIN_PER_H, MS_PER_H, MS_PER_MIN

HOURS_OF_WEEK = 7 * 24
PricedSlots = Sequence[tuple[BillSlots, Floats]]


@dataclass(frozen=True, slots=True, kw_only=True)
class MissingEnergy:
    """Intervals of a bill that no reading covers wholly, and what they could add.

    Parameters
    ----------
    intervals, of : int
        How many of the meter's own intervals (hours where it has none), and of how many.
    spans_ms : tuple of (int, int)
        Where they lie [ms UTC].
    likely_units, likely_cost : float
        Had they been as the known ones of the same hour of the week.
    most_cost : float
        Had each been as the highest known of its hour of the day.
    """

    intervals: int
    of: int
    spans_ms: tuple[tuple[int, int], ...]
    likely_units: float
    likely_cost: float
    most_cost: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SpreadEnergy:
    """Energy known only over times in which the price changes [units], and what it could cost least and most.

    ``taken_cost`` is what it costs spread evenly, as the bill has it.
    """

    units: float
    taken_cost: float
    low_cost: float
    high_cost: float


def missing_energy(priced: PricedSlots, metered: MeteredEnergy) -> MissingEnergy:
    """Return what is missing in the slots of a bill and what it could add, by the slots' prices."""
    step = metered.step_ms or MS_PER_H
    begin, end = int(priced[0][0].edges_ms[0]), int(priced[-1][0].edges_ms[-1])
    edges = np.arange(begin, end + 1, step, dtype=np.int64)
    if edges[-1] < end:
        edges = np.append(edges, np.int64(end))
    _, known = metered.between(edges)
    low, high = true_runs(~known)
    likely, likely_cost, most_cost = 0.0, 0.0, 0.0
    if not known.all():
        for slots, price in priced:
            bare = ~slots.is_known
            if not bare.any():
                continue
            usual, highest = _usual(slots)
            price = np.nan_to_num(price)
            likely += float(usual[bare].sum())
            likely_cost += float(usual[bare] @ price[bare])
            most_cost += float(highest[bare] @ price[bare])
    return MissingEnergy(
        intervals=int((~known).sum()),
        of=int(known.size),
        spans_ms=tuple(zip(edges[low].tolist(), edges[high].tolist(), strict=True)),
        likely_units=likely,
        likely_cost=likely_cost,
        most_cost=most_cost,
    )


def _usual(slots: BillSlots) -> tuple[Floats, Floats]:
    """Return the mean of the known slots of the same hour of the week, and the highest of the same hour, by slot [units]."""
    hour = slots.calendar.minute // MIN_PER_H
    week = (slots.calendar.epoch_day + 3) % 7 * 24 + hour
    known, amount = slots.is_known, slots.bought / MILLION
    if not known.any():
        return np.zeros(amount.shape), np.zeros(amount.shape)
    overall = float(amount[known].mean())
    counts = np.bincount(week[known], minlength=HOURS_OF_WEEK)
    sums = np.bincount(week[known], weights=amount[known], minlength=HOURS_OF_WEEK)
    mean = np.where(counts > 0, sums / np.maximum(counts, 1), overall)
    highest = np.full(24, float(amount[known].max()))
    for each in range(24):
        own = known & (hour == each)
        if own.any():
            highest[each] = amount[own].max()
    return mean[week], highest[hour]


def spread_energy(priced: PricedSlots, metered: MeteredEnergy) -> SpreadEnergy | None:
    """Return what energy known over longer times than prices hold could cost; None where its spread changes nothing."""
    low = high = taken = units = 0.0
    for slots, price in priced:
        if np.isnan(price).any():
            continue
        for begin, end in _long_stretches(slots, metered):
            own, amounts = price[begin:end], slots.bought[begin:end] / MILLION
            total = float(amounts.sum())
            if total and own.min() < own.max():
                units += total
                taken += float(amounts @ own)
                low, high = low + total * float(own.min()), high + total * float(own.max())
    if not units:
        return None
    return SpreadEnergy(units=units, taken_cost=taken, low_cost=low, high_cost=high)


def _long_stretches(slots: BillSlots, metered: MeteredEnergy) -> list[tuple[int, int]]:
    """Return the places [from, to) of slots that one reading covers together."""
    width = int(slots.edges_ms[1] - slots.edges_ms[0])
    long: Ints = np.flatnonzero(metered.end_ms - metered.start_ms > max(width, MS_PER_MIN * MIN_PER_H))
    low = np.searchsorted(slots.edges_ms, metered.start_ms[long], side="left")
    high = np.searchsorted(slots.edges_ms, metered.end_ms[long], side="right") - 1
    return [(int(a), min(int(b), slots.bought.size)) for a, b in zip(low, high, strict=True) if b > a]
