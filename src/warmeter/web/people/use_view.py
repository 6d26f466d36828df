"""When a room is really used, drawn by kind of day, beside what its blocks and the timetable in force get wrong."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.edits.people_commands import stretches_text
from warmeter.core.home.document import Home
from warmeter.core.presence.room_days import TimetableMisses
from warmeter.core.presence.room_outcomes import PROFILE, ProfileProposal
from warmeter.core.units import MIN_PER_DAY
from warmeter.core.wording import clock_time
from warmeter.web import format as show

LEFT, LANE, TOP = 92, 74, 18
STILL_SHARE = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class UseLane:
    """A kind of day: share of days by slot with its range as paths [px], blocks, and what they would get wrong."""

    key: str
    name: str
    days: str
    y: int
    share: str
    band: str
    blocks: list[tuple[float, float, str]]
    block_words: str
    stretches: str
    still: str
    proposed: str
    in_force: str
    can_be_taken: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class UseView:
    """All kinds of day of a room."""

    width: int
    height: int
    hours: list[tuple[float, str]]
    lanes: list[UseLane]


def use_view(home: Home, proposals: list[ProfileProposal], width: int) -> UseView:
    """Return a room's profile for a width [px]."""
    inner = width - LEFT - 12

    def x(minute: float) -> float:
        return round(LEFT + inner * minute / MIN_PER_DAY, 1)

    lanes = [_lane(home, each, TOP + LANE * place, x) for place, each in enumerate(proposals)]
    return UseView(
        width=width,
        height=TOP + LANE * len(lanes) + 4,
        hours=[(x(60.0 * hour), f"{hour:02d}") for hour in range(0, 25, 3)],
        lanes=lanes,
    )


def _misses(found: TimetableMisses | None) -> str:
    """Return what a timetable gets wrong a week, "" where it is not known."""
    if found is None:
        return ""
    return (
        f"{show.number(found.cold_min_week)} min cold while there, {show.number(found.warm_h_week, 1)} h warm while not"
    )


def _lane(home: Home, each: ProfileProposal, top: int, x: Callable[[float], float]) -> UseLane:
    """Return the lane of a kind of day."""
    profile = each.profile
    middles = (np.arange(profile.share.size) + 0.5) * PROFILE.slot_min

    def line(values: Floats) -> list[str]:
        known = np.nan_to_num(values)
        heights = top + LANE - 16 - (LANE - 24) * np.clip(known, 0.0, 1.0)
        return [f"{x(m)} {h:.1f}" for m, h in zip(middles.tolist(), heights.tolist(), strict=True)]

    blocks = [(x(b), round(x(u) - x(b), 1), f"{clock_time(b)} to {clock_time(u)}") for b, u in profile.blocks_min]
    return UseLane(
        key=each.key,
        name=each.name,
        days=f"{int(profile.days.max()) if profile.days.size else 0} days",
        y=top,
        share="M" + "L".join(line(profile.share)),
        band="M" + "L".join([*line(profile.low), *reversed(line(profile.high))]) + "Z",
        blocks=blocks,
        block_words=", ".join(words for _, _, words in blocks) or "nothing that comes often enough",
        stretches=stretches_text(profile.blocks_min),
        still="people mostly keep still there" if each.still >= STILL_SHARE else "people mostly move there",
        proposed=_misses(each.proposed),
        in_force=_misses(each.in_force),
        can_be_taken=each.proposed is not None and any(k.id == each.key for k in home.day_kinds),
    )
