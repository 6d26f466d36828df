"""How nervously something switches (J6)."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from warmeter.core.errors import OutOfRange


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
        switches_per_h=len(switches) / span_s * 3600,
        most_in_window=dense,
        short_on=sum(off - on < min_on_s for on, off in stretches_s),
        starts=len(starts),
        index=sum(gaps) / len(gaps) if gaps else 0.0,
    )
