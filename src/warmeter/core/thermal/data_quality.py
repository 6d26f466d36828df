"""Which logs mislead: doubts about a fit by name, each with the evidence that the log itself gives."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.sentence import celsius, kelvin, sentence
from warmeter.core.thermal.likelihood import QUICK, SLOW
from warmeter.core.thermal.posterior import AIR, LAG, NEIGHBOUR_SD_K, Posterior, solve
from warmeter.core.thermal.room_fit import USUAL_GAIN_W_M2, Doubt, RoomLog
from warmeter.core.units import S_PER_DAY, S_PER_H

# Shares of the plate between which the highest heat logged is taken for the plate's.
PLATE_SHARES = (0.8, 1.25)
_STEADY, _PLATEAU_S = 0.01, 900.0  # so alike for so long, the highest heat is the heater's full heat [ratio, s]
_FAR_UNDER = 0.75  # of the surveyed loss
# Unlogged heat that returns at one time of day: watts a square metre, and as a share of the mean heat.
RETURNING_W_M2, _RETURNING_SHARE = 13.0, 0.27
_WINDOW_H = 3
_BETTER = 10.0  # gain in the posterior's logarithm that makes another reading of the log the better one
_WORTH_TRYING = 50.0  # a cost so far above is not overtaken by fitting again
BESIDE_K = 0.25
# The heater's lag and the air's store, in spreads of what was known, and the gain that must speak for the other reading.
_NO_LAG_SD = -2.5
_SOON_LAG_SD, _SOON_LAG_BETTER = -2.3, 0.5
_SOON_AIR_SD, _SOON_AIR_BETTER = -2.5, 0.3
NEIGHBOUR_SHARE = 0.15
STEADY_OUTDOORS_K = 0.8
MOST_GAIN_W_M2 = 18.0
_SHORT_CONSTANTS = 2.0


def doubts_of(
    posterior: Posterior, point: Floats, *, plate_w: float | None, slow_s: float, progress: Callable[[], None]
) -> tuple[Doubt, ...]:
    """Return what speaks against believing a fit.

    Parameters
    ----------
    posterior : Posterior
        The chosen form over the whole log.
    point : (POINT_SIZE,) float array
        Its likeliest point.
    plate_w : float or None
        Heat that the heater's plate promises; None where nobody knows it [W].
    slow_s : float
        The slow time constant that was learnt [s].

    Notes
    -----
    Each doubt is another way to read the same log, tried by fitting it again (sensor beside the heater, stamp), or
    a mark that a sound log does not carry. Their borders were chosen on stand-in houses of both families; how often
    they are right stands in docs/figures.
    """
    found = [
        _plate(posterior, point, plate_w),
        _returning(posterior, point),
        _beside(posterior, point, progress),
        _stamp(posterior, point, progress),
        _neighbour(posterior, point),
        _beyond_belief(posterior, point),
        _steady(posterior.log),
        _short(posterior.log, slow_s),
    ]
    return tuple(doubt for doubt in found if doubt is not None)


def _plate(posterior: Posterior, point: Floats, plate_w: float | None) -> Doubt | None:
    log = posterior.log
    if plate_w is None or not log.watts_known:
        return None
    heat = log.heat_w[log.known]
    highest = float(heat.max())
    share = highest / plate_w
    is_full = np.concatenate([[False], log.heat_w >= (1 - _STEADY) * highest, [False]])
    turns = np.flatnonzero(np.diff(is_full.astype(np.int8)))
    stays_full_s = float(np.max(turns[1::2] - turns[::2])) * log.step_s
    loss_share = posterior.room(point).loss_w_k / posterior.prior.room.loss_w_k
    if share < PLATE_SHARES[0] and (stays_full_s >= _PLATEAU_S or loss_share < _FAR_UNDER):
        return Doubt(
            kind="part of the heat",
            evidence=share,
            sentence=f"At its highest this log shows {highest:.0f} W, {share:.0%} of the {plate_w:.0f} W rated, and a "
            f"loss {loss_share:.0%} of the surveyed one: part of the heat may not be logged. Log every heater of the "
            "room, or correct the rated output.",
        )
    if share > PLATE_SHARES[1]:
        return Doubt(
            kind="above the plate",
            evidence=share,
            sentence=f"This log shows up to {highest:.0f} W, {share:.0%} of the {plate_w:.0f} W rated: its unit or the "
            "rated output is wrong. Check both.",
        )
    return None


def _returning(posterior: Posterior, point: Floats) -> Doubt | None:
    """Doubt heat that nobody logs and that comes at one time of day, far beyond people and machines."""
    log = posterior.log
    if not log.watts_known:
        return None
    excess, hour = returning_heat_w(posterior, point)
    floor_m2 = posterior.prior.gain_w / USUAL_GAIN_W_M2
    border = max(RETURNING_W_M2 * floor_m2, _RETURNING_SHARE * float(log.heat_w[log.known].mean()))
    if excess <= border:
        return None
    return Doubt(
        kind="stove in the evening",
        evidence=excess,
        sentence=f"Day by day about {excess:.0f} W more than usual came from something that nobody logged, between "
        f"{hour:02d}:00 and {(hour + _WINDOW_H) % 24:02d}:00: a stove, a second heater, an oven. Log it, or leave those days out.",
    )


def returning_heat_w(posterior: Posterior, point: Floats) -> tuple[float, int]:
    """Return by how much unlogged heat exceeds its usual level in its highest three hours [W], and their local hour."""
    log, unlogged = posterior.log, posterior.unlogged(point)
    states = posterior.filter.smoothed(posterior.room(point), unlogged)
    wandering = states[:-1, QUICK] + states[:-1, SLOW]
    per_h = S_PER_H / log.step_s
    changes = np.flatnonzero(np.diff(log.day)) + 1
    midnight = int(changes[0]) if changes.size else 0
    hour = (np.floor((np.arange(log.day.size) - midnight) / per_h)).astype(np.int64) % 24
    profile = np.array([wandering[hour == h].mean() if (hour == h).any() else 0.0 for h in range(24)])
    windows = np.array([np.roll(profile, -h)[:_WINDOW_H].mean() for h in range(24)])
    highest = int(np.argmax(windows))
    return float(windows[highest] - np.median(profile)), highest


def _beside(posterior: Posterior, point: Floats, progress: Callable[[], None]) -> Doubt | None:
    """Doubt a reading that answers the heater sooner than the room's air can."""
    start = np.append(point, 1.0)
    # What such a sensor shows at once passes for a heater without lag.
    start[LAG] = max(0.0, float(point[LAG]))
    other = Posterior(posterior.log, posterior.prior, posterior.form, posterior.full_heat_w, "beside the heater")
    found = solve(other, start, progress, is_near=True)
    better, excess = posterior.cost(point) - other.cost(found), other.unlogged(found).beside_heater_k
    # A heater quicker than most is no rarity; one that is explained still a little better by such a sensor is.
    is_too_soon = (
        point[LAG] < _NO_LAG_SD
        or (point[LAG] < _SOON_LAG_SD and better >= _SOON_LAG_BETTER)
        or (point[AIR] < _SOON_AIR_SD and better >= _SOON_AIR_BETTER)
    )
    if (better < _BETTER or excess < BESIDE_K) and not is_too_soon:
        return None
    told = (
        sentence(", as of a sensor that stands {} warmer while the heater gives its full heat", kelvin(excess, 1))
        if excess >= BESIDE_K
        else ""
    )
    return Doubt(
        kind="sensor beside the heater",
        evidence=min(float(point[LAG]), float(point[AIR])),
        sentence=sentence(
            "The reading answers the heater sooner than such a heater and so much air can{}; its warm-up is too fast for "
            "its cool-down. Hang the sensor away from the heater, out of its draught, and record again.",
            told,
        ),
    )


