"""The water meter's log: how long usual use flows without a pause."""

from warmeter.core.home.document import Home
from warmeter.core.units import MS_PER_S, S_PER_DAY, S_PER_MIN
from warmeter.core.water.detection_ways import FalseAlarms, flow_false_alarms
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import means, series_of

MOST_DAYS = 366
_FOUND: Cache[FalseAlarms | None] = Cache(16)


def usual_long_flows(app: App, home: Home) -> FalseAlarms | None:
    """Return what a flow sensor, as it is set, would have told of usual use on the meter's log; None without a log."""
    stamp = app.readings.import_stamp(home.id)
    return _FOUND.get((str(app.engine.url), home.id, home.water_practice, stamp), lambda: _long_flows(app, home))


def _long_flows(app: App, home: Home) -> FalseAlarms | None:
    series = series_of(app, home.id, "water_flow", "")
    if not series:
        return None
    spans = [app.readings.span(each.id) for each in series]
    last = max(high for _, high in spans)
    first = max(min(low for low, _ in spans), last - MOST_DAYS * S_PER_DAY * MS_PER_S)
    steps = max(1, int((last - first) // (S_PER_MIN * MS_PER_S)))
    flow = means(app, series, first, float(S_PER_MIN), steps)
    practice = home.water_practice
    return flow_false_alarms(flow, float(S_PER_MIN), least_l_min=practice.flow_least_l_min, after_min=practice.flow_min)
