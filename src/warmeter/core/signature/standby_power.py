"""Where a machine rests: its lowest steady power and how far that spreads."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable

SHARE = 0.04  # a level at which less of the time is spent is no rest
OFFSET_W, PER_OCTAVE = 0.5, 24.0  # bins of 3 %, even below half a watt
REACH = 3  # a level is what lies within so many bins of its fullest
FEWEST_DRAWN, MOST_STANDING_W, WORKS_OVER, LEAST_WORK = 20, 60.0, 1.5, 0.01
SECOND_REST, SECOND_REST_W = 4.0, 5.0  # a display that stays lit raises rest, by no more than this


@dataclass(frozen=True, slots=True, kw_only=True)
class StandbyPower:
    """What a machine draws at rest [W].

    Parameters
    ----------
    level_w : float
        The steady level at which it rests longest.
    low_w, high_w : float
        Between these lie all but two in a thousand of its readings at rest.
    levels_w : tuple of float
        Every level at which it rests, rising; more than one where rest changed in the log.
    share : float
        Share of the heard time at rest.
    """

    level_w: float
    low_w: float
    high_w: float
    levels_w: tuple[float, ...]
    share: float


def standby_power_of(power_w: Floats) -> StandbyPower:
    """Return where a machine rests.

    Parameters
    ----------
    power_w : (sample,) float array
        Heard powers, without gaps, in any order [W].

    Raises
    ------
    NotKnowable
        If there is no power.

    Notes
    -----
    The lowest level, on a logarithmic scale, at which at least 4 % of the time is spent; a second one
    counts as rest too if it lies within four times the first or 5 W above it.
    """
    if power_w.size == 0:
        raise NotKnowable("There is no power in this log.", "Record a day or more, better a week.")
    bins = np.floor(np.log2(np.maximum(power_w, 0.0) + OFFSET_W) * PER_OCTAVE).astype(np.int32)
    first = int(bins.min())
    counts = np.bincount(bins - first)
    peaks = _peaks(counts, SHARE * power_w.size)
    level_of = [float(2 ** ((peak + first) / PER_OCTAVE) - OFFSET_W) for peak in peaks]
    limit = max(SECOND_REST * level_of[0], level_of[0] + SECOND_REST_W)
    rests = [peak for peak, level in zip(peaks, level_of, strict=True) if level <= limit]
    members = [_members(power_w, bins - first, p) for p in rests]
    levels = [float(np.median(m)) for m in members]
    longest = int(np.argmax([m.size for m in members]))
    low, high = np.quantile(members[0], 0.001), np.quantile(members[-1], 0.999)
    return StandbyPower(
        level_w=levels[longest],
        low_w=float(low),
        high_w=float(high),
        levels_w=tuple(levels),
        share=sum(m.size for m in members) / power_w.size,
    )


def _peaks(counts: Ints, least: float) -> list[int]:
    """Return the bins that are fullest within reach, where enough time is spent; rising, at least one."""
    padded = np.concatenate([np.zeros(REACH, np.int64), counts, np.zeros(REACH, np.int64)])
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * REACH + 1)
    near, top = windows.sum(axis=1), windows.max(axis=1)
    found = [int(k) for k in np.flatnonzero((near >= least) & (counts == top) & (counts > 0))]
    kept = [k for i, k in enumerate(found) if i == 0 or k - found[i - 1] > REACH]
    return kept or [int(np.argmax(near))]


def _members(power_w: Floats, bins: NDArray[np.int32], peak: int) -> Floats:
    return power_w[np.abs(bins - peak) <= REACH]


def is_cut_at_times(power_w: Floats) -> bool:
    """Return whether a machine is off at the plug at times, beside standing at rest and working.

    Parameters
    ----------
    power_w : (sample,) float array
        Heard powers, without gaps, in any order [W].

    Notes
    -----
    An exact nought for 4 % of the time or more is off where something steady stands above it that is not the machine's
    work: at most 60 W, with 1 % of the time at half as much again. Else the nought is its rest.
    """
    drawn = power_w[power_w > 0]
    if drawn.size < FEWEST_DRAWN or drawn.size > (1 - SHARE) * power_w.size:
        return False
    standing = standby_power_of(drawn)
    works = float(np.mean(drawn > WORKS_OVER * standing.high_w))
    return standing.level_w <= MOST_STANDING_W and works >= LEAST_WORK
