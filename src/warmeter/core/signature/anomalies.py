"""What is doubtful about a machine's log: readings that cannot be, and a plug that was moved to another machine."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats
from warmeter.core.signature.change_points import partition
from warmeter.core.signature.cycles import Cycle

ALONE_SHARE, FAR = 0.2, 2.0  # a bad reading stands alone, and twice as high as all that does not
MOST_SHARE, MOST_COUNT = 0.02, 50  # more of them are no bad readings but what the machine does
FEWEST_CYCLES, OCTAVE = 3, 1.0
PENALTY = 6.0


def bad_readings(power_w: Floats) -> Flags:
    """Return which single readings cannot be: alone between low ones, twice as high as everything that is not alone.

    Parameters
    ----------
    power_w : (step,) float array
        NaN where not heard [W].

    Notes
    -----
    A machine that works for less than a step has many such readings: where more than 50, or more than 2 % of what
    stands out of rest, would be bad, none is.
    """
    filled = np.nan_to_num(power_w, nan=0.0)
    beside = np.maximum(np.concatenate([[0.0], filled[:-1]]), np.concatenate([filled[1:], [0.0]]))
    alone = beside < ALONE_SHARE * filled
    usual = float(filled[~alone].max(initial=0.0))
    bad = alone & (filled > FAR * usual)
    working = int((filled > ALONE_SHARE * usual).sum())
    if bad.sum() > min(MOST_COUNT, max(1, MOST_SHARE * working)):
        return np.zeros(power_w.size, dtype=bool)
    return np.asarray(bad, dtype=bool)


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerShift:
    """From a cycle on, cycles draw another mean power: its index, and the powers before and from then on [W]."""

    cycle: int
    before_w: float
    after_w: float


def moved_plug(power_w: Floats, cycles: Sequence[Cycle]) -> PowerShift | None:
    """Return from which cycle on the log seems to be another machine's; None if it is one machine's.

    Notes
    -----
    docs/methods H6 over the logarithm of each cycle's mean power; told only where it changes by more than an octave
    and by three times the spread on either side, with three cycles or more on each.
    """
    means = np.array([np.nanmean(power_w[c.start : c.end]) for c in cycles])
    if means.size < 2 * FEWEST_CYCLES:
        return None
    value = np.log2(np.maximum(means, 1e-3))
    breaks = partition(value, PENALTY * float(np.log(value.size)), shortest=FEWEST_CYCLES).breaks.tolist()
    for at in breaks:
        before, after = value[:at], value[at:]
        shift = abs(float(np.median(after) - np.median(before)))
        spread = max(float(np.median(np.abs(part - np.median(part)))) for part in (before, after)) * 1.4826
        if shift > max(OCTAVE, 3 * spread):
            return PowerShift(cycle=at, before_w=float(2 ** np.median(before)), after_w=float(2 ** np.median(after)))
    return None
