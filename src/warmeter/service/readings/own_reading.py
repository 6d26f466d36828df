"""A device's own reading of the room against another sensor's there, from the logs of both."""

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.heating import full_heat_w, typed_step_k
from warmeter.core.errors import NotKnowable
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.sensing.own_offset import OwnOffset, own_offset
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H, MS_PER_MIN, S_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import instants, means, room_series, series_of

STEP_MIN, MOST_DAYS = 10, 60
WORKING_SHARE, OPEN_PCT = 0.05, 3.0
_OFFSETS: Cache[OwnOffset | None] = Cache(64)


def own_reading(app: App, home: Home, device: Device) -> OwnOffset | None:
    """Return how far a device's own reading lies off its room; None where it sends none or nothing else measures there."""
    if device.room_id is None:
        return None
    stamp = app.readings.import_stamp(home.id)
    key = str(app.engine.url), home.id, device, home.time_zone, home.devices, home.heaters, home.temperature_unit, stamp
    return _OFFSETS.get(key, lambda: _found(app, home, device, device.room_id or ""))


def _found(app: App, home: Home, device: Device, room_id: str) -> OwnOffset | None:
    own = series_of(app, home.id, "room_temperature", device.id)
    valves = {each.id for each in home.devices if each.kind == "radiator_valve"}
    others = [
        s
        for s in room_series(app, home, "room_temperature", room_id)
        if s.record.subject != device.id and s.record.subject not in valves
    ]
    if not own or not others:
        return None
    spans = [app.readings.span(s.id) for s in own]
    last = max(high for _, high in spans)
    first = max(min(low for low, _ in spans), last - MOST_DAYS * MIN_PER_DAY * MS_PER_MIN)
    at = np.arange(first, last + 1, STEP_MIN * MS_PER_MIN, dtype=np.int64)
    day, minute = app.clock(home).local_minutes(at)
    over = _over_rest(app, home, device, room_id, at)
    try:
        return own_offset(
            instants(app, home, own, at),
            instants(app, home, others, at),
            over > 0,
            over <= 0,
            day,
            (minute // MIN_PER_H).astype(np.int64),
            step_h=STEP_MIN / MIN_PER_H,
            typed_step_k=typed_step_k(home, room_id),
        )
    except NotKnowable:
        return None


def _over_rest(app: App, home: Home, device: Device, room_id: str, at: Ints) -> Floats:
    """Return how far the valve's opening [%], else the room's heat [W], lies over what counts as rest; NaN where unknown."""
    opening = series_of(app, home.id, "valve_opening", device.id)
    if opening:
        return instants(app, home, opening, at) - OPEN_PCT
    given = series_of(app, home.id, "heat_w", room_id)
    heat = means(app, given, int(at[0]), float(STEP_MIN * S_PER_MIN), at.size)
    return heat - WORKING_SHARE * full_heat_w(home, room_id)
