"""Pre-heats in a zone's timetable: laid on their dates alone, and lifted again."""

from collections.abc import Sequence
from datetime import date, timedelta
from itertools import pairwise

from warmeter.core.edits.timetable_edits import with_new_block, with_points, with_timetable
from warmeter.core.home.document import Home
from warmeter.core.home.preheats import PreheatBlock
from warmeter.core.home.timetables import ChangePoint
from warmeter.core.home.zones import Zone
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import carried_into, written_on
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.timetable.points import held_at, tidy
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H


def with_preheats(home: Home, zone_id: str, clock: LocalClock, blocks: Sequence[PreheatBlock]) -> Home:
    """Return a home with pre-heats laid into a zone's timetable, each written for its date alone.

    A block over midnight is laid as one on each date. What held at its end holds again after it.
    """
    for block in blocks:
        for on, begin, end in _by_date(clock, block):
            zone = home.zone_of_id(zone_id)
            points, before = written_on(home, zone, on).points, carried_into(home, zone, on)[2]
            edges = [begin, *(point.start_min for point in points if begin < point.start_min < end), end]
            for start, until in pairwise(edges):
                held = held_at(points, start, before)
                if _goes_beyond(home, zone, held, block):
                    home = with_new_block(home, zone_id, on, _point(block, held, start), until, "date")
    return home


def _goes_beyond(home: Home, zone: Zone, held: ChangePoint, block: PreheatBlock) -> bool:
    """Return whether a pre-heat asks for more than what holds anyway."""
    if block.setpoint_c is not None:
        return block.setpoint_c > setpoint_of(home, zone, held) + 1e-9
    limit = home.cooling_c(zone, held.level_id) if held.own_cooling_c is None else held.own_cooling_c
    return limit is None or (block.cooling_c is not None and block.cooling_c < limit - 1e-9)


def _point(block: PreheatBlock, held: ChangePoint, start_min: int) -> ChangePoint:
    return ChangePoint(
        start_min=start_min,
        level_id=held.level_id,
        own_setpoint_c=held.own_setpoint_c if block.setpoint_c is None else block.setpoint_c,
        own_cooling_c=block.cooling_c,
        is_preheat=True,
    )


def _by_date(clock: LocalClock, block: PreheatBlock) -> list[tuple[date, int, int]]:
    """Return a block's parts: date, first minute, and minute after the last of its wall clock."""
    begin, end = clock.local(block.from_ms), clock.local(block.until_ms)
    found, on, minute = [], begin.date(), begin.hour * MIN_PER_H + begin.minute
    while on < end.date():
        found.append((on, minute, MIN_PER_DAY))
        on, minute = on + timedelta(days=1), 0
    last = end.hour * MIN_PER_H + end.minute
    if last > minute:
        found.append((on, minute, last))
    return found


def without_preheats(home: Home, zone_id: str, on: date) -> Home:
    """Return a home without the pre-heats written for one date of a zone."""
    zone = home.zone_of_id(zone_id)
    day = written_on(home, zone, on)
    if day.key != on.isoformat() or not any(point.is_preheat for point in day.points):
        return home
    before = carried_into(home, zone, on)[2]
    kept = tidy((before, *(point for point in day.points if not point.is_preheat)))[1:]
    return with_timetable(home, zone, with_points(day.timetable, day.key, kept))
