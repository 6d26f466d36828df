"""Guard limits against mould, worked out from the humidity that was heard."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from warmeter.core.building.damp import DampLimit, damp_limit
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.units import MS_PER_DAY, MS_PER_H
from warmeter.service.app import App
from warmeter.service.readings.room_logs import instants, room_series, series_of

MONTH_DAYS = 30
LEAST_HOURS = 48


def damp_limits(app: App, home: Home) -> dict[str, DampLimit]:
    """Return the least temperature against mould of each zone, from its dampest room that has humidity readings.

    Means over the last thirty days or what there is of them, two days at least.
    """
    end = app.as_of_ms(home.id) // MS_PER_H * MS_PER_H
    at = np.arange(end - MONTH_DAYS * MS_PER_DAY, end + 1, MS_PER_H, dtype=np.int64)
    found: dict[str, DampLimit] = {}
    damp = {s.record.subject for s in app.readings.series(home.id) if s.record.quantity == "relative_humidity"}
    if not damp:
        return found
    outdoor = instants(app, home, series_of(app, home.id, "outdoor_temperature", ""), at)
    for zone in home.zones:
        for room in (home.room(key) for key in zone.room_ids):
            humidity = instants(app, home, room_series(app, home, "relative_humidity", room.id), at)
            air = instants(app, home, room_series(app, home, "room_temperature", room.id), at)
            heard = ~np.isnan(humidity) & ~np.isnan(air) & ~np.isnan(outdoor)
            if heard.sum() < LEAST_HOURS:
                continue
            limit = damp_limit(
                home,
                room,
                indoor_c=float(air[heard].mean()),
                rh=float(humidity[heard].mean()) / 100,
                outdoor_c=float(outdoor[heard].mean()),
            )
            if limit is not None and (zone.id not in found or limit.low_c > found[zone.id].low_c):
                found[zone.id] = limit
    return found


def guarded_home(home: Home, limits: Mapping[str, DampLimit]) -> Home:
    """Return a home whose zones' lower guard limits are no lower than those against mould."""
    return replace(home, zones=tuple(_raised(home, zone, limits.get(zone.id)) for zone in home.zones))


def _raised(home: Home, zone: Zone, limit: DampLimit | None) -> Zone:
    guard = home.guard_of(zone)
    if limit is None or limit.low_c <= guard.low_c or limit.low_c >= guard.high_c:
        return zone
    return replace(zone, guard=replace(guard, low_c=limit.low_c))
