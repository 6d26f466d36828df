"""How far an appliance's run has come: minutes left with their range, from its own past runs that went alike so far."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable

FLOOR_W = 5.0  # added before the logarithm, as where phases are found
ALIKE_OCTAVES = 0.6
BLOCK_MIN = 5
FEWEST_RUNS, FEWEST_ALIKE = 3, 1.5
LOW_SHARE, HIGH_SHARE = 0.1, 0.9


@dataclass(frozen=True, slots=True, kw_only=True)
class RunProgress:
    """Minutes since a run began, minutes left with their range, from how many past runs, and the one that it is most like."""

    elapsed_min: int
    left_min: float
    low_min: float
    high_min: float
    runs: int
    most_alike: int


def run_progress(so_far_w: Floats, past_w: Sequence[Floats]) -> RunProgress:
    """Return how far a run has come.

    Parameters
    ----------
    so_far_w : (minute,) float array
        Mean power of each whole minute since it began [W].
    past_w : sequence of (minute,) float arrays
        The same of past runs, from beginning to end.

    Raises
    ------
    NotKnowable
        If fewer than three past runs lasted longer, or too few of them went alike.

    Notes
    -----
    Runs are compared by the binary logarithm of the mean power of blocks of five minutes; each past run that lasted
    longer counts by exp(−(d/0.6)²) of its mean distance d in octaves. The range is that of 80 % of the counts.
    """
    elapsed = so_far_w.size
    longer = [k for k, run in enumerate(past_w) if run.size > elapsed]
    if len(longer) < FEWEST_RUNS:
        raise NotKnowable(
            "Too few of its past runs lasted as long as this one to say how long it goes on.", "Let it run a few times."
        )
    mine = _blocks(so_far_w)
    distance = np.array(
        [float(np.abs(_blocks(past_w[k][:elapsed]) - mine).mean()) if mine.size else 0.0 for k in longer]
    )
    weight = np.exp(-((distance / ALIKE_OCTAVES) ** 2))
    if float(weight.sum()) < FEWEST_ALIKE:
        raise NotKnowable("No past run of it went as this one does.", "Say its programme under Signatures afterwards.")
    left = np.array([past_w[k].size - elapsed for k in longer], dtype=np.float64)
    order = np.argsort(left)
    share = (np.cumsum(weight[order]) - 0.5 * weight[order]) / weight.sum()
    low, middle, high = np.interp([LOW_SHARE, 0.5, HIGH_SHARE], share, left[order])
    return RunProgress(
        elapsed_min=elapsed,
        left_min=float(middle),
        low_min=float(low),
        high_min=float(high),
        runs=len(longer),
        most_alike=longer[int(np.argmin(distance))],
    )


def _blocks(power_w: Floats) -> Floats:
    """Return the binary logarithm of the mean power of whole blocks, the rest as a block of its own."""
    if not power_w.size:
        return np.zeros(0)
    edges = np.arange(0, power_w.size, BLOCK_MIN)
    sums = np.add.reduceat(np.nan_to_num(power_w), edges)
    counts = np.diff(np.append(edges, power_w.size))
    return np.asarray(np.log2(sums / counts + FLOOR_W), dtype=np.float64)
