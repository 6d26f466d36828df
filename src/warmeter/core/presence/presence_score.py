"""A state held against truth: minutes right, wrong offs, cold arrivals, hours wasted, hours dark."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Bytes
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H

# Whoever comes home and is not noticed within so long finds it cold.
ARRIVAL_MIN = 6
DARK_H, EVENT_H = 2.0, 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class PresenceScore:
    """Share of minutes right, and by week wrong offs, cold arrivals, hours wasted, hours dark.

    Where a state is not known, what was known last stands; where truth is not known, nothing is counted.
    """

    right: float
    wrong_offs: float
    cold_arrivals: float
    wasted_h: float
    dark_h: float

    @property
    def harm_h(self) -> float:
        """What it costs a week in hours wasted: an hour in the dark counts two, a wrong off or a cold arrival half a one."""
        return self.wasted_h + DARK_H * self.dark_h + EVENT_H * (self.wrong_offs + self.cold_arrivals)


def standing(state: Bytes) -> Bytes:
    """Return a state in which what was known last stands where it is not known; in at the beginning."""
    known = np.where(state != UNKNOWN, np.arange(state.size), -1)
    last = np.maximum.accumulate(known)
    return np.where(last >= 0, state[np.maximum(last, 0)], TRUE).astype(np.int8)


def presence_score(state: Bytes, truth: Bytes) -> PresenceScore:
    """Return how a state does against truth.

    Parameters
    ----------
    state, truth : (minute,) int8 array
        ``TRUE`` in, ``FALSE`` out, ``UNKNOWN``.
    """
    stands = standing(state)
    is_in, is_out = truth == TRUE, truth == FALSE
    known = int((is_in | is_out).sum())
    weeks = max(known, 1) / (7 * MIN_PER_DAY)
    off = (stands[1:] == FALSE) & (stands[:-1] == TRUE) & is_in[1:]
    came = np.flatnonzero(is_in[1:] & is_out[:-1]) + 1
    cold = sum(bool((stands[at : at + ARRIVAL_MIN] == FALSE).all()) for at in came)
    right = int(((stands == TRUE) & is_in).sum() + ((stands == FALSE) & is_out).sum())
    return PresenceScore(
        right=right / max(known, 1),
        wrong_offs=float(off.sum()) / weeks,
        cold_arrivals=cold / weeks,
        wasted_h=float(((stands == TRUE) & is_out).sum()) / MIN_PER_H / weeks,
        dark_h=float(((stands == FALSE) & is_in).sum()) / MIN_PER_H / weeks,
    )
