"""The coldest day that a log holds, and how little or much it says of the coldest day to come."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable

COLD_MONTHS_NORTH, COLD_MONTHS_SOUTH = (12, 1, 2), (6, 7, 8)
DAYS_OF_WINTER = 90


@dataclass(frozen=True, slots=True, kw_only=True)
class ColdestDay:
    """The lowest mean of a day [°C], when it was, of how many days heard, and of how many winters' worth of cold days."""

    mean_c: float
    on: date
    days: int
    winters: float


def coldest_day(daily_c: Floats, first: date, *, is_north: bool) -> ColdestDay:
    """Return the coldest day of a log.

    Parameters
    ----------
    daily_c : array, shape (day,)
        Mean outdoor temperature of each day, NaN where too little was heard [°C].
    first : date
        The first of the days.
    is_north : bool
        Whether the cold months are December to February.

    Raises
    ------
    NotKnowable
        If no day was heard.
    """
    heard = np.flatnonzero(~np.isnan(daily_c))
    if not heard.size:
        raise NotKnowable("No day of outdoor temperature was received.", "Import a log of it.")
    months = COLD_MONTHS_NORTH if is_north else COLD_MONTHS_SOUTH
    cold = sum((first + timedelta(days=int(k))).month in months for k in heard)
    lowest = int(heard[np.argmin(daily_c[heard])])
    return ColdestDay(
        mean_c=float(daily_c[lowest]),
        on=first + timedelta(days=lowest),
        days=int(heard.size),
        winters=cold / DAYS_OF_WINTER,
    )
