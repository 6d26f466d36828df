"""A day's change points as blocks and claims on the home's clock, and edits of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from warmeter.core.claims.arbiter import Claim, Decision, Guard, decisions
from warmeter.core.errors import HomeError
from warmeter.core.home.document import DAY_MIN, Home
from warmeter.core.home.zones import ChangePoint, Zone
from warmeter.core.timegrid import LocalClock, LocalDay


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """A stretch of one day with its level and setpoint.

    Parameters
    ----------
    index : int
        Place among the day's change points.
    start_min, end_min : int
        By the wall clock [min].
    from_ms, until_ms : int
        In real time [ms UTC].
    level_name : str
        Its level.
    setpoint_c : float
        Asked, before the guard [°C].
    is_own : bool
        Whether the setpoint is the block's own.
    """

    index: int
    start_min: int
    end_min: int
    from_ms: int
    until_ms: int
    level_name: str
    setpoint_c: float
    is_own: bool


def blocks_of(home: Home, zone: Zone, day: LocalDay, clock: LocalClock) -> list[Block]:
    """Return a zone's blocks on a local day; blocks that the clock skips whole are left out."""
    ends = [point.start_min for point in zone.day[1:]] + [DAY_MIN]
    blocks = []
    for index, (point, end) in enumerate(zip(zone.day, ends, strict=True)):
        from_ms = day.start_ms if point.start_min == 0 else clock.instant(day.date, point.start_min)
        until_ms = day.end_ms if end == DAY_MIN else clock.instant(day.date, end)
        if until_ms <= from_ms:
            continue
        level = home.level(point.level_id)
        own = point.own_setpoint_c
        blocks.append(
            Block(
                index=index,
                start_min=point.start_min,
                end_min=end,
                from_ms=from_ms,
                until_ms=until_ms,
                level_name=level.name,
                setpoint_c=level.heating_c if own is None else own,
                is_own=own is not None,
            )
        )
    return blocks


def timetable_claims(blocks: Sequence[Block], leads_min: Mapping[int, float]) -> list[Claim]:
    """Return the timetable's claims; a block with a lead claims its setpoint that much earlier.

    ``leads_min`` maps a block's start [ms UTC] to its lead [min]. The timetable lays its warm-up itself.
    """
    claims = []
    for block in blocks:
        lead = leads_min.get(block.from_ms, 0.0)
        claims.append(
            Claim(
                kind="timetable",
                value=block.setpoint_c,
                from_ms=block.from_ms,
                until_ms=block.until_ms,
                reason=f"timetable: {block.level_name}",
            )
        )
        if lead > 0:
            claims.append(
                Claim(
                    kind="timetable",
                    value=block.setpoint_c,
                    from_ms=block.from_ms - round(lead) * 60_000,
                    until_ms=block.from_ms,
                    reason=f"warm-up for {block.level_name}",
                )
            )
    return claims


def setpoint_decisions(
    home: Home, blocks: Sequence[Block], leads_min: Mapping[int, float], start_ms: int, end_ms: int
) -> list[Decision]:
    """Return who decides a zone's heating setpoint over [start, end): timetable, base, guard."""
    # Where no block lies (before a home's first day), the device stays as found: its lowest level.
    base = Claim(
        kind="base",
        value=min(level.heating_c for level in home.levels),
        from_ms=start_ms,
        until_ms=end_ms,
        reason="as found",
    )
    guard = Guard(low=home.guard.low_c, high=home.guard.high_c)
    return decisions(timetable_claims(blocks, leads_min), base, guard, start_ms, end_ms)


def move_edge(points: Sequence[ChangePoint], index: int, start_min: int) -> tuple[ChangePoint, ...]:
    """Return a day with the start of block ``index`` moved, kept clear of its neighbours.

    Raises
    ------
    HomeError
        If it is the first block, which begins the day, or does not exist.
    """
    if not 0 < index < len(points):
        raise HomeError("the first block begins the day; its start cannot be moved")
    low = points[index - 1].start_min + 1
    high = (points[index + 1].start_min if index + 1 < len(points) else DAY_MIN) - 1
    moved = replace(points[index], start_min=min(max(start_min, low), high))
    return (*points[:index], moved, *points[index + 1 :])


def set_block(
    points: Sequence[ChangePoint], index: int, *, level_id: str, own_setpoint_c: float | None
) -> tuple[ChangePoint, ...]:
    """Return a day with block ``index`` given a level and, or not, a setpoint of its own."""
    if not 0 <= index < len(points):
        raise HomeError("there is no such block")
    changed = replace(points[index], level_id=level_id, own_setpoint_c=own_setpoint_c)
    return (*points[:index], changed, *points[index + 1 :])


def split_block(points: Sequence[ChangePoint], index: int, at_min: int) -> tuple[ChangePoint, ...]:
    """Return a day with block ``index`` split at a minute inside it; both halves as before.

    Raises
    ------
    HomeError
        If the minute does not lie inside the block.
    """
    end = points[index + 1].start_min if index + 1 < len(points) else DAY_MIN
    if not points[index].start_min < at_min < end:
        raise HomeError("a block can only be split inside itself")
    return (*points[: index + 1], replace(points[index], start_min=at_min), *points[index + 1 :])


def merge_block(points: Sequence[ChangePoint], index: int) -> tuple[ChangePoint, ...]:
    """Return a day without block ``index``: the one before it goes on.

    Raises
    ------
    HomeError
        If it is the first block.
    """
    if not 0 < index < len(points):
        raise HomeError("the first block has none before it to merge with")
    return (*points[:index], *points[index + 1 :])
