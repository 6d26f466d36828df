"""Cycles that are not like the others (H8)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import NotKnowable

Floats = NDArray[np.float64]
TO_SIGMA, MEAN_TO_SIGMA = 0.6745, 1.253314
SHOW_FROM = 8  # docs/methods H8: fewer cycles of a programme are too few to call one odd


@dataclass(frozen=True, slots=True, kw_only=True)
class Oddness:
    """Middle and spread of a history and the robust z of new values, NaN where there is no verdict."""

    median: float
    mad: float
    z: Floats
    limit: float

    @property
    def is_odd(self) -> list[bool | None]:
        """Whether each new value lies beyond the limit; None where there is no verdict."""
        return [None if np.isnan(z) else bool(abs(z) > self.limit) for z in self.z]


def robust_z(history: Floats, new: Floats, limit: float = 3.5) -> Oddness:
    """Return how far new values lie from a history, in robust standard deviations.

    Parameters
    ----------
    history, new : float arrays
        In the same unit.
    limit : float
        Beyond this |z| a value is odd.

    Raises
    ------
    NotKnowable
        If the history is empty.

    Notes
    -----
    docs/methods H8: z = 0.6745 (x − median)/MAD; where the MAD is 0, (x − median)/(1.253314 mean |x − median|);
    where both are 0 there is no verdict.

    References
    ----------
    Iglewicz, B., Hoaglin, D. (1993), How to detect and handle outliers; as given in docs/methods H8.
    """
    if history.size == 0:
        raise NotKnowable("There is no history to compare with.", "Record some cycles.")
    median = float(np.median(history))
    away = np.abs(history - median)
    mad, mean = float(np.median(away)), float(away.mean())
    if mad > 0:
        z = TO_SIGMA * (new - median) / mad
    elif mean > 0:
        z = (new - median) / (MEAN_TO_SIGMA * mean)
    else:
        z = np.full(new.shape, np.nan)
    return Oddness(median=median, mad=mad, z=z, limit=limit)
