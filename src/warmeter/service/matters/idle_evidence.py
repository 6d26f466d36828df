"""In which hours a zone asked for warmth while nobody was in any of its rooms, by what their logs witness."""

import numpy as np

from warmeter.core.arrays import Flags, true_runs
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.matters.evidence import IdleHours
from warmeter.core.truth.track import value_of
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.matters.heat_evidence import asked_of
from warmeter.service.rules.rule_signals import track_of, unheard_of

DAYS, STEP_MIN, LEAST_MIN = 28, 5, 60
LEAST_FALL_K = 1.0  # a zone that is asked hardly more than while nobody needs it wastes nothing
FEWEST_DAYS = 7


def idle_hours(app: App, home: Home) -> tuple[IdleHours, ...]:
    """Return the idle hours of each zone whose every room has a witness of presence.

    A witness that is silent says nothing: such minutes count as in use.
    """
    found = (_idle_of(app, home, zone) for zone in home.zones)
    return tuple(idle for idle in found if idle is not None)


def _idle_of(app: App, home: Home, zone: Zone) -> IdleHours | None:
    signals = [Signal(quantity="is_in", subject_id=room_id) for room_id in zone.room_ids]
    saving = [home.heating_c(zone, level.id) for level in home.levels if level.is_saving]
    bounds = app.readings.bounds(home.id)
    if not signals or not saving or bounds is None or unheard_of(app, home, signals):
        return None
    end = app.heard_until_ms(home.id)
    start = max(bounds[0], end - DAYS * MS_PER_DAY)
    at = np.arange(start, end, STEP_MIN * MS_PER_MIN, dtype=np.int64)
    if at.size * STEP_MIN * MS_PER_MIN < FEWEST_DAYS * MS_PER_DAY:
        return None
    # The mildest level that is meant to save: what nobody is there for can surely be had at that.
    low_c = max(max(saving), home.guard_of(zone).low_c)
    asked, _ = asked_of(home, zone, app.clock(home), at)
    is_empty = np.ones(at.size, dtype=np.bool_)
    for signal in signals:
        is_empty &= value_of(track_of(app, home, signal, start, end), at) == 0.0
    kept = _long_ones(is_empty & (asked >= low_c + LEAST_FALL_K))
    count = int(np.count_nonzero(np.diff(kept.astype(np.int8)) == 1) + int(kept[0]))
    if not count:
        return None
    return IdleHours(
        zone_id=zone.id,
        count=count,
        weeks=at.size * STEP_MIN * MS_PER_MIN / (7 * MS_PER_DAY),
        minutes=float(kept.sum()) * STEP_MIN / count,
        held_c=float(asked[kept].mean()),
        low_c=low_c,
    )


def _long_ones(flags: Flags) -> Flags:
    """Return only those stretches that last an hour or more."""
    kept = np.zeros(flags.size, dtype=np.bool_)
    for begin, until in zip(*true_runs(flags), strict=True):
        if (until - begin) * STEP_MIN >= LEAST_MIN:
            kept[begin:until] = True
    return kept
