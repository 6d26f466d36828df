"""Guard limits against mould, worked out from the humidity that was heard."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from warmeter.core.building.damp import CORNER_FACTOR, DampLimit, damp_limit
from warmeter.core.claims.arbiter import Guard
from warmeter.core.figure import Figure, Input
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


def damp_guard(limit: DampLimit) -> Guard:
    """Return a limit against mould as the arbiter takes it."""
    return Guard(low=limit.low_c, reason=f"mould, worked out from the humidity of {limit.room.name}", id="mould")


def damp_figure(limit: DampLimit) -> Figure:
    """Return how a limit against mould was worked out."""
    return Figure(
        key=f"damp.{limit.room.id}",
        title=f"Guard against mould, {limit.room.name}",
        unit="°C",
        value=limit.low_c,
        decimals=1,
        formula="θlow = θe + (θsi − θe)/f; θsi from φ·p(θi)/0.8",
        substituted=(
            f"{limit.outdoor_c:.1f} + ({limit.surface_c:.1f} − {limit.outdoor_c:.1f})/{limit.factor:.2f} = {limit.low_c:.1f}"
        ).replace("-", "−"),
        inputs=(
            Input(symbol="θi", name="room, mean", value=limit.indoor_c, unit="°C", decimals=1, origin="measured"),
            Input(symbol="φ", name="humidity, mean", value=100 * limit.rh, unit="%", decimals=0, origin="measured"),
            Input(symbol="θe", name="outdoor, mean", value=limit.outdoor_c, unit="°C", decimals=1, origin="measured"),
            Input(symbol="U", name=limit.element, value=limit.u_w_m2k, unit="W/(m² K)", decimals=2, origin="surveyed"),
            Input(symbol="f", name="factor of a corner", value=limit.factor, unit="", decimals=2, origin="surveyed"),
        ),
        method="D8 mould at a surface by 80 %",
        note=(
            f"A corner with furniture is taken {CORNER_FACTOR:g} below the plain element. 80 % counts as a monthly mean: "
            "one wet evening is no mould season. Any mould: find the water first."
        ),
    )
