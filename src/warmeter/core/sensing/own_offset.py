"""How far a valve's own reading lies off its room, while it heats and at rest, and the correction to type into it."""

from dataclasses import dataclass
from math import sqrt

import numpy as np
from scipy.special import stdtrit

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.errors import NotKnowable

FEWEST_DAYS, FEWEST_HOURS = 4, 24.0
FEWEST_STATE_HOURS = 8.0
SPLIT_K = 1.0  # states that differ by more are not served by one correction
_UPPER = 0.975


@dataclass(frozen=True, slots=True, kw_only=True)
class OffsetOf:
    """A mean offset over some hours: own reading less the room's, and its half width at 95 %, days being the sample [K]."""

    hours: float
    mean_k: float
    half_k: float


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnOffset:
    """How far a device's own reading lies off its room.

    Parameters
    ----------
    whole : OffsetOf
        Over all hours that both were heard.
    heating, resting : OffsetOf or None
        While heat was given, and while none was; None where too little is known of it.
    by_hour_k : tuple of float or None
        Mean by local hour of the day, None where nothing was heard [K].
    correction_k : float or None
        To type into the device, in its own steps; None where the range is wider than a step.
    """

    whole: OffsetOf
    heating: OffsetOf | None
    resting: OffsetOf | None
    by_hour_k: tuple[float | None, ...]
    correction_k: float | None

    @property
    def differs_by_k(self) -> float | None:
        """How much further off it is while it heats than at rest [K]; None where one of them is not known."""
        if self.heating is None or self.resting is None:
            return None
        return self.heating.mean_k - self.resting.mean_k


def own_offset(
    own_c: Floats,
    room_c: Floats,
    heating: Flags,
    resting: Flags,
    day: Ints,
    hour: Ints,
    *,
    step_h: float,
    typed_step_k: float,
) -> OwnOffset:
    """Return how far a device's own reading lies off its room.

    Parameters
    ----------
    own_c, room_c : (step,) float array
        Its own reading and that of another sensor in the room, NaN where not heard [°C].
    heating, resting : (step,) bool array
        Whether heat surely was given, and surely was not; neither where nothing tells it.
    day, hour : (step,) int array
        Local day, and hour of the day 0 to 23.
    step_h : float
        Length of a step, above 0 [h].
    typed_step_k : float
        In which steps it takes a correction, above 0 [K].

    Raises
    ------
    NotKnowable
        If both were heard together for less than a day's hours, or on fewer than four days.

    Notes
    -----
    Days are the sample: within one, readings hang together. What counts for a valve is its reading while it heats, so the
    correction is that of those hours where they are known.
    """
    off = own_c - room_c
    whole = _offset_of(off, day, step_h, FEWEST_HOURS)
    if whole is None:
        raise NotKnowable(
            "Its own reading and another sensor's in the room cover less than a day's hours together, or fewer than four days.",
            "Import both for a week.",
        )
    warm, cool = (
        _offset_of(np.where(where, off, np.nan), day, step_h, FEWEST_STATE_HOURS) for where in (heating, resting)
    )
    heard = ~np.isnan(off)
    counts = np.bincount(hour[heard], minlength=24)
    sums = np.bincount(hour[heard], weights=off[heard], minlength=24)
    used = warm or whole
    is_sure = used.half_k < typed_step_k
    return OwnOffset(
        whole=whole,
        heating=warm,
        resting=cool,
        by_hour_k=tuple(float(s / c) if c else None for s, c in zip(sums, counts, strict=True)),
        correction_k=-round(used.mean_k / typed_step_k) * typed_step_k if is_sure else None,
    )


def _offset_of(off: Floats, day: Ints, step_h: float, fewest_hours: float) -> OffsetOf | None:
    """Return a mean with its range from days; None where too little was heard."""
    heard = ~np.isnan(off)
    hours = float(heard.sum()) * step_h
    days, place = np.unique(day[heard], return_inverse=True)
    if hours < fewest_hours or days.size < FEWEST_DAYS:
        return None
    daily = np.bincount(place, weights=off[heard]) / np.bincount(place)
    half = float(stdtrit(days.size - 1, _UPPER)) * float(daily.std(ddof=1)) / sqrt(days.size)
    return OffsetOf(hours=hours, mean_k=float(off[heard].mean()), half_k=half)
