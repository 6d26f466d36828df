"""Switching worked out step by step, as a device does it: hysteresis (J1), waiting (J2), minimum times (J3)."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import isnan
from typing import Literal

from warmeter.core.errors import OutOfRange


@dataclass(frozen=True, slots=True)
class Change:
    """On or off from an instant on [s]."""

    at_s: int
    is_on: bool


def two_step(
    values: Sequence[float], *, low: float, high: float, mode: Literal["heat", "cool"], is_on: bool
) -> list[bool]:
    """Return the state after each value (J1): heat is on at or below ``low``, off at or above ``high``; cool turned round.

    A value that is not known keeps the state.

    Raises
    ------
    OutOfRange
        If ``low`` lies above ``high``.
    """
    if low > high:
        raise OutOfRange("lower limit", low, float("-inf"), high)
    states = []
    for value in values:
        if not isnan(value):
            if value <= low:
                is_on = mode == "heat"
            elif value >= high:
                is_on = mode == "cool"
        states.append(is_on)
    return states


def debounced(changes: Sequence[Change], *, for_true_s: int, for_false_s: int, end_s: int) -> list[Change]:
    """Return when a condition becomes active and is released, each after holding all through its time (J2).

    Changes in rising order; before the first it is false. A change at the very end of a time comes first, a
    repeat of the same value restarts nothing, and at ``end_s`` nothing is due any more that ends after it.
    """
    found: list[Change] = []
    value, since, is_active = False, 0, False
    for change in [*changes, None]:
        until = end_s + 1 if change is None else change.at_s
        due = since + (for_true_s if value else for_false_s)
        if value != is_active and due < until:
            is_active = value
            found.append(Change(due, value))
        if change is not None and change.is_on != value:
            value, since = change.is_on, change.at_s
    return [change for change in found if change.at_s <= end_s]


def with_minimum_times(
    requests: Sequence[Change], *, min_on_s: int, min_off_s: int, last_change_s: int, is_on: bool, end_s: int
) -> list[Change]:
    """Return what is carried out of requests (J3): a change waits until the present state has lasted long enough.

    The request valid then counts.
    """
    found: list[Change] = []
    wanted, last = is_on, last_change_s
    for request in [*requests, None]:
        until = end_s + 1 if request is None else request.at_s
        due = last + (min_on_s if is_on else min_off_s)
        if wanted != is_on and due < until:
            # Asked earlier, allowed only now.
            is_on, last = wanted, due
            found.append(Change(due, is_on))
        if request is None:
            break
        wanted = request.is_on
        due = last + (min_on_s if is_on else min_off_s)
        if wanted != is_on and due <= request.at_s:
            is_on, last = wanted, request.at_s
            found.append(Change(request.at_s, is_on))
    return [change for change in found if change.at_s <= end_s]
