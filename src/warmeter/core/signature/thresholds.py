"""The hand calculation of a threshold from labelled powers (H12), which the tuner's map extends."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import NotKnowable

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuning:
    """F1 for each grid value, the widest best stretch and its middle [W]."""

    f1: tuple[float, ...]
    best_f1: float
    plateau_w: tuple[float, float]
    threshold_w: float


def tune_threshold(power_w: Floats, is_on: NDArray[np.bool_], grid_w: Sequence[float]) -> Tuning:
    """Return the threshold in the middle of the longest run of best F1 (first on ties).

    Parameters
    ----------
    power_w : (sample,) float array
        Powers [W].
    is_on : (sample,) bool array
        Whether the machine ran.
    grid_w : sequence of float
        Thresholds tried, rising [W]; on means P at or above.

    Raises
    ------
    NotKnowable
        If the grid is empty.

    Notes
    -----
    docs/methods H12: the widest safe gap, not its edge.
    """
    if not len(grid_w):
        raise NotKnowable("No threshold was given to try.", "Give at least one.")
    scores = []
    for threshold in grid_w:
        told = power_w >= threshold
        hits = int((told & is_on).sum())
        wrong = int((told & ~is_on).sum()) + int((~told & is_on).sum())
        scores.append(2 * hits / (2 * hits + wrong) if hits + wrong else 0.0)
    best = max(scores)
    runs, start = [], None
    for i, score in enumerate([*scores, -1.0]):
        if abs(score - best) <= 1e-12:
            start = i if start is None else start
        elif start is not None:
            runs.append((start, i - 1))
            start = None
    first, last = max(runs, key=lambda run: (run[1] - run[0], -run[0]))
    low, high = float(grid_w[first]), float(grid_w[last])
    return Tuning(f1=tuple(scores), best_f1=best, plateau_w=(low, high), threshold_w=(low + high) / 2)
