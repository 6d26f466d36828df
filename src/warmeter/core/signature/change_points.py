"""Where a curve changes its level: the exact best partition (H6)."""

import itertools
from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable, within

NOISE_TO_SIGMA = 0.6745 * np.sqrt(2.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Partition:
    """First samples of the later segments, the mean of each segment, and the cost."""

    breaks: Ints
    levels: Floats
    cost: float


@njit(cache=True, nogil=True)
def _partition_kernel(value, penalty, shortest):  # type: ignore[no-untyped-def]
    n, d = value.shape
    s, q = np.zeros((n + 1, d)), np.zeros(n + 1)
    for i in range(n):
        q[i + 1] = q[i]
        for c in range(d):
            s[i + 1, c] = s[i, c] + value[i, c]
            q[i + 1] += value[i, c] * value[i, c]
    best = np.full(n + 1, np.inf)
    best[0] = -penalty
    came = np.zeros(n + 1, dtype=np.int64)
    kept = np.zeros(n + 1, dtype=np.int64)
    kept_n = 1
    for j in range(shortest, n + 1):
        for m in range(kept_n):
            i = kept[m]
            cost = q[j] - q[i]
            for c in range(d):
                total = s[j, c] - s[i, c]
                cost -= total * total / (j - i)
            cost = best[i] + max(cost, 0.0) + penalty
            if cost < best[j]:
                best[j] = cost
                came[j] = i
        # A start that is already worse than the best end here can never win later (with no least length).
        if shortest == 1:
            left = 0
            for m in range(kept_n):
                i = kept[m]
                cost = q[j] - q[i]
                for c in range(d):
                    total = s[j, c] - s[i, c]
                    cost -= total * total / (j - i)
                if best[i] + max(cost, 0.0) <= best[j]:
                    kept[left] = i
                    left += 1
            kept_n = left
        new = j - shortest + 1
        if new >= shortest and new <= n - shortest:
            kept[kept_n] = new
            kept_n += 1
    breaks = np.zeros(n, dtype=np.int64)
    found, j = 0, n
    while came[j] > 0:
        j = came[j]
        breaks[found] = j
        found += 1
    return breaks[:found][::-1].copy(), best[n]


def partition(value: Floats, penalty: float, *, shortest: int = 1) -> Partition:
    """Return where a curve changes, by the least squared distance plus a penalty a break.

    Parameters
    ----------
    value : (sample,) or (sample, feature) float array
        Without gaps.
    penalty : float
        Cost of a break, > 0, in the square of the value's unit.
    shortest : int
        Least samples of a segment, at least 1.

    Raises
    ------
    NotKnowable
        If there are fewer samples than a segment needs.

    Notes
    -----
    docs/methods H6, exact by dynamic programme; starts that can never win are dropped where segments may
    be of any length.

    References
    ----------
    Derived from the recurrence F(j) = min_i F(i) + SSE(i, j) + penalty, F(0) = −penalty.
    """
    within("penalty", penalty, 0.0, 1e300)
    flat = value.reshape(value.shape[0], -1).astype(np.float64)
    if flat.shape[0] < shortest or flat.shape[0] == 0:
        raise NotKnowable(f"{flat.shape[0]} readings are too few to part.", "Record at a finer step.")
    breaks, cost = _partition_kernel(flat - flat.mean(axis=0), penalty, shortest)
    edges = [0, *breaks.tolist(), flat.shape[0]]
    levels = np.array([value[a:b].mean(axis=0) for a, b in itertools.pairwise(edges)])
    return Partition(breaks=breaks, levels=levels, cost=float(cost))


def noise_of(value: Floats) -> float:
    """Return the spread from sample to sample, σ = median |Δ| / (0.6745 √2), in the value's unit."""
    if value.size < 2:
        return 0.0
    return float(np.median(np.abs(np.diff(value))) / NOISE_TO_SIGMA)