def _stamp(posterior: Posterior, point: Floats, progress: Callable[[], None]) -> Doubt | None:
    log = posterior.log
    tried = []
    for steps in (-2, -1, 1, 2):
        moved = np.full(log.heat_w.size, np.nan)
        inside = slice(max(0, steps), log.heat_w.size + min(0, steps))
        moved[inside] = log.heat_w[max(0, -steps) : log.heat_w.size - max(0, steps)]
        # The ends have no heat then: both readings are held against the same stretch.
        same = replace(log, heat_w=np.where(np.isnan(moved), np.nan, log.heat_w))
        here = Posterior(same, posterior.prior, posterior.form, posterior.full_heat_w).cost(point)
        other = Posterior(replace(log, heat_w=moved), posterior.prior, posterior.form, posterior.full_heat_w)
        starts = [point + nudge * np.eye(point.size)[LAG] for nudge in (0.0, -1.5, 1.5)]
        start = min(starts, key=other.cost)
        if other.cost(start) < here + _WORTH_TRYING:
            tried.append((here - other.cost(solve(other, start, progress, is_near=True)), steps))
    better, steps = max(tried, default=(0.0, 0))
    if better < _BETTER:
        return None
    minutes = abs(steps) * log.step_s / 60
    way = "later" if steps > 0 else "earlier"
    return Doubt(
        kind="stamp",
        evidence=better / posterior.trust,
        sentence=f"The room answers better if the heat is moved {minutes:.0f} min {way}: its times may stand for the other end "
        "of each step. Import the log again with that stamp.",
    )


