"""What runs all night: the floor of a meter's nights, and on how many of them it is passed (Q9)."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import within
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_H

FROM_MIN, TO_MIN = 60, 300
NIGHT_QUANTILE, FLOOR_QUANTILE, LEAST_KNOWN = 0.1, 0.5, 0.8
_SLACK = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Night:
    """One night: its length [h], known intervals and their share, and its floor [W], None where too little is known."""

    date: date
    hours: float
    intervals: int
    known_share: float
    floor_w: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NightFloor:
    """The floor over all nights that count.

    Parameters
    ----------
    nights : tuple of Night
        All nights, in order.
    floor_w, p10_w, p90_w : float or None
        Middle of the nights' floors and their first and ninth deciles [W]; None where no night counts.
    below_nights : int
        Counted nights in which some interval lay under the floor.
    """

    nights: tuple[Night, ...]
    floor_w: float | None
    p10_w: float | None
    p90_w: float | None
    below_nights: int

    @property
    def counted_nights(self) -> int:
        """Nights of which enough is known."""
        return sum(night.floor_w is not None for night in self.nights)

    @property
    def below_share(self) -> float | None:
        """Share of counted nights that fell under the floor (ratio)."""
        return self.below_nights / self.counted_nights if self.counted_nights else None

    @property
    def never_below(self) -> bool | None:
        """Whether no counted night fell under the floor; None where none counts."""
        return self.below_nights == 0 if self.counted_nights else None


def night_floor(
    start_ms: Ints,
    power_w: Floats,
    *,
    step_s: float,
    clock: LocalClock,
    first: date,
    last: date,
    from_min: int = FROM_MIN,
    to_min: int = TO_MIN,
    night_quantile: float = NIGHT_QUANTILE,
    floor_quantile: float = FLOOR_QUANTILE,
    least_known: float = LEAST_KNOWN,
) -> NightFloor:
    """Return the floor of a meter's nights.

    Parameters
    ----------
    start_ms : (interval,) int array
        Starts of intervals of equal length [ms UTC]; of two with one start the later in the list holds.
    power_w : (interval,) float array
        Their mean power, NaN where nothing is known [W].
    step_s : float
        Their length, 1 to 86 400 [s].
    first, last : date
        Dates on which the first and the last night begin.
    from_min, to_min : int
        Local minutes between which it is night; where the second is not later, it is of the day after.
    night_quantile, floor_quantile : float
        Quantiles of a night's intervals, and of the nights, 0 to 1.
    least_known : float
        Share of a night that must be known for it to count.

    Raises
    ------
    OutOfRange
        If a number is not within its range.

    Notes
    -----
    docs/methods Q9. Only intervals wholly inside a night count: a refrigerator's rest is longer than one of them.
    """
    within("interval", step_s, 1.0, 86_400.0, "s")
    for name, ratio in (("night quantile", night_quantile), ("floor quantile", floor_quantile)):
        within(name, ratio, 0.0, 1.0)
    at, power = _latest(start_ms, power_w)
    step_ms = round(step_s * 1000)
    nights, spans = [], []
    for number in range((last - first).days + 1):
        on = first + timedelta(days=number)
        begin = clock.instant(on, from_min)
        end = clock.instant(on + timedelta(days=int(to_min <= from_min)), to_min)
        a, b = int(np.searchsorted(at, begin)), int(np.searchsorted(at, end - step_ms, side="right"))
        known = power[a:b][~np.isnan(power[a:b])]
        share = known.size * step_ms / (end - begin) if end > begin else 0.0
        counts = known.size > 0 and share >= least_known - _SLACK
        floor = float(np.quantile(known, night_quantile)) if counts else None
        hours = (end - begin) / MS_PER_H
        nights.append(Night(date=on, hours=hours, intervals=known.size, known_share=share, floor_w=floor))
        spans.append(known)
    floors = [night.floor_w for night in nights if night.floor_w is not None]
    if not floors:
        return NightFloor(nights=tuple(nights), floor_w=None, p10_w=None, p90_w=None, below_nights=0)
    floor_w = float(np.quantile(floors, floor_quantile))
    below = sum(
        night.floor_w is not None and bool((known < floor_w - _SLACK).any())
        for night, known in zip(nights, spans, strict=True)
    )
    return NightFloor(
        nights=tuple(nights),
        floor_w=floor_w,
        p10_w=float(np.quantile(floors, 0.1)),
        p90_w=float(np.quantile(floors, 0.9)),
        below_nights=below,
    )


def _latest(start_ms: Ints, power_w: Floats) -> tuple[Ints, Floats]:
    """Return intervals in order, the later in the list where two have one start."""
    order = np.argsort(start_ms, kind="stable")
    at, power = start_ms[order], power_w[order]
    is_last = np.append(at[1:] != at[:-1], True) if at.size else np.zeros(0, dtype=bool)
    return at[is_last], power[is_last]
