"""A panel function by its log: its state now, presses a day, and those that changed nothing; a trial of it."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.home.document import Home
from warmeter.core.home.panels import PanelFunction
from warmeter.core.panel.lamp_state import STATES, UNKNOWN, LampState, lamp_states
from warmeter.core.panel.panel_trial import How, PanelTrial, panel_trial
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN, MS_PER_S
from warmeter.service.app import App
from warmeter.service.readings.room_logs import series_of
from warmeter.simulators.panel import MOODS, Mood, SimulatedPanel

__all__ = ["MOODS", "FunctionLog", "Mood", "function_log", "tried", "wanted_on"]

DAYS_SHOWN, TRIAL_MS = 7, 4 * MS_PER_H
# What a trial wants: on, off, on, off [min from its start].
WANTED_MIN = ((10, 80), (130, 200))


@dataclass(frozen=True, slots=True, kw_only=True)
class FunctionLog:
    """A panel function by its log.

    ``presses`` are those of each of the last days, ``unanswered`` the days' presses after which the lamp showed the same
    as before; None where lamp or presses are not logged.
    """

    state: LampState | None
    since_ms: int | None
    presses: tuple[tuple[date, int], ...] | None
    unanswered: tuple[int, int] | None


def function_log(app: App, home: Home, function: PanelFunction) -> FunctionLog:
    """Return what a panel function's log says as of now."""
    now = app.as_of_ms(home.id)
    lamp = _changes(app, home, "is_lit", function.lamp_sensor_id, now)
    pressed = _changes(app, home, "is_pressed", function.presser_id, now)
    state, since, unanswered, presses = None, None, None, None
    if lamp is not None:
        state = STATES[int(_states(function, lamp, np.array([now], dtype=np.int64))[0])]
        moved = lamp[0][np.flatnonzero(np.diff(lamp[1], prepend=np.nan) != 0)]
        since = int(moved[-1]) if moved.size and state in ("off", "steady") else None
    if pressed is not None:
        at = pressed[0][(pressed[1] >= 0.5) & (np.append(0.0, pressed[1][:-1]) < 0.5)]
        clock = app.clock(home)
        today = clock.local(now).date()
        days = [today - timedelta(days=back) for back in reversed(range(DAYS_SHOWN))]
        own = [clock.local(int(each)).date() for each in at]
        presses = tuple((day, own.count(day)) for day in days)
        if lamp is not None and at.size:
            before = _states(function, lamp, at - 1)
            after = _states(function, lamp, at + round(function.check_s * MS_PER_S))
            known = (before != UNKNOWN) & (after != UNKNOWN)
            unanswered = int((known & (before == after)).sum()), int(known.sum())
    return FunctionLog(state=state, since_ms=since, presses=presses, unanswered=unanswered)


def _changes(
    app: App, home: Home, quantity: str, device_id: str | None, now_ms: int
) -> tuple[Ints, Floats, int] | None:
    """Return (times, values, how long each speaks [ms]) of a device's last days; None without a log."""
    series = [] if device_id is None else series_of(app, home.id, quantity, device_id)
    if not series:
        return None
    record = series[0].record
    raw = app.readings.readings(series[0].id, now_ms - (DAYS_SHOWN + 1) * MS_PER_DAY, now_ms + 1)
    value = raw.in_stored_unit(record).value
    heard = ~np.isnan(value)
    return raw.at_ms[heard], value[heard], record.longest_hold_s * MS_PER_S


def _states(function: PanelFunction, lamp: tuple[Ints, Floats, int], now_ms: Ints) -> Ints:
    at, lit, hold = lamp
    return lamp_states(at, lit, now_ms, watch_ms=round(function.watch_s * MS_PER_S), hold_ms=hold)


def wanted_on(now_ms: int) -> bool:
    """Return what a trial wants at an instant from its start."""
    return any(begin <= now_ms / MS_PER_MIN < end for begin, end in WANTED_MIN)


def tried(function: PanelFunction, mood: Mood, how: How) -> PanelTrial:
    """Return what comes of a panel function on the simulated panel of a mood, over four hours."""
    return panel_trial(function, SimulatedPanel(mood), wanted_on, TRIAL_MS, how)