def _neighbour(posterior: Posterior, point: Floats) -> Doubt | None:
    prior, loss = posterior.prior, posterior.room(point).loss_w_k
    share = prior.neighbour_w_k / loss
    if share < NEIGHBOUR_SHARE:
        return None
    excess = max(1.0, float(np.nanmean(posterior.log.room_c - posterior.log.outdoor_c)))
    return Doubt(
        kind="cold neighbour",
        evidence=share,
        sentence=sentence(
            "Through walls to neighbours the room loses {:.0f} W a kelvin, {:.0%} of what it loses outdoors, and no log shows how warm they are "
            "(taken as {}): {} colder is {:.1%} of the loss. Log the neighbour's temperature; meanwhile the range allows for {}.",
            prior.neighbour_w_k,
            share,
            celsius(prior.neighbour_c, 0),
            kelvin(1),
            share / excess,
            kelvin(NEIGHBOUR_SD_K, 0),
        ),
        forbids_use=False,
    )


def _beyond_belief(posterior: Posterior, point: Floats) -> Doubt | None:
    gain = USUAL_GAIN_W_M2 * posterior.unlogged(point).gain_w / posterior.prior.gain_w
    if gain < MOST_GAIN_W_M2 or not posterior.log.watts_known:
        return None
    return Doubt(
        kind="gains beyond belief",
        evidence=gain,
        sentence=f"To follow this log the model needs {gain:.0f} W a square metre from things nobody logged, where people and "
        "appliances give 1 to 11: its form does not fit this room, or a heater is not in the log.",
    )


def _steady(log: RoomLog) -> Doubt | None:
    per_day = max(1, round(S_PER_DAY / log.step_s))
    days = log.outdoor_c[:-1][: log.heat_w.size // per_day * per_day].reshape(-1, per_day)
    heard = days[np.isnan(days).mean(axis=1) < 0.25]
    if heard.shape[0] < 3:
        return None
    spread = float(np.nanmean(heard, axis=1).std(ddof=1))
    if spread >= STEADY_OUTDOORS_K:
        return None
    return Doubt(
        kind="steady outdoors",
        evidence=spread,
        sentence=sentence(
            "From day to day it was equally cold outdoors (within {}), so loss and gains cannot be told apart in this log: the range is that of usual gains. Record days of different weather.",
            kelvin(spread, 1),
        ),
        forbids_use=False,
    )


def _short(log: RoomLog, slow_s: float) -> Doubt | None:
    length_s = float(log.known.sum()) * log.step_s
    if length_s >= _SHORT_CONSTANTS * slow_s:
        return None
    days = _SHORT_CONSTANTS * slow_s / S_PER_DAY
    return Doubt(
        kind="too short for its walls",
        evidence=length_s / slow_s,
        sentence=f"The walls take {slow_s / S_PER_H:.0f} h to follow and the log has {length_s / S_PER_H:.0f} h: what they held at the "
        f"beginning still counts. Record {days:.0f} days or more.",
        forbids_use=False,
    )
