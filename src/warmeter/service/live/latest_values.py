"""The newest values of a home that is linked live, each by its quantity and what it belongs to."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.units import MS_PER_H, to_stored
from warmeter.service.app import App
from warmeter.service.readings.room_logs import RAW, corrected

FRESH_MS = MS_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class LatestValue:
    """A value in the quantity's stored unit, of when it is [ms, home] and when it was heard [ms, machine]."""

    at_ms: int
    value: float
    real_ms: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LatestValues:
    """Newest values by quantity and subject; a room's are those of its own readings and its sensors'."""

    values: Mapping[tuple[str, str], LatestValue]
    sensors: Mapping[str, tuple[str, ...]]

    def of(self, quantity: str, subject_id: str) -> LatestValue | None:
        """Return the newest value of a part of the home, None where none came in lately."""
        subjects = (subject_id, *self.sensors.get(subject_id, ()))
        found = [self.values[quantity, each] for each in subjects if (quantity, each) in self.values]
        return max(found, key=lambda value: value.at_ms, default=None)

    def fresh(self, quantity: str, subject_id: str, now_ms: int) -> float | None:
        """Return a value that is not older than an hour, None where there is none: a restart makes nothing fresh."""
        found = self.of(quantity, subject_id)
        return None if found is None or now_ms - found.at_ms > FRESH_MS else found.value


def latest_values(app: App, home: Home) -> LatestValues:
    """Return the newest values of what came in live, set right by the calibration of their sensors."""
    known = {series.id: series for series in app.readings.series(home.id)}
    set_right = {device.id for device in home.devices if device.calibrations or device.raw is not None}
    values: dict[tuple[str, str], LatestValue] = {}
    for series_id, latest in app.live_readings.latest(home.id).items():
        series = known.get(series_id)
        if series is None or series.record.kind in ("counter", "sum", "daily"):
            continue
        record = series.record
        stored = to_stored(latest.value, quantity=record.quantity, unit=record.unit)
        if record.subject in set_right:
            stored = float(corrected(home, series, np.array([latest.at_ms]), np.array([stored]))[0])
        value = LatestValue(at_ms=latest.at_ms, value=stored, real_ms=latest.real_ms)
        key = "room_temperature" if record.quantity == RAW else record.quantity, record.subject
        if key not in values or value.at_ms > values[key].at_ms:
            values[key] = value
    valves = {d.id for d in home.devices if d.drives_id is not None}
    sensors = {
        room.id: tuple(d.id for d in home.devices_in(room.id) if d.id not in valves or "room_temperature" in d.measures)
        for room in home.rooms
    }
    return LatestValues(values=values, sensors=sensors)
