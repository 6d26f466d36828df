"""What else a home draws on a planned day: its meter's like days without what the plan moves, as far as that is on the meter."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats

# A part that draws so much more in a slot than the meter ever counted, or nearly all that it counts, is not on it.
ABOVE_HIGHEST, NEARLY_ALL = 1.5, 0.9


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherUse:
    """What else is drawn in each slot [kWh], which parts the meter counts, and which it cannot."""

    kwh: Floats
    counted: tuple[str, ...]
    elsewhere: tuple[str, ...]


def other_use(metered_kwh: Floats, highest_kwh: float, habits: Mapping[tuple[str, ...], Floats]) -> OtherUse:
    """Return what is left of a meter's like days without parts that the plan draws anew.

    Parameters
    ----------
    metered_kwh : (slot,) float array
        Mean of like days, at least 0 [kWh].
    highest_kwh : float
        The most in a slot of those days [kWh].
    habits : mapping of tuple of str to (slot,) float array
        What parts that are on one meter, or none, draw together by habit [kWh].

    Notes
    -----
    docs/methods I9: each part's energy is taken off where the meter has any, and the rest of it in proportion, so that
    the day's energy is right though its hours are means.
    """
    left = np.maximum(metered_kwh, 0.0)
    counted: list[str] = []
    elsewhere: list[str] = []
    for names, drawn in habits.items():
        total = float(drawn.sum())
        if total <= 0.0:
            continue
        if float(drawn.max()) > ABOVE_HIGHEST * highest_kwh or total > NEARLY_ALL * float(left.sum()):
            elsewhere += names
            continue
        cut = np.maximum(left - drawn, 0.0)
        left = cut * ((float(left.sum()) - total) / float(cut.sum()))
        counted += names
    return OtherUse(kwh=left, counted=tuple(counted), elsewhere=tuple(elsewhere))
