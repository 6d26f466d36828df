"""A year as it would have been planned: each logged run of a machine moved within its own day to its cheapest start."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.day_plan.wanted import quiet_at
from warmeter.core.home.day_plans import QuietHours
from warmeter.core.home.tariffs import Tariff
from warmeter.core.tariff.bill import Metered
from warmeter.core.tariff.metered_energy import MILLION, MeteredEnergy
from warmeter.core.tariff.prices import export_prices_at, prices_at
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN

SLOT_MIN = 15
SLOT_MS = SLOT_MIN * MS_PER_MIN


@dataclass(frozen=True, slots=True, kw_only=True)
class MovableRun:
    """A run of a machine as its log has it, [start, end) [ms UTC], and the meter of that machine."""

    start_ms: int
    end_ms: int
    metered: MeteredEnergy


@dataclass(frozen=True, slots=True, kw_only=True)
class MovedYear:
    """What the meters would have told, and how many runs were moved of how many that could be."""

    metered: Metered
    moved: int
    movable: int


def moved_runs(
    metered: Metered,
    runs: Sequence[MovableRun],
    tariff: Tariff,
    clock: LocalClock,
    quiet: tuple[QuietHours, ...],
    first: date,
    last: date,
) -> MovedYear:
    """Return a home's meters with each logged run at its cheapest start of its own local day, outside quiet hours.

    Parameters
    ----------
    metered : Metered
        Of it, what lies in local days [first, last] comes back in quarters of an hour; known ones only.
    runs : sequence of MovableRun
        One after another each takes what is then cheapest, sun that would have been sold first; a run over midnight, or
        in time of which the meter knows nothing, stays.

    Raises
    ------
    TariffError
        Where a slot has no rate.
    """
    edges = np.arange(clock.instant(first, 0), clock.instant(last + timedelta(days=1), 0) + 1, SLOT_MS, dtype=np.int64)
    grid = _Grid.of(metered, tariff, clock, edges, quiet)
    moved = movable = 0
    for run in sorted(runs, key=lambda each: each.start_ms):
        begin = int(np.searchsorted(edges, run.start_ms, side="right")) - 1
        end = int(np.searchsorted(edges, run.end_ms, side="left"))
        if not 0 <= begin < end < edges.size or not grid.is_open(begin, end):
            continue
        movable += 1
        energy = run.metered.between(edges[begin : end + 1])[0]
        moved += grid.move(begin, energy)
    return MovedYear(metered=grid.told(metered), moved=moved, movable=movable)


@dataclass(slots=True)
class _Grid:
    """The meters and prices in slots: energies in millionths, prices a unit; NaN where there is none."""

    edges: Ints
    bought: Ints
    sold: Ints
    known: Flags
    price: Floats
    paid: Floats
    free: Flags
    day: Ints

    @classmethod
    def of(
        cls, metered: Metered, tariff: Tariff, clock: LocalClock, edges: Ints, quiet: tuple[QuietHours, ...]
    ) -> "_Grid":
        """Return the slots between edges."""
        at = edges[:-1]
        bought, known = metered.bought.between(edges)
        sold = np.zeros(at.size, dtype=np.int64) if metered.sold is None else metered.sold.between(edges)[0]
        market = None
        if tariff.market is not None:
            market = np.full(at.size, np.nan) if metered.market is None else metered.market.at(at)
        priced = known if market is None else known & ~np.isnan(market)
        price, paid = np.full(at.size, np.nan), np.zeros(at.size)
        own = None if market is None else market[priced]
        if priced.any():
            price[priced] = prices_at(tariff, clock, at[priced], own).by_step
            paid[priced] = np.nan_to_num(export_prices_at(tariff, clock, at[priced], own))
        return cls(
            edges=edges,
            bought=bought,
            sold=sold,
            known=known,
            price=price,
            paid=paid,
            free=~quiet_at(quiet, clock, at, SLOT_MIN),
            day=clock.local_minutes(at)[0],
        )

    def is_open(self, begin: int, end: int) -> bool:
        """Return whether slots lie in one day that is known and priced."""
        own = slice(begin, end)
        return bool(self.known[own].all() and not np.isnan(self.price[own]).any()) and bool(
            self.day[begin] == self.day[end - 1]
        )

    def move(self, begin: int, energy: Ints) -> bool:
        """Take a run from where it was to where it adds least; return whether that is elsewhere."""
        size = energy.size
        taken = np.minimum(energy, self.bought[begin : begin + size])
        self.bought[begin : begin + size] -= taken
        # What own sun covered would have been sold.
        self.sold[begin : begin + size] += energy - taken
        of_day = np.flatnonzero(self.day == self.day[begin])
        low, high = int(of_day[0]), int(of_day[-1]) + 1 - size
        starts = np.arange(low, high + 1)
        places = starts[:, None] + np.arange(size)
        is_free = (self.free & self.known & ~np.isnan(self.price))[places].all(axis=1)
        own_sun = np.minimum(energy, self.sold[places])
        cost = ((energy - own_sun) * self.price[places] + own_sun * self.paid[places]).sum(axis=1)
        here = float(cost[begin - low])
        # Of equal costs the start as it was, else the nearest to it.
        gained = np.where(is_free, here - cost, -np.inf)
        gained[begin - low] = 0.0
        best = max(
            range(starts.size), key=lambda k: (round(float(gained[k]) / MILLION, 9), -abs(int(starts[k]) - begin))
        )
        start = int(starts[best])
        own_sun = np.minimum(energy, self.sold[start : start + size])
        self.sold[start : start + size] -= own_sun
        self.bought[start : start + size] += energy - own_sun
        return start != begin

    def told(self, metered: Metered) -> Metered:
        """Return what the meters would have told."""
        begin, end = self.edges[:-1][self.known], self.edges[1:][self.known]
        bought = MeteredEnergy(start_ms=begin, end_ms=end, millionths=self.bought[self.known], step_ms=SLOT_MS)
        if metered.sold is None:
            return replace(metered, bought=bought)
        return Metered(bought, replace(bought, millionths=self.sold[self.known]), metered.market)
