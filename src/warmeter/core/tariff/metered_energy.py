"""What a meter counted, exactly: intervals, counters and sparse readings as one curve that can be cut anywhere.

Amounts are whole millionths of a kWh (of a billed unit), so that sums are exact whatever they are cut into.
"""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.readings.record import Readings, SeriesRecord
from warmeter.core.units import J_PER_KWH, MS_PER_H, MS_PER_S

MILLION = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class MeteredEnergy:
    """Stretches of time of which a meter says how much went through it, apart and rising.

    Parameters
    ----------
    start_ms, end_ms : (stretch,) int arrays
        [ms UTC]
    millionths : (stretch,) int array
        Amount of each [millionth of a unit]; evenly spread within it.
    step_ms : int
        The meter's own interval; 0 where readings are too far apart to be one.
    falls_ms : tuple of int
        When a counter stood lower than before: nothing is known of the stretch that ends there.
    overlapping : int
        Stretches of which a part was counted before.
    """

    start_ms: Ints
    end_ms: Ints
    millionths: Ints
    step_ms: int
    falls_ms: tuple[int, ...] = ()
    overlapping: int = 0

    def between(self, edges_ms: Ints) -> tuple[Ints, Flags]:
        """Return what went through between neighbouring edges, and whether all of that time is known.

        Parameters
        ----------
        edges_ms : (edge,) int array
            Rising [ms UTC].

        Returns
        -------
        millionths : (edge − 1,) int array
            They add up exactly, however many edges lie between.
        is_known : (edge − 1,) bool array
        """
        covered = np.concatenate([[0], np.cumsum(self.end_ms - self.start_ms)])
        passed = np.concatenate([[0], np.cumsum(self.millionths)])
        if not self.start_ms.size:
            return np.zeros(edges_ms.size - 1, dtype=np.int64), np.zeros(edges_ms.size - 1, dtype=bool)
        place = np.clip(np.searchsorted(self.start_ms, edges_ms, side="right") - 1, 0, None)
        length = self.end_ms[place] - self.start_ms[place]
        into = np.clip(edges_ms - self.start_ms[place], 0, length)
        known_ms = covered[place] + into
        # Whole stretches are exact; what is cut is cut to the millionth.
        part = np.where(into == length, self.millionths[place], np.rint(self.millionths[place] * (into / length)))
        total = passed[place] + part.astype(np.int64)
        return np.diff(total), np.diff(known_ms) == np.diff(edges_ms)

    @property
    def span_ms(self) -> tuple[int, int]:
        """Beginning and end of what is known [ms UTC]; (0, 0) of nothing."""
        return (int(self.start_ms[0]), int(self.end_ms[-1])) if self.start_ms.size else (0, 0)


def exact(millionths: int) -> Decimal:
    """Return whole millionths as an exact number of units."""
    return Decimal(int(millionths)).scaleb(-6)


def metered_energy(record: SeriesRecord, readings: Readings) -> MeteredEnergy:
    """Return the energy of a meter's readings, raw in their record's unit.

    Notes
    -----
    Sums and means speak for their step. A counter speaks for the time since its reading before, however long: the
    amount is known, its spread is not. A fall that is no roll-over makes the time before it unknown. Of what
    overlaps, the earlier counts (docs/methods Q10).
    """
    stored = readings.in_stored_unit(record)
    at, value = stored.at_ms, stored.value
    if record.kind in ("counter", "daily"):
        counted = np.rint(value / J_PER_KWH * MILLION).astype(np.int64)
        return counted_energy(at, counted)
    step_ms = record.step_s * MS_PER_S
    start = at - step_ms if record.stamp == "end" else at
    joule = value if record.kind == "sum" else value * record.step_s
    known = ~np.isnan(joule)
    amount = np.rint(joule[known] / J_PER_KWH * MILLION).astype(np.int64)
    return _apart(start[known], start[known] + step_ms, amount, step_ms)


def counted_energy(at_ms: Ints, counted: Ints) -> MeteredEnergy:
    """Return what a counter [millionth of a unit] says at instants [ms UTC], rising."""
    if at_ms.size < 2:
        none = np.zeros(0, dtype=np.int64)
        return MeteredEnergy(start_ms=none, end_ms=none, millionths=none, step_ms=0)
    rise, length = np.diff(counted), np.diff(at_ms)
    kept = (rise >= 0) & (length > 0)
    usual = int(np.median(length[kept])) if kept.any() else 0
    is_interval = kept.any() and usual <= MS_PER_H and (np.abs(length[kept] - usual) <= usual * 0.02).mean() > 0.5
    return MeteredEnergy(
        start_ms=at_ms[:-1][kept],
        end_ms=at_ms[1:][kept],
        millionths=rise[kept],
        step_ms=usual if is_interval else 0,
        falls_ms=tuple(at_ms[1:][rise < 0].tolist()),
    )


def in_billed_units(metered: MeteredEnergy, factor: Decimal) -> MeteredEnergy:
    """Return a meter's amounts times the energy in one of its units, to the millionth without drifting."""
    total = np.concatenate([[0], np.cumsum(metered.millionths)]).tolist()
    turned = np.array([int((Decimal(each) * factor).to_integral_value()) for each in total], dtype=np.int64)
    return MeteredEnergy(
        start_ms=metered.start_ms,
        end_ms=metered.end_ms,
        millionths=np.diff(turned),
        step_ms=metered.step_ms,
        falls_ms=metered.falls_ms,
        overlapping=metered.overlapping,
    )


def _apart(start: Ints, end: Ints, amount: Ints, step_ms: int) -> MeteredEnergy:
    """Return stretches that overlap made apart: the earlier counts, of the later what is left of it."""
    order = np.argsort(start, kind="stable")
    start, end, amount = start[order], end[order], amount[order]
    before = np.concatenate([start[:1], np.maximum.accumulate(end)[:-1]]) if start.size else start
    begin = np.minimum(np.maximum(start, before), end)
    share: Floats = (end - begin) / np.maximum(end - start, 1)
    left = np.where(begin == start, amount, np.rint(amount * share)).astype(np.int64)
    kept = end > begin
    return MeteredEnergy(
        start_ms=begin[kept],
        end_ms=end[kept],
        millionths=left[kept],
        step_ms=step_ms,
        overlapping=int((begin > start).sum()),
    )
