"""From motion to a room in use, empty, or not known (N3)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmeter.core.arrays import Bytes, Flags, Ints
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Stretches, Truth, any_of, constant, from_stretches

Says = Literal["on", "off", "alive"]
SAYS_VALUE: dict[Says, int] = {"on": TRUE, "off": FALSE, "alive": UNKNOWN}


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomSensor:
    """A motion or presence sensor of a room.

    Parameters
    ----------
    at_ms : (report,) int array
        Reports, rising [ms UTC].
    says : (report,) int8 array
        ``TRUE`` on, ``FALSE`` off, ``UNKNOWN`` only that it is alive.
    hold_ms : int
        Its own hold: how long it stays on after the last motion [ms].
    sends_off : bool
        Whether it says off; one that does not stands for its hold after each on.
    stale_ms : int or None
        Without a report for so long it is not known [ms]; None: never.
    """

    at_ms: Ints
    says: Bytes
    hold_ms: int
    sends_off: bool
    stale_ms: int | None


def room_use(sensors: Sequence[RoomSensor], idle_ms: int, start_ms: int, end_ms: int) -> Truth:
    """Return whether a room is in use over [start, end): any sensor says so, else not known if any is, else empty.

    Parameters
    ----------
    idle_ms : int
        How long after a sensor's off the room still counts as in use [ms].

    Notes
    -----
    Without a sensor it is not known.

    References
    ----------
    docs/methods N3.
    """
    if not sensors:
        return constant(UNKNOWN, start_ms, end_ms)
    return any_of([_sensor_use(sensor, idle_ms, start_ms, end_ms) for sensor in sensors])


def on_stretches(sensor: RoomSensor, end_ms: int) -> Stretches:
    """Return when a sensor says on: to its off (or the end), or for its hold after each on, if it says no off."""
    if not sensor.sends_off:
        on = sensor.at_ms[sensor.says == TRUE]
        return on, on + sensor.hold_ms
    spoken = sensor.says != UNKNOWN
    at, says = sensor.at_ms[spoken], sensor.says[spoken]
    turns = np.append(TRUE, says[1:] != says[:-1]).astype(bool) if at.size else np.zeros(0, dtype=bool)
    at, says = at[turns], says[turns]
    until = np.append(at[1:], max(end_ms, int(at[-1]))) if at.size else at
    return at[says == TRUE], until[says == TRUE]


def on_by_minute(sensor: RoomSensor, minutes_ms: Ints, end_ms: int) -> Flags:
    """Return in which minutes, given by their beginnings [ms UTC], a sensor said on at any time and was still heard."""
    begin, until = on_stretches(sensor, end_ms)
    until = until if sensor.stale_ms is None else np.minimum(until, begin + sensor.stale_ms)
    past = np.searchsorted(minutes_ms, until, side="left")
    begin, past = begin[past > 0], past[past > 0]
    first = np.maximum(np.searchsorted(minutes_ms, begin, side="right") - 1, 0)
    depth = np.zeros(minutes_ms.size + 1, dtype=np.int64)
    np.add.at(depth, first, 1)
    np.add.at(depth, np.maximum(past, first + 1), -1)
    return np.asarray(np.cumsum(depth)[:-1] > 0)


def _sensor_use(sensor: RoomSensor, idle_ms: int, start_ms: int, end_ms: int) -> Truth:
    begin, until = on_stretches(sensor, end_ms)
    used = from_stretches(begin, until + idle_ms, start_ms, end_ms)
    if sensor.stale_ms is None:
        return used
    heard = np.unique(np.append(start_ms, sensor.at_ms[sensor.at_ms < end_ms]))
    begin, until = heard + sensor.stale_ms, np.append(heard[1:], end_ms)
    lost = from_stretches(begin[begin < until], until[begin < until], start_ms, end_ms)
    at = np.unique(np.concatenate([used.at_ms, lost.at_ms]))
    value = np.where(lost.at(at) == TRUE, UNKNOWN, used.at(at)).astype(np.int8)
    changed = np.append(True, value[1:] != value[:-1])
    return Truth(at[changed], value[changed], end_ms)
