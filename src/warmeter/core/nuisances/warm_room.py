"""A room is warmer than it should be: for how long, and whether heating, stored warmth or sun and people make it so."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmeter.core.arrays import Flags, Floats

WarmCause = Literal["heated", "stored", "gains"]
WARM_K = 0.5  # over what is asked by more than this a room is too warm
WORKING_SHARE = 0.05  # of the heater's full heat; under it the heater is not at work


@dataclass(frozen=True, slots=True, kw_only=True)
class WarmHours:
    """How long a room was too warm, and why.

    Parameters
    ----------
    heard_h, over_h : float
        Hours heard, and of them those over what was asked by more than half a kelvin [h].
    by_cause : dict of WarmCause to float
        Of the hours over: while its heater worked, after what is asked fell, and in other hours [h].
    mean_over_k : dict of WarmCause to float
        How far over in them, mean [K].
    """

    heard_h: float
    over_h: float
    by_cause: dict[WarmCause, float]
    mean_over_k: dict[WarmCause, float]

    @property
    def main_cause(self) -> WarmCause | None:
        """The cause of most of the hours; None where there are none."""
        return max(self.by_cause.items(), key=lambda each: each[1])[0] if self.over_h > 0 else None


def warm_hours(room_c: Floats, asked_c: Floats, working: Flags, fell: Flags, step_h: float) -> WarmHours:
    """Return how long a room was too warm, and why.

    Parameters
    ----------
    room_c, asked_c : (step,) float array
        Temperature, NaN where not heard, and what is asked [°C].
    working, fell : (step,) bool array
        Whether its heater gave heat, and whether what is asked fell within the hours before.
    step_h : float
        Length of a step, above 0 [h].
    """
    with np.errstate(invalid="ignore"):
        over = room_c - asked_c > WARM_K
    causes: dict[WarmCause, Flags] = {
        "heated": over & working,
        "stored": over & ~working & fell,
        "gains": over & ~working & ~fell,
    }
    return WarmHours(
        heard_h=float((~np.isnan(room_c)).sum()) * step_h,
        over_h=float(over.sum()) * step_h,
        by_cause={cause: float(where.sum()) * step_h for cause, where in causes.items()},
        mean_over_k={
            cause: float((room_c - asked_c)[where].mean()) if where.any() else 0.0 for cause, where in causes.items()
        },
    )


def minutes_to_come_down(room_c: Floats, asked_c: Floats, step_min: float) -> tuple[float | None, ...]:
    """Return for each fall of what is asked how long the room took to come down to it [min].

    None where it did not before more was asked again. Falls at which the room was not over are left out.
    """
    found: list[float | None] = []
    falls = np.flatnonzero(np.diff(asked_c) < -WARM_K) + 1
    rises = np.append(np.flatnonzero(np.diff(asked_c) > WARM_K) + 1, asked_c.size)
    for fall in falls.tolist():
        until = int(rises[np.searchsorted(rises, fall)])
        if until == asked_c.size:
            continue  # the log ends first
        part = room_c[fall:until] - asked_c[fall:until]
        if np.isnan(part).any() or part[0] <= WARM_K:
            continue
        down = np.flatnonzero(part <= WARM_K)
        found.append(float(down[0]) * step_min if down.size else None)
    return tuple(found)


def warmest_hour(room_c: Floats, asked_c: Floats, where: Flags, hour: Floats) -> int:
    """Return the local hour of the day in which a room is furthest over what is asked, summed over some steps."""
    over = np.where(where, np.nan_to_num(room_c - asked_c), 0.0)
    return int(np.argmax(np.bincount(hour.astype(int), weights=over, minlength=24)))
