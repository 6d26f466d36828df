"""The demand that a charge is for: the highest mean power of an interval, or of the three highest days (I5)."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.units import MIN_PER_H

TOP_DAYS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class DailyPeak:
    """The highest interval of a local day: its epoch day, its beginning [ms UTC] and its mean power [kW]."""

    epoch_day: int
    at_ms: int
    kw: Decimal


def daily_peaks(start_ms: Ints, epoch_day: Ints, millionths: Ints, interval_min: int) -> tuple[DailyPeak, ...]:
    """Return the highest interval of each local day, the first of equals; shapes (interval,)."""
    if not start_ms.size:
        return ()
    order = np.lexsort((start_ms, -millionths, epoch_day))
    first = np.concatenate([[True], np.diff(epoch_day[order]) != 0])
    return tuple(
        DailyPeak(
            epoch_day=int(epoch_day[k]),
            at_ms=int(start_ms[k]),
            kw=Decimal(int(millionths[k])).scaleb(-6) * MIN_PER_H / interval_min,
        )
        for k in order[first].tolist()
    )


def demand_kw(peaks: Sequence[DailyPeak], counts: Literal["highest", "top3_days"]) -> Decimal:
    """Return the demand [kW]: the highest peak, or the mean of the three largest daily ones (of those there are); 0 of none."""
    ranked = sorted((peak.kw for peak in peaks), reverse=True)
    if not ranked:
        return Decimal(0)
    if counts == "highest":
        return ranked[0]
    top = ranked[:TOP_DAYS]
    return sum(top, Decimal(0)) / len(top)
