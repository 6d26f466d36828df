"""The power levels of a machine: an exact split of one dimension (H4), and how many there are (H5)."""

import itertools
from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable

EM_ROUNDS, EM_TOLERANCE = 500, 1e-10
EM_STARTS = 12
MERGE_W, MERGE_SHARE = 3.0, 0.05  # docs/methods H4: states closer than this are one
MOST_VALUES = 1500  # values beyond this are binned: the split costs k n² steps


@dataclass(frozen=True, slots=True, kw_only=True)
class Levels:
    """Centres in rising order, how many values each holds, and the sum of squared distances."""

    centres: Floats
    counts: Ints
    sse: float


@njit(cache=True, nogil=True)
def _split_kernel(value, weight, k):  # type: ignore[no-untyped-def]
    n = value.shape[0]
    w, s, q = np.zeros(n + 1), np.zeros(n + 1), np.zeros(n + 1)
    for i in range(n):
        w[i + 1] = w[i] + weight[i]
        s[i + 1] = s[i] + weight[i] * value[i]
        q[i + 1] = q[i] + weight[i] * value[i] * value[i]
    best = np.full((k + 1, n + 1), np.inf)
    came = np.zeros((k + 1, n + 1), dtype=np.int64)
    best[0, 0] = 0.0
    for m in range(1, k + 1):
        for j in range(m, n + 1):
            for i in range(m - 1, j):
                inside = w[j] - w[i]
                total = s[j] - s[i]
                cost = best[m - 1, i] + max(0.0, q[j] - q[i] - total * total / inside)
                if cost < best[m, j]:
                    best[m, j] = cost
                    came[m, j] = i
    edges = np.zeros(k + 1, dtype=np.int64)
    edges[k] = n
    for m in range(k, 0, -1):
        edges[m - 1] = came[m, edges[m]]
    return edges, best[k, n]


def split_levels(value: Floats, k: int, weight: Floats | None = None) -> Levels:
    """Return the split of values into ``k`` levels with the least squared distance.

    Parameters
    ----------
    value : (n,) float array
        In any order.
    k : int
        Levels, between 1 and the number of different values.
    weight : (n,) float array, optional
        How often each value counts, > 0; 1 where left out.

    Raises
    ------
    NotKnowable
        If there are fewer different values than levels.

    Notes
    -----
    docs/methods H4. In one dimension the best split is into stretches of the sorted values: a dynamic
    programme over where they part finds it exactly.
    """
    names, place = np.unique(value, return_inverse=True)
    if not 1 <= k <= names.size:
        raise NotKnowable(f"{names.size} different powers cannot be {k} states.", "Ask for fewer, or record longer.")
    weights = np.bincount(place, weights=np.ones(value.size) if weight is None else weight)
    # Powers far from zero would lose digits in sums of squares.
    middle = float(np.average(names, weights=weights))
    edges, sse = _split_kernel(names - middle, weights, k)
    parts = list(itertools.pairwise(edges))
    counts = np.array([weights[a:b].sum() for a, b in parts])
    centres = np.array([np.average(names[a:b], weights=weights[a:b]) for a, b in parts])
    return Levels(centres=centres, counts=np.round(counts).astype(np.int64), sse=float(sse))
