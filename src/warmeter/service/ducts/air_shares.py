"""Shares of the air by the rooms' own logs."""

import numpy as np

from warmeter.core.building.room_envelope import floor_area_m2
from warmeter.core.ducts.learnt_shares import LearntShares, learnt_shares
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, S_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import instants, room_series

MOST_DAYS = 14
_SHARES: "Cache[LearntShares | NotKnowable]" = Cache(32)


def air_shares(app: App, home: Home, system: DuctSystem) -> LearntShares:
    """Return the shares of the air of a system's rooms, in the order of ``room_ids``, from its newest days.

    Raises
    ------
    NotKnowable
        If a room's temperature or the burner's work was not imported, or they tell too little.
    """
    key = str(app.engine.url), home, system.id, app.readings.import_stamp(home.id)

    def made() -> LearntShares | NotKnowable:
        try:
            return _learnt(app, home, system)
        except NotKnowable as error:
            return error

    found = _SHARES.get(key, made)
    if isinstance(found, NotKnowable):
        raise found
    return found


def _learnt(app: App, home: Home, system: DuctSystem) -> LearntShares:
    rooms = [home.room(key) for key in system.room_ids]
    inside = {room.id: room_series(app, home, "room_temperature", room.id) for room in rooms}
    missing = [room.name for room in rooms if not inside[room.id]]
    leading = system.thermostat_room_id or ""
    works = room_series(app, home, "heating_state", leading) if leading else []
    if missing or not works:
        what = [f"the temperature of {', '.join(missing)}"] if missing else []
        what += [] if works else ["when the burner works (the thermostat's heating state)"]
        raise NotKnowable(f"Not imported: {' and '.join(what)}.", "Import it.")
    used = [*works, *(series for own in inside.values() for series in own[:1])]
    step_min = max(1, round(max(s.record.step_s for s in used[1:]) / S_PER_MIN))
    spans = [app.readings.span(s.id) for s in used]
    last = min(high for _, high in spans)
    first = max(max(low for low, _ in spans), last - MOST_DAYS * MS_PER_DAY)
    if first >= last:
        raise NotKnowable("The logs of its rooms and of its burner share no time.", "Import those of one stretch.")
    grid = np.arange(first, last + 1, step_min * MS_PER_MIN, dtype=np.int64)
    room_c = np.stack([instants(app, home, inside[room.id], grid) for room in rooms])
    state = instants(app, home, works, grid)
    heating = np.where(np.isnan(state), np.nan, (state == 1).astype(np.float64))
    volume = np.array([floor_area_m2(home, room) * room.height_m for room in rooms])
    return learnt_shares(room_c, heating, volume, float(step_min))
