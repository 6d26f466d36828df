"""The wait proposed for a room from its own log: who was there is judged looking back, by every witness."""

from collections.abc import Sequence

import numpy as np

from warmeter.core.arrays import true_runs
from warmeter.core.presence.idle_time import IdlePrices, IdleTime, idle_time
from warmeter.core.presence.room_presence import RoomPresence
from warmeter.core.presence.room_use import RoomSensor
from warmeter.core.truth.truth import Stretches
from warmeter.core.units import J_PER_KWH, MS_PER_DAY, MS_PER_MIN, S_PER_H, WEEKS_A_YEAR

WAITS_S = tuple(range(0, 3601, 30))
# What an ideal sensor would still take to notice that nobody is there any more.
IDEAL_S = 60
LIKELY = 0.5


def likely_use(room: RoomPresence) -> Stretches:
    """Return when somebody was there, looking back from both sides, from the start of the log on [ms]."""
    begin, past = true_runs(room.probability.looking_back >= LIKELY)
    return begin * MS_PER_MIN, past * MS_PER_MIN


def room_idle_time(
    room: RoomPresence, sensors: Sequence[RoomSensor], prices: IdlePrices, *, start_ms: int, end_ms: int
) -> IdleTime:
    """Return what each wait after a room's sensors comes to over [start, end).

    References
    ----------
    docs/methods Q1; as truth stands what all witnesses come to, not the sensor by itself.
    """
    return idle_time(
        [from_start(sensor, start_ms) for sensor in sensors],
        likely_use(room),
        WAITS_S,
        prices,
        end_ms=end_ms - start_ms,
    )


def from_start(sensor: RoomSensor, start_ms: int) -> RoomSensor:
    """Return a sensor with its times counted from a start [ms]; what it said before counts at the start."""
    at = np.maximum(sensor.at_ms - start_ms, 0)
    return RoomSensor(
        at_ms=at, says=sensor.says, hold_ms=sensor.hold_ms, sends_off=sensor.sends_off, stale_ms=sensor.stale_ms
    )


def can_be_judged(room: RoomPresence) -> bool:
    """Return whether anything but the room's own motion bears on it: what people pass, a bed, a machine, its presence."""
    return room.probability.is_passing_seen or any(
        name not in ("motion", "home out") for name in room.probability.names
    )


def better_sensor_a_year(found: IdleTime, room: RoomPresence, prices: IdlePrices, *, length_ms: int) -> float:
    """Return what a sensor that sees whoever keeps still would spare at most a year, against the proposed wait.

    It leaves on for a minute after each leaving, and is never wrong.
    """
    begin, _ = likely_use(room)
    weeks = length_ms / (7 * MS_PER_DAY)
    wasted_h = begin.size * IDEAL_S / S_PER_H / weeks
    ideal = wasted_h * prices.power_w * S_PER_H / J_PER_KWH * prices.per_kwh
    return max(0.0, found.best.cost_week - ideal) * WEEKS_A_YEAR
