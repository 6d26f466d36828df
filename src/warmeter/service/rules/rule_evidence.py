"""What the logs say of the signals that rules look at, for the checks: their noise, and how long contacts bounce."""

import math
from dataclasses import replace
from functools import partial

import numpy as np

from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.of_signal import is_two_states
from warmeter.core.home.document import Home
from warmeter.core.rule.chatter import bounce_s
from warmeter.core.rule.checks.rule_finding import Evidence
from warmeter.core.sensing.open_window import usual_drop_k
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import TRUE, UNKNOWN
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.rules.replays import Replay
from warmeter.service.rules.rule_signals import track_of, unheard_of

DAYS, FEWEST, NEAR_MIN = 14, 200, 15
NIGHT_FROM_MIN, NIGHT_UNTIL_MIN, DROP_WINDOW_S, LEAST_DROP_K = 60, 300, 600, 0.5
_MEASURED: Cache[float | None] = Cache(400)


def noise_of(track: Track) -> float | None:
    """Return the noise of a track's values [stored unit]: what its quiet changes from report to report come to.

    None where there are too few reports close together. Half of the middle two thirds of the changes, over the root
    of two; at least a third of the finest step in which the sensor tells its values.
    """
    near = np.diff(track.at_ms) <= NEAR_MIN * MS_PER_MIN
    change = np.diff(track.value)[near]
    change = change[~np.isnan(change)]
    if change.size < FEWEST:
        return None
    low, high = np.quantile(change, [0.16, 0.84])
    moved = np.abs(change[np.abs(change) > 1e-9])
    finest = float(np.quantile(moved, 0.05)) if moved.size else 0.0
    return max(float(high - low) / 2 / math.sqrt(2), finest / 3)


def drop_of(app: App, home: Home, room_id: str) -> float | None:
    """Return from which fall within ten minutes on an opening of a room may be told, by its log; None without one [K].

    Windows count as shut from one to five at night.
    """
    bounds = app.readings.bounds(home.id)
    if bounds is None:
        return None
    signal = Signal(quantity="room_temperature", subject_id=room_id)
    track = track_of(app, home, signal, bounds[1] - DAYS * MS_PER_DAY, bounds[1] + 1)
    noise = noise_of(track)
    if noise is None:
        return None
    _, minute = app.clock(home).local_minutes(track.at_ms)
    night = (minute >= NIGHT_FROM_MIN) & (minute < NIGHT_UNTIL_MIN)
    found = usual_drop_k(track.at_ms / 1000, track.value, night, noise_k=noise, window_s=DROP_WINDOW_S)
    return max(LEAST_DROP_K, float(np.ceil(found * 10) / 10))


def evidence_of(app: App, home: Home) -> Evidence:
    """Return what the last two weeks of a home's logs say of the signals that its rules look at."""
    bounds = app.readings.bounds(home.id)
    today = app.clock(home).local(app.heard_until_ms(home.id)).date()
    if bounds is None:
        return Evidence(today=today)
    stamp = app.readings.import_stamp(home.id)
    found: dict[Signal, float] = {}
    conditions = [c for rule in home.rules for c in rule.conditions if isinstance(c, Compared | InState)]
    for signal in {c.of for c in conditions}:
        key = str(app.engine.url), home.id, stamp, signal
        value: float | None = _MEASURED.get(key, partial(_measured, app, home, signal, bounds[1]))
        if value is not None:
            found[signal] = round(value, 3)
    noise = {signal: value for signal, value in found.items() if not is_two_states(signal)}
    bounce = {signal: value for signal, value in found.items() if is_two_states(signal)}
    watched = {signal for rule in home.rules for c in rule.conditions for signal in c.signals}
    return Evidence(noise=noise, bounce_s=bounce, unheard=unheard_of(app, home, watched), today=today)


def _measured(app: App, home: Home, signal: Signal, last_ms: int) -> float | None:
    if signal.quantity == "price":  # steps, no noise
        return None
    track = track_of(app, home, signal, last_ms - DAYS * MS_PER_DAY, last_ms + 1)
    return bounce_s(track.at_ms / 1000, track.value) if is_two_states(signal) else noise_of(track)


def with_never(evidence: Evidence, home: Home, found: Replay | None) -> Evidence:
    """Return evidence with what a replay of two weeks or more says of watches that never held, or always did."""
    if found is None or found.scope.end_ms - found.scope.start_ms < DAYS * MS_PER_DAY:
        return evidence
    days = round((found.scope.end_ms - found.scope.start_ms) / MS_PER_DAY)
    told, evaluator = {}, found.evaluator
    for rule in home.rules:
        truth = evaluator.clauses(rule.watch, rule.limits.stale_s)
        is_moment_only = all(c.is_moment for clause in rule.watch for c in clause)
        if np.all(truth.value == UNKNOWN):
            told[rule.id] = f"In these {days} days no data was received of what it watches."
        elif not np.any(truth.value == TRUE) and rule.kind != "safety" and not is_moment_only:
            told[rule.id] = f"In these {days} days what it watches never held."
        elif np.all(truth.value == TRUE):
            told[rule.id] = f"In these {days} days what it watches always held."
    return replace(evidence, never=told)
