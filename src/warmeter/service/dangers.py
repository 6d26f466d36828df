"""What a predicted day holds that harms: rooms that fall under their guard limit, however the timetable is written."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.home.rooms import Room
from warmeter.service.outlook import DayOutlook

# A thermostat's band alone lets a room lie half of it under the limit; so far more is no ripple [K].
MARGIN_K = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class UnderGuard:
    """A room that is predicted to fall under its guard limit: how low, from which minute on, and how likely (ratio)."""

    room: Room
    limit_c: float
    lowest_c: float
    minute: int
    share: float


def dangers_of(outlook: DayOutlook) -> tuple[UnderGuard, ...]:
    """Return the rooms of a day that fall under their guard limit in the best estimate or in one draw of twenty.

    Damp is not meant here: it raises the limit for comfort; what freezes or harms people is the home's own number.
    """
    found = []
    for room in outlook.rooms:
        limit = outlook.home.guard_of(room.zone).low_c
        end = room.begin + outlook.minutes + 1
        border = limit - room.model.control.band_k / 2 - MARGIN_K
        air = room.day.run.air_c[:, room.begin : end]
        is_under = air.min(axis=1) < border
        share = float(is_under.mean())
        if is_under[0] or share >= 0.05:
            worst = air[0] if is_under[0] else air[int(np.argmin(air.min(axis=1)))]
            found.append(
                UnderGuard(
                    room=room.room,
                    limit_c=limit,
                    lowest_c=float(worst.min()),
                    minute=int(np.argmax(worst < border)),
                    share=share,
                )
            )
    return tuple(found)
