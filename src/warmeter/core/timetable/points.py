"""Edits of one written day's change points; a day may begin with what the day before leaves."""

from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.timetables import ChangePoint, Points
from warmeter.core.units import MIN_PER_DAY


def _known(points: Points, index: int) -> None:
    if not 0 <= index < len(points):
        raise HomeError("there is no such period any more")


def move_edge(points: Points, index: int, start_min: int) -> Points:
    """Return a day with the start of block ``index`` moved, kept clear of its neighbours.

    Raises
    ------
    HomeError
        If there is no such block.
    """
    _known(points, index)
    low = points[index - 1].start_min + 1 if index else 0
    high = (points[index + 1].start_min if index + 1 < len(points) else MIN_PER_DAY) - 1
    moved = replace(points[index], start_min=min(max(start_min, low), high))
    return (*points[:index], moved, *points[index + 1 :])


def set_block(points: Points, index: int, *, level_id: str, own_setpoint_c: float | None) -> Points:
    """Return a day with block ``index`` given a level and, or not, a setpoint of its own."""
    _known(points, index)
    changed = replace(points[index], level_id=level_id, own_setpoint_c=own_setpoint_c)
    return (*points[:index], changed, *points[index + 1 :])


def split_at(points: Points, at_min: int, held_before: ChangePoint) -> Points:
    """Return a day with the block that holds a minute split there; both halves as before.

    ``held_before`` holds before the day's first point.

    Raises
    ------
    HomeError
        If a block begins at that minute, or it lies outside the day.
    """
    if not 0 <= at_min < MIN_PER_DAY or any(point.start_min == at_min for point in points):
        raise HomeError("a period can only be split inside itself")
    return _sorted((*points, replace(held_at(points, at_min, held_before), start_min=at_min)))


def merge_block(points: Points, index: int) -> Points:
    """Return a day without block ``index``: the one before it goes on, the first one's from the day before.

    Raises
    ------
    HomeError
        If there is no such block.
    """
    _known(points, index)
    return (*points[:index], *points[index + 1 :])


def held_at(points: Points, minute: int, held_before: ChangePoint) -> ChangePoint:
    """Return the change point in force at a minute of a day."""
    return next((point for point in reversed(points) if point.start_min <= minute), held_before)


def with_block(points: Points, held_before: ChangePoint, block: ChangePoint, end_min: int) -> Points:
    """Return a day with a block laid from its start to ``end_min``; what held at its end holds again after it.

    Parameters
    ----------
    end_min : int
        Minute of the day, up to 1440; at 1440 the day ends with the block.

    Raises
    ------
    HomeError
        If the block does not end after it begins.
    """
    if not block.start_min < end_min <= MIN_PER_DAY:
        raise HomeError("a period must end after it begins; over midnight it ends on the next day")
    after = held_at(points, end_min, held_before)
    kept = tuple(p for p in points if not block.start_min <= p.start_min < end_min)
    if end_min < MIN_PER_DAY and not any(p.start_min == end_min for p in kept):
        kept = (*kept, replace(after, start_min=end_min))
    return _sorted((*kept, block))


def with_tail(points: Points, held_before: ChangePoint, end_min: int) -> Points:
    """Return a day whose beginning, up to ``end_min``, is left to the block that runs into it over midnight."""
    kept = tuple(p for p in points if p.start_min >= end_min)
    if any(p.start_min == end_min for p in kept):
        return kept
    return _sorted((*kept, replace(held_at(points, end_min, held_before), start_min=end_min)))


def tidy(points: Points) -> Points:
    """Return a day without change points that change nothing."""
    found: list[ChangePoint] = []
    for point in points:
        if not found or replace(point, start_min=found[-1].start_min) != found[-1]:
            found.append(point)
    return tuple(found)


def _sorted(points: Points) -> Points:
    return tuple(sorted(points, key=lambda point: point.start_min))
