"""What a predicted day holds that harms or cannot be had: rooms under their guard limit, heaters that are too small."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.thermal.proportional import full_heat_reach_c
from warmeter.core.warmup.prediction import HeatingStretch, RoomDay, RoomModel, boundary_of

# A thermostat's band alone lets a room lie half of it under what is asked; so far more is no ripple [K].
MARGIN_K = 0.1
# Told when one outcome of so many sees it, though the best estimate does not.
LEAST_SHARE = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class UnderGuard:
    """A room predicted under its guard limit: how low [°C], from which minute of the run on, how likely (ratio)."""

    limit_c: float
    lowest_c: float
    minute: int
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TooSmall:
    """A heater that cannot hold what is asked: wanted, what full heat would hold for ever, outdoors [°C], share of draws."""

    wanted_c: float
    reach_c: float
    outdoor_c: float
    share: float


def under_guard(day: RoomDay, model: RoomModel, limit_c: float, begin: int, end: int) -> UnderGuard | None:
    """Return whether a room falls under its guard limit in minutes [begin, end], in the best estimate or one draw of twenty.

    ``limit_c`` is the home's own number: what damp adds to it is for comfort, what freezes or harms people is not.
    """
    border = limit_c - model.control.band_k / 2 - MARGIN_K
    air = day.run.air_c[:, begin : end + 1]
    is_under = air.min(axis=1) < border
    share = float(is_under.mean())
    if not is_under[0] and share < LEAST_SHARE:
        return None
    worst = air[0] if is_under[0] else air[int(np.argmin(air.min(axis=1)))]
    return UnderGuard(
        limit_c=limit_c, lowest_c=float(worst.min()), minute=begin + int(np.argmax(worst < border)), share=share
    )


def too_small(day: RoomDay, model: RoomModel, stretch: HeatingStretch, begin: int, end: int) -> TooSmall | None:
    """Return whether full heat for ever, at the mean outdoors and gains of minutes [begin, end), holds the most asked in them.

    None where it does in the best estimate; how many draws disagree is in ``share``.
    """
    boundary = boundary_of(model, stretch, day.setpoint_c)
    outdoor, gain = boundary.outdoor_c[:, begin:end].mean(axis=1), boundary.gain_w[:, begin:end].mean(axis=1)
    reach = full_heat_reach_c(
        model.step,
        outdoor_c=outdoor,
        gain_w=gain,
        full_heat_w=model.control.full_heat_w,
        beside_c=float(boundary.beside[begin:end].mean()),
    )
    wanted = float(day.wanted_c[begin:end].max())
    falls_short = reach < wanted - model.control.band_k / 2 - MARGIN_K
    if not falls_short[0]:
        return None
    return TooSmall(
        wanted_c=wanted, reach_c=float(reach[0]), outdoor_c=float(outdoor[0]), share=float(falls_short.mean())
    )
