"""A log at any zoom: minimum, mean and maximum of even buckets; a gap stays a gap."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Buckets:
    """Lowest, mean and highest value of each bucket, shape (bucket,); NaN where nothing was heard."""

    low: Floats
    mean: Floats
    high: Floats


@njit(cache=True, nogil=True)
def _buckets(value, edges, low, mean, high):  # type: ignore[no-untyped-def]
    for b in range(edges.shape[0] - 1):
        total, heard = 0.0, 0
        for k in range(edges[b], edges[b + 1]):
            v = value[k]
            if np.isnan(v):
                continue
            if heard == 0 or v < low[b]:
                low[b] = v
            if heard == 0 or v > high[b]:
                high[b] = v
            total += v
            heard += 1
        if heard > 0:
            mean[b] = total / heard


def buckets(value: Floats, start: int, end: int, most: int) -> Buckets:
    """Return steps [start, end) of a log in no more than ``most`` buckets, each of whole steps.

    Parameters
    ----------
    value : (step,) float array
        NaN where not heard.
    start, end : int
        Steps; what lies outside the log is not heard.
    most : int
        At least 1.
    """
    count = max(1, min(most, end - start))
    edges = np.clip(start + np.round(np.linspace(0, max(end - start, 1), count + 1)).astype(np.int64), 0, value.size)
    low, mean, high = (np.full(count, np.nan) for _ in range(3))
    _buckets(value, edges, low, mean, high)
    return Buckets(low=low, mean=mean, high=high)
