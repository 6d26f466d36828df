"""What a zone's counted sensors say now: the value that stands for the zone, and how many sensors enter it (D2)."""

import numpy as np

from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Sensing
from warmeter.core.sensing.calibration import SensorValue, counted
from warmeter.core.units import MS_PER_H
from warmeter.service.app import App
from warmeter.service.rules.rule_signals import track_of

FRESH_S = 3600.0  # a reading older than this counts no more


def counted_now(app: App, home: Home, sensing: Sensing) -> tuple[float | None, int]:
    """Return (what a rule's sensors say at the home's "as of" [°C], number that enter); (None, 0) if none is fresh."""
    now = app.as_of_ms(home.id)
    values: list[SensorValue] = []
    told: set[str] = set()
    for sensor in sensing.sensors:
        device = next((d for d in home.devices if d.id == sensor.device_id and d.is_in_service), None)
        if device is None:
            continue
        # A log told for the room stands for the first of its sensors that has none of its own.
        heard = (device.id, *([device.room_id] if device.room_id and device.room_id not in told else []))
        found = ((key, _last(app, home, Signal(quantity="room_temperature", subject_id=key), now)) for key in heard)
        key, last = next(((key, report) for key, report in found if report is not None), ("", None))
        told.add(key)
        if last is not None:
            is_in = _last(app, home, Signal(quantity="is_in", subject_id=device.room_id), now)
            values.append(
                SensorValue(
                    value=last[1],
                    age_s=(now - last[0]) / 1000,
                    weight=sensor.weight,
                    is_occupied=is_in is not None and is_in[1] >= 0.5,
                )
            )
    return counted(values, sensing.rule, max_age_s=FRESH_S)


def _last(app: App, home: Home, signal: Signal, now_ms: int) -> tuple[int, float] | None:
    """Return the last report of a signal within a day (instant [ms UTC], value); None without one."""
    track = track_of(app, home, signal, now_ms - 24 * MS_PER_H, now_ms + 1)
    heard = np.flatnonzero((track.at_ms <= now_ms) & ~np.isnan(track.value))
    return (int(track.at_ms[heard[-1]]), float(track.value[heard[-1]])) if heard.size else None
