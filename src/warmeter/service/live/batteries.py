"""When batteries will be empty, from what they told over weeks."""

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.live.device_health import BatteryEnd, battery_end
from warmeter.core.units import MS_PER_DAY, MS_PER_H
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import series_of

BACK_DAYS = 90
_KEPT: "Cache[dict[str, BatteryEnd]]" = Cache(8)


def battery_ends(app: App, home: Home, now_ms: int) -> dict[str, BatteryEnd]:
    """Return when the batteries of devices will be empty, of those of which it can be known; looked up once an hour."""
    key = (str(app.engine.url), home.id, now_ms // MS_PER_H)
    return _KEPT.get(key, lambda: _ends(app, home, now_ms))


def _ends(app: App, home: Home, now_ms: int) -> dict[str, BatteryEnd]:
    found: dict[str, BatteryEnd] = {}
    for device in home.devices:
        for series in series_of(app, home.id, "battery", device.id)[:1]:
            readings = app.readings.readings(series.id, now_ms - BACK_DAYS * MS_PER_DAY, now_ms + 1)
            # One a day is enough: the slopes of all pairs grow with the square.
            _, place = np.unique(readings.at_ms // MS_PER_DAY, return_index=True)
            try:
                found[device.id] = battery_end(readings.at_ms[place].tolist(), readings.value[place].tolist())
            except NotKnowable:
                continue
    return found
