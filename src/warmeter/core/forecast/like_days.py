"""What a day is expected to draw, or its panels to make: the mean of like days of the log, with how far they differ."""

from dataclasses import dataclass
from datetime import date

import numpy as np

from warmeter.core.arrays import Floats

FEWEST, MOST = 2, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class LikeDays:
    """The days taken, and their mean with a spread, by slot [kWh]; ``highest_kwh`` is the most in any slot of them."""

    dates: tuple[date, ...]
    mean_kwh: Floats
    low_kwh: Floats
    high_kwh: Floats
    highest_kwh: float


def like_days(dates: tuple[date, ...], by_day: Floats, on: date, *, by_weekday: bool) -> LikeDays | None:
    """Return the newest days before a date that are like it.

    Parameters
    ----------
    dates : tuple of date
        Rising, one for each row.
    by_day : (day, slot) float array
        Energy of each slot; NaN where it is not known, and then the day is left out.
    by_weekday : bool
        Whether working days and days off are told apart.

    Returns
    -------
    LikeDays or None
        None with fewer than two such days.
    """
    known = ~np.isnan(by_day).any(axis=1)
    alike = np.array(
        [day < on and (not by_weekday or (day.weekday() >= 5) == (on.weekday() >= 5)) for day in dates], dtype=bool
    )
    rows = np.flatnonzero(known & alike)[-MOST:]
    if rows.size < FEWEST:
        return None
    taken = by_day[rows]
    return LikeDays(
        dates=tuple(dates[k] for k in rows.tolist()),
        mean_kwh=taken.mean(axis=0),
        low_kwh=np.quantile(taken, 0.1, axis=0),
        high_kwh=np.quantile(taken, 0.9, axis=0),
        highest_kwh=float(taken.max()),
    )
