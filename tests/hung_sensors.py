"""A stand-in room with a sensor that hangs well or badly: on/off heating, sun that warms the air, airing, people."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats
from warmeter.core.sensing.placement import PlacementLog, SpoiltBy

STEP_MIN, STEPS_A_DAY = 5.0, 288


@dataclass(frozen=True, slots=True, kw_only=True)
class Hung:
    """A log, and the hours that the planted cause really spoils by more than half a kelvin."""

    log: PlacementLog
    spoilt_h: float


def hung(seed: int, cause: SpoiltBy | None = None, *, beside: bool = False, days: int = 21) -> Hung:
    """Return a winter's log of a sensor that hangs badly in one way, or well; ``beside`` another one that hangs well."""
    rng = np.random.default_rng(seed)
    size = days * STEPS_A_DAY
    hour, day = np.arange(size) / 12 % 24, np.arange(size) // STEPS_A_DAY
    outdoor = 3 + 4 * np.sin(2 * np.pi * (hour - 9) / 24) + np.repeat(rng.normal(0, 3, days), STEPS_A_DAY)
    clear = np.repeat(rng.random(days) < 0.6, STEPS_A_DAY)
    lit = (hour >= 12.5) & (hour < 15.5)
    air, wall = 19.0, 18.0
    room, heating, opened = np.empty(size), np.zeros(size), np.zeros(size)
    on, airing = False, set(rng.choice(days, days // 3, replace=False).tolist())
    power, store = float(rng.uniform(900, 1800)), float(rng.uniform(8e5, 2e6))
    for k in range(size):
        asked = 21.0 if 6 <= hour[k] < 22 else 17.0
        on = air < asked - 0.3 if not on else air < asked + 0.3
        opened[k] = 1.0 if int(day[k]) in airing and 7.5 <= hour[k] < 7.75 else 0.0
        sun = 500.0 * clear[k] * lit[k]
        people = 100.0 if 18 <= hour[k] < 22 else 0.0
        leak = 25.0 + 300.0 * opened[k]
        flow = power * on + sun + people + leak * (outdoor[k] - air) + 150.0 * (wall - air)
        air += flow * 300 / store
        wall += (150.0 * (air - wall) + 40.0 * (outdoor[k] - wall)) * 300 / 5e6
        room[k], heating[k] = air, float(on)
    extra = _planted(rng, cause, hour, clear & lit, heating, room, outdoor, days)
    sensor = room + extra
    if cause == "stale":
        for begin in rng.choice(days - 1, 4, replace=False) * STEPS_A_DAY + 60:
            sensor[begin : begin + 144] = sensor[begin]
    read = np.round(sensor + rng.normal(0, 0.03, size), 1)
    if cause == "stale":
        still = np.append(False, np.diff(sensor) == 0)
        for k in np.flatnonzero(still).tolist():
            read[k] = read[k - 1]
    return Hung(
        log=PlacementLog(
            step_min=STEP_MIN,
            sensor_c=read,
            others_c=np.round(room + rng.normal(0, 0.05, size), 1) if beside else np.full(size, np.nan),
            outdoor_c=outdoor,
            heating=heating,
            is_sunlit=lit,
            is_open=opened,
            day=day.astype(np.int64),
        ),
        spoilt_h=float((np.abs(extra) > 0.5).sum()) * STEP_MIN / 60,
    )


def _planted(
    rng: np.random.Generator,
    cause: SpoiltBy | None,
    hour: Floats,
    sun: Flags,
    heating: Floats,
    room: Floats,
    outdoor: Floats,
    days: int,
) -> Floats:
    """Return by how much the sensor reads off the room's air [K]."""
    size = hour.size
    if cause == "sun":
        return _lagged(np.where(sun & (hour >= 13) & (hour < 14.5), rng.uniform(4, 9), 0.0), 8.0)
    if cause == "heater":
        return _lagged(heating * float(rng.uniform(2.5, 5)), 10.0)
    if cause == "outside_wall":
        return -float(rng.uniform(0.06, 0.12)) * (room - outdoor)
    extra = np.zeros(size)
    if cause == "hand":
        for begin in rng.choice(size - 100, 5, replace=False).tolist():
            extra[begin : begin + 2] = rng.uniform(3, 6)
        return _lagged(extra, 8.0)
    if cause == "draught":
        for begin in (rng.choice(days, days // 2, replace=False) * STEPS_A_DAY + rng.integers(100, 250)).tolist():
            extra[begin : begin + 3] = -rng.uniform(3, 5)
        return _lagged(extra, 6.0)
    return extra


def _lagged(values: Floats, lag_min: float) -> Floats:
    """Return values as a sensor with a lag follows them."""
    out, share = np.zeros(values.size), 1 - np.exp(-STEP_MIN / lag_min)
    for k in range(1, values.size):
        out[k] = out[k - 1] + share * (values[k] - out[k - 1])
    return out
