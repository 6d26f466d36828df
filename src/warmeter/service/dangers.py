"""What a home's predicted day holds that harms or cannot be had, room by room."""

from dataclasses import dataclass

from warmeter.core.home.rooms import Room
from warmeter.core.warmup.dangers import TooSmall, UnderGuard, too_small, under_guard
from warmeter.service.outlook import DayOutlook


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomDangers:
    """A room's day: under its guard limit, its minute counted from the day's start; its heater too small. Either may be None."""

    room: Room
    under: UnderGuard | None
    too_small: TooSmall | None
    begin: int


def dangers_of(outlook: DayOutlook) -> tuple[RoomDangers, ...]:
    """Return the rooms of a day that fall under their guard limit or whose heater is too small for what is asked."""
    found = []
    for room in outlook.rooms:
        end = room.begin + outlook.minutes
        under = under_guard(room.day, room.model, outlook.home.guard_of(room.zone).low_c, room.begin, end)
        small = too_small(room.day, room.model, room.stretch, room.begin, end)
        if under is not None or small is not None:
            found.append(RoomDangers(room=room.room, under=under, too_small=small, begin=room.begin))
    return tuple(found)
