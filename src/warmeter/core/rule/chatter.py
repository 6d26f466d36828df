"""How nervously something switches (J6), and how long a contact bounces."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import OutOfRange
from warmeter.core.units import S_PER_H

BOUNCE_WITHIN_S, BOUNCE_CHANGES = 10.0, 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Chatter:
    """Switches and starts, how dense they get, on-times that are too short, and the index (1 is a start each second)."""

    switches: int
    switches_per_h: float
    most_in_window: int
    short_on: int
    starts: int
    index: float


def chatter(stretches_s: Sequence[tuple[float, float]], *, min_on_s: float, window_s: float, span_s: float) -> Chatter:
    """Return how nervously something switched (J6).

    Parameters
    ----------
    stretches_s : sequence of (float, float)
        [on, off) in rising order [s].
    window_s : float
        Most switches are counted in windows [x, x + window) that start at a switch.

    Raises
    ------
    OutOfRange
        If the span is not above 0.
    """
    if not span_s > 0:
        raise OutOfRange("span", span_s, 0.0, float("inf"), "s")
    switches = [at for stretch in stretches_s for at in stretch]
    dense, last = 0, 0
    for first, at in enumerate(switches):
        while last < len(switches) and switches[last] < at + window_s:
            last += 1
        dense = max(dense, last - first)
    starts = [on for on, _ in stretches_s]
    gaps = [1 / (b - a) for a, b in itertools.pairwise(starts)]
    return Chatter(
        switches=len(switches),
        switches_per_h=len(switches) / span_s * S_PER_H,
        most_in_window=dense,
        short_on=sum(off - on < min_on_s for on, off in stretches_s),
        starts=len(starts),
        index=sum(gaps) / len(gaps) if gaps else 0.0,
    )


def bounce_s(at_s: Floats, is_on: Floats) -> float:
    """Return for how long a sensor of two states bounces, at most, when what it looks at changes once [s].

    A bounce is three or more changes, each within ten seconds of the one before: a window that is opened and shut
    makes two. It lasts from its first change to its last.

    Parameters
    ----------
    at_s : (n,) array
        When it reported, rising [s].
    is_on : (n,) array
        What it reported, 0 or 1; nan is not known and ends a bounce.
    """
    known = ~np.isnan(is_on)
    changed = np.zeros(at_s.size, dtype=bool)
    changed[1:] = known[1:] & known[:-1] & (is_on[1:] != is_on[:-1])
    at = at_s[changed]
    broken = np.flatnonzero(np.diff(at) > BOUNCE_WITHIN_S) + 1
    bursts = np.split(at, broken)
    return max((float(b[-1] - b[0]) for b in bursts if b.size >= BOUNCE_CHANGES), default=0.0)
