"""What a witness's word is worth: how often right, how late, and which two cannot be told apart (Q2)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Bytes, Floats, Ints
from warmeter.core.presence.share_interval import share_interval
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN

SLACK = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class ShareRight:
    """Of the minutes with one word and truth known, those that were right.

    ``runs`` are its rows of minutes without a break; the ends are at 95 %, by minutes and by runs. Minutes hang
    together: show the ends by runs. Shares are None without a minute.
    """

    minutes: int
    right_minutes: int
    runs: int
    share: float | None
    low: float | None
    high: float | None
    low_runs: float | None
    high_runs: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Lateness:
    """Changes of truth that a witness told, missed, and told without one; quartiles of how late [min], negative early."""

    matched: int
    missed: int
    extra: int
    q1_min: float | None
    median_min: float | None
    q3_min: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WitnessTrust:
    """What a witness's word is worth, for in and for out."""

    right_in: ShareRight
    right_out: ShareRight
    late_in: Lateness
    late_out: Lateness


@dataclass(frozen=True, slots=True, kw_only=True)
class SamePair:
    """Two witnesses by place, the minutes in which either changed its word, and whether they cannot be told apart."""

    one: int
    other: int
    minutes: int
    agree: int
    share: float | None
    is_same: bool | None


def witness_trust(said: Bytes, truth: Bytes, window_min: int) -> WitnessTrust:
    """Return what a witness's word is worth against truth.

    Parameters
    ----------
    said, truth : (minute,) int8 array
        ``TRUE`` in, ``FALSE`` out, ``UNKNOWN`` for nothing said and truth not known.
    window_min : int
        How far a change told may lie from the true one [min].

    Notes
    -----
    A truth taken from the witness itself proves nothing.

    References
    ----------
    docs/methods Q2.
    """
    return WitnessTrust(
        right_in=_share_right(said, truth, TRUE),
        right_out=_share_right(said, truth, FALSE),
        late_in=_lateness(said, truth, TRUE, window_min),
        late_out=_lateness(said, truth, FALSE, window_min),
    )


def same_pairs(said: Sequence[Bytes], same_share: float) -> list[SamePair]:
    """Return each pair of witnesses with how often they agree where either changes its word.

    References
    ----------
    docs/methods Q2.
    """
    turned = [np.append(False, s[1:] != s[:-1]) for s in said]
    found = []
    for one in range(len(said)):
        for other in range(one + 1, len(said)):
            either = turned[one] | turned[other]
            n, agree = int(either.sum()), int((either & (said[one] == said[other])).sum())
            share = agree / n if n else None
            is_same = None if share is None else share > same_share + SLACK
            found.append(SamePair(one=one, other=other, minutes=n, agree=agree, share=share, is_same=is_same))
    return found


def _share_right(said: Bytes, truth: Bytes, word: int) -> ShareRight:
    counts = (said == word) & (truth != UNKNOWN)
    n, right = int(counts.sum()), int((counts & (truth == word)).sum())
    runs = int((counts & ~np.append(False, counts[:-1])).sum())
    if not n:
        return ShareRight(
            minutes=0, right_minutes=0, runs=0, share=None, low=None, high=None, low_runs=None, high_runs=None
        )
    (low, high), (low_runs, high_runs) = share_interval(right / n, n), share_interval(right / n, runs)
    return ShareRight(
        minutes=n,
        right_minutes=right,
        runs=runs,
        share=right / n,
        low=low,
        high=high,
        low_runs=low_runs,
        high_runs=high_runs,
    )


def _lateness(said: Bytes, truth: Bytes, word: int, window_min: int) -> Lateness:
    true_at = np.flatnonzero((truth[1:] == word) & (truth[:-1] != word) & (truth[:-1] != UNKNOWN)) + 1
    told_at = np.flatnonzero((said[1:] == word) & (said[:-1] != word)) + 1
    pairs = matched_pairs(true_at, told_at, window_min)
    late = np.array([told_at[j] - true_at[i] for i, j in pairs], dtype=np.float64)
    paired = {j for _, j in pairs}
    extra = sum(1 for j, minute in enumerate(told_at) if j not in paired and truth[minute] != UNKNOWN)
    q1, median, q3 = np.quantile(late, [0.25, 0.5, 0.75]).tolist() if pairs else (None, None, None)
    return Lateness(
        matched=len(pairs), missed=true_at.size - len(pairs), extra=extra, q1_min=q1, median_min=median, q3_min=q3
    )


def matched_pairs(true_at: Ints, told_at: Ints, window: int) -> list[tuple[int, int]]:
    """Return pairs (true, told) one to one within a window: most of them, then least apart, then the first in order.

    References
    ----------
    docs/methods Q2: a best matching of points on a line has no crossing pairs.
    """
    n, m = true_at.size, told_at.size
    # A pair is worth more than all distances together.
    worth = float(window * (min(n, m) + 1) + 1)
    cost = _costs(true_at, told_at, window, worth)
    found, i, j = [], 0, 0
    while i < n and j < m:
        partner = next((k for k in range(j, m) if _is_best(cost, true_at, told_at, i, k, j, window, worth)), None)
        if partner is not None:
            found.append((i, partner))
            j = partner + 1
        i += 1
    return found


@njit(cache=True, nogil=True)
def _costs(true_at, told_at, window, worth):  # type: ignore[no-untyped-def]
    """Return the least cost of the rest from (i, j) on."""
    n, m = true_at.shape[0], told_at.shape[0]
    cost = np.zeros((n + 1, m + 1))
    for i in range(n - 1, -1, -1):
        for j in range(m - 1, -1, -1):
            apart = abs(told_at[j] - true_at[i])
            best = min(cost[i + 1, j], cost[i, j + 1])
            if apart <= window:
                best = min(best, cost[i + 1, j + 1] + apart - worth)
            cost[i, j] = best
    return cost


def _is_best(cost: Floats, true_at: Ints, told_at: Ints, i: int, k: int, j: int, window: int, worth: float) -> bool:
    apart = abs(int(told_at[k]) - int(true_at[i]))
    return bool(apart <= window and cost[i + 1, k + 1] + apart - worth <= cost[i, j] + SLACK)
