"""The newest values of a home that is linked live, each by its quantity and what it belongs to."""

from collections.abc import Mapping
from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.units import MS_PER_H, to_stored
from warmeter.service.app import App

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
    """Return the newest values of what came in and is not yet laid into day chunks."""
    records = {series.id: series.record for series in app.readings.series(home.id)}
    values: dict[tuple[str, str], LatestValue] = {}
    for series_id, latest in app.live_readings.latest(home.id).items():
        record = records.get(series_id)
        if record is None or record.kind in ("counter", "sum", "daily"):
            continue
        key = record.quantity, record.subject
        value = LatestValue(
            at_ms=latest.at_ms,
            value=to_stored(latest.value, quantity=record.quantity, unit=record.unit),
            real_ms=latest.real_ms,
        )
        if key not in values or value.at_ms > values[key].at_ms:
            values[key] = value
    valves = {d.id for d in home.devices if d.drives_id is not None}
    sensors = {
        room.id: tuple(d.id for d in home.devices_in(room.id) if d.id not in valves or "room_temperature" in d.measures)
        for room in home.rooms
    }
    return LatestValues(values=values, sensors=sensors)
