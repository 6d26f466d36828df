"""Excursions of a sensor: quick rises or falls that come back, as no room's air makes them."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Excursion:
    """A quick rise (or fall) that came back: places in its log, and its size, below 0 for a fall [K]."""

    begin: int
    peak: int
    end: int
    size_k: float


def excursions(values: Floats, *, least_k: float, within: int, longest: int, back: float = 0.5) -> list[Excursion]:
    """Return the quick rises that came back, in order, none over another.

    Parameters
    ----------
    values : (step,) float array
        Readings on an even grid [°C or K]; NaN where not heard, over which nothing is told.
    least_k : float
        They rise by at least so much [K]
    within, longest : int
        within so many steps, and are back within so many.
    back : float
        Back is having lost this share of the rise.
    """
    found: list[Excursion] = []
    k, size = 0, values.size
    while k < size - 1:
        ahead = values[k : k + within + 1]
        with np.errstate(invalid="ignore"):
            # NaN compares as false: no rise begins at or runs over what was not heard.
            risen = np.flatnonzero(ahead - values[k] >= least_k)
        if not risen.size or np.isnan(ahead[: risen[0] + 1]).any():
            k += 1
            continue
        # A step from level ground, not from the middle of a rise.
        while k + 1 < size and values[k + 1] <= values[k]:
            k += 1
        stop = min(size, k + longest + 1)
        course = values[k:stop]
        high, returned = -np.inf, None
        peak = k
        for place, value in enumerate(course.tolist()):
            if value != value:
                break
            if value > high:
                high, peak = value, k + place
            elif high - values[k] >= least_k and value <= high - back * (high - values[k]):
                returned = k + place
                break
        if returned is None:
            k += 1
            continue
        found.append(Excursion(begin=k, peak=peak, end=returned, size_k=float(high - values[k])))
        k = returned
    return found


def both_ways(values: Floats, *, least_k: float, within: int, longest: int) -> list[Excursion]:
    """Return quick rises and quick falls that came back, in order."""
    falls = excursions(-values, least_k=least_k, within=within, longest=longest)
    turned = [Excursion(begin=f.begin, peak=f.peak, end=f.end, size_k=-f.size_k) for f in falls]
    rises = excursions(values, least_k=least_k, within=within, longest=longest)
    # The way back of a rise is no fall of its own, nor the other way round.
    kept: list[Excursion] = []
    for each in sorted([*rises, *turned], key=lambda e: (e.begin, -abs(e.size_k))):
        if not kept or each.begin >= kept[-1].end:
            kept.append(each)
    return kept
