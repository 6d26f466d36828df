"""What a log teaches about a room: heat loss, heat stores, lag, with a range on each.

The room is simulated through the whole log (multi-step output error) together with the heat that no log shows
(``likelihood``). What is known beforehand is the prior: the survey with its doubt, usual gains that cannot be
negative, usual sun. Several forms of wall and of sun are tried; each counts as far as the log speaks for it.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.sentence import kelvin, sentence
from warmeter.core.thermal.data_quality import doubts_of
from warmeter.core.thermal.posterior import FULL_DAYS, POINT_SIZE, THERMAL, Posterior, curvature, solve
from warmeter.core.thermal.room_fit import (
    DRAWS,
    FORMS,
    HELD_BACK,
    LOW_SUN,
    Balance,
    Doubt,
    Estimate,
    ModelKind,
    Prior,
    RoomFit,
    RoomLog,
    even_normals,
    learnt_from,
    range_of,
)
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import S_PER_DAY, S_PER_H

# What no log of weeks can tell of loss, stores, coupling and lag: two stores stand for many in a real room.
FLOOR_SD = np.array([0.04, 0.08, 0.10, 0.08, 0.15])
_MIN_HOURS = 48.0


def check_teaches(log: RoomLog) -> None:
    """Refuse a log that cannot teach.

    Raises
    ------
    NotKnowable
        If it is short, constant, without heating that goes on and off, or no warmer than outdoors.
    """
    heard = ~np.isnan(log.room_c[1:]) & log.known
    hours = float(heard.sum()) * log.step_s / S_PER_H
    if hours < _MIN_HOURS:
        raise NotKnowable(
            f"Room, outdoor temperature and heat stand together in only {hours:.0f} h of this log.",
            "Record at least 48 h, better 14 days, of all three at the same time.",
        )
    if float(np.nanmax(log.room_c) - np.nanmin(log.room_c)) < 0.5:
        raise NotKnowable(
            sentence(
                "The room's temperature hardly changes (less than {}), so nothing shows how fast it does.", kelvin(0.5)
            ),
            sentence("Record nights with a setback of {} or more.", kelvin(2)),
        )
    heat = log.heat_w[heard]
    mean = float(heat.mean())
    if mean <= 0:
        raise NotKnowable(
            "There is no heating in this log.", "Record days on which the heater runs, with its heat in watts."
        )
    if float(heat.std()) < 0.05 * mean:
        raise NotKnowable(
            "The heat is the same all through, so loss and store cannot be told apart.",
            "Record days on which the heater goes on and off.",
        )
    excess = float(np.mean(log.room_c[1:][heard] - log.outdoor_c[1:][heard]))
    if excess < 3.0:
        raise NotKnowable(
            sentence("On average the room is only {} warmer than outdoors.", kelvin(excess, 1)),
            sentence("Record in colder weather: {} or more between room and outdoors.", kelvin(8)),
        )


def plain_balance(log: RoomLog, prior: Prior) -> Balance:
    """Return the loss from mean heat and mean excess temperature over whole days."""
    per_day = max(1, round(S_PER_DAY / log.step_s))
    steps = log.heat_w.size // per_day * per_day or log.heat_w.size
    part = log.part(0, steps)
    heard = ~np.isnan(part.room_c[1:]) & part.known
    heat = float(part.heat_w[heard].mean())
    excess = float((part.room_c[1:][heard] - part.outdoor_c[1:][heard]).mean())
    gain = (prior.gain_w + prior.sun_m2 * float(part.clear_sky_w_m2[heard].mean())) if log.watts_known else 0.0
    return Balance(
        mean_heat_w=heat,
        usual_gain_w=gain,
        mean_excess_k=excess,
        loss_w_k=(heat + gain) / excess,
        low_w_k=heat / excess,
        high_w_k=(heat + 2 * gain) / excess,
        hours=float(heard.sum()) * log.step_s / S_PER_H,
    )


@dataclass(frozen=True, slots=True)
class _Solution:
    posterior: Posterior
    point: Floats
    covariance: Floats
    evidence: float  # logarithm of the probability of the log under the form, by Laplace's method

    def rooms(self, offsets: Floats) -> list[RoomRc]:
        return [self.posterior.room(self.point + offset) for offset in offsets]


def _solution(posterior: Posterior, start: Floats, progress: Callable[[], None]) -> _Solution:
    point = solve(posterior, start, progress, is_near=True)
    values, vectors = np.linalg.eigh(curvature(posterior, point))
    # No log takes knowledge away: along no direction is the spread wider than the prior's.
    values = np.maximum(values, 1.0)
    covariance = (vectors / values) @ vectors.T
    return _Solution(posterior, point, covariance, -posterior.cost(point) - 0.5 * float(np.log(values).sum()))


def _say_nothing(_share: float, _sentence: str) -> None:
    """Take progress and do nothing with it."""


def fit_room(
    log: RoomLog,
    prior: Prior,
    *,
    full_heat_w: float,
    plate_w: float | None = None,
    held_back_h: float | None = None,
    run_h: float = 24.0,
    progress: Callable[[float, str], None] = _say_nothing,
) -> RoomFit:
    """Fit a room to its log in every form, and judge it on a held-back part.

    Parameters
    ----------
    log : RoomLog
        At least 48 h of room and outdoor temperature and heat.
    prior : Prior
        From the survey.
    full_heat_w : float
        The heater's rated heat [W].
    plate_w : float or None
        What the heater's plate promises, where somebody knows it [W]; a log far from it is doubted.
    held_back_h : float or None
        Length of the held-back end [h]; a quarter of the log if not given.
    run_h : float
        Over the held-back end the room is run free for so long at a time [h]: a day, as a forecast is used.
    progress : callable
        Told the share done and what is being done; may raise to stop.

    Raises
    ------
    NotKnowable
        If the log cannot teach (``check_teaches``).

    Notes
    -----
    Each form is fitted to the log without its end and run free over that; then to the whole log. The likeliest
    form is the answer; the draws are shared among the forms by their evidence (Laplace's method), so that a form
    that might be wrong widens the range. docs/methods, "The fit".
    """
    check_teaches(log)
    scale = _heat_scale(log, prior)
    if not log.watts_known:
        log = replace(log, heat_w=log.heat_w * scale)
        full_heat_w = float(np.nanmax(log.heat_w))
    held_steps = log.heat_w.size * HELD_BACK if held_back_h is None else held_back_h * S_PER_H / log.step_s
    cut = log.heat_w.size - round(held_steps)
    forms = FORMS if log.windows_w_m2 is not None else FORMS[:-1]
    solutions, errors = [], []
    point = np.zeros(POINT_SIZE)
    for number, form in enumerate(forms):
        tell = partial(progress, 0.9 * number / len(forms), f"Fitting {form}")
        part = Posterior(log.part(0, cut), prior, form, full_heat_w)
        # The last form is the one before under another sun: its best point is near.
        point = solve(part, point, tell, is_near=form == LOW_SUN)
        whole = Posterior(log, prior, form, full_heat_w)
        errors.append((form, _free_run_rmse(part, whole, point, cut, run_h)))
        solutions.append(_solution(whole, point, tell))
        if form == "one store":
            point = np.zeros(POINT_SIZE)
    mean_error = log.room_c[cut + 1 :] - np.nanmean(log.room_c[: cut + 1])
    best = max(solutions, key=lambda s: s.evidence)
    progress(0.95, "Looking for what misleads")
    doubts = doubts_of(
        best.posterior,
        best.point,
        plate_w=plate_w,
        slow_s=float(best.posterior.room(best.point).network().time_constants_s()[0]),
        progress=lambda: progress(0.95, "Looking for what misleads"),
    )
    return _result(
        best,
        solutions,
        held_back=dict(errors)[best.posterior.form],
        mean_rmse=float(np.sqrt(np.nanmean(mean_error**2))),
        candidates=tuple(errors),
        heat_scale=scale,
        doubts=doubts,
    )


def _free_run_rmse(part: Posterior, whole: Posterior, point: Floats, cut: int, run_h: float) -> float:
    """Return the error over instants from ``cut`` on of runs that saw nothing of what they run over [K]."""
    steps = max(1, round(run_h * S_PER_H / whole.log.step_s))
    room, unlogged, measured_c = part.room(point), part.unlogged(point), whole.filter.measured_c
    error = np.full(measured_c.size, np.nan)
    for begin in range(cut, measured_c.size - 1, steps):
        stretch = slice(begin + 1, begin + steps + 1)
        error[stretch] = (whole.filter.free_run_c(room, unlogged, begin) - measured_c)[stretch]
    return float(np.sqrt(np.nanmean(error**2)))


def _heat_scale(log: RoomLog, prior: Prior) -> float:
    """Return the watts that stand for one unit of heat: those the surveyed room would need; ratios stay true."""
    if log.watts_known:
        return 1.0
    balance = plain_balance(log, prior)
    loss_w = prior.room.loss_w_k * balance.mean_excess_k
    return max(loss_w - prior.gain_w, 0.3 * loss_w) / balance.mean_heat_w


def _shared_draws(solutions: list[_Solution]) -> list[tuple[_Solution, Floats]]:
    """Return each form with its share of the draws, offsets of shape (draw, n)."""
    evidence = np.array([s.evidence for s in solutions])
    weights = np.exp(evidence - evidence.max())
    counts = np.floor(DRAWS * weights / weights.sum()).astype(int)
    counts[int(np.argmax(weights))] += DRAWS - int(counts.sum())
    shared = []
    for solution, count in zip(solutions, counts.tolist(), strict=True):
        covariance = solution.covariance.copy()
        floor = FLOOR_SD / solution.posterior.prior.thermal_sd
        covariance[range(THERMAL), range(THERMAL)] += floor**2
        root = np.linalg.cholesky(covariance)
        if count > 1:
            shared.append((solution, even_normals(count, covariance.shape[0]) @ root.T))
        elif count == 1:
            shared.append((solution, np.zeros((1, covariance.shape[0]))))
    return shared


def _narrowing(best: _Solution) -> tuple[tuple[float, float], ...]:
    """Return how many more days make the log as long as days count, and the half width of the loss they would bring.

    The log's part of the curvature grows with its length, the prior's does not; none where the log is long enough.
    """
    days = best.posterior.log.heat_w.size * best.posterior.log.step_s / S_PER_DAY
    if days >= FULL_DAYS:
        return ()
    precision = np.linalg.inv(best.covariance)
    of_log = precision - np.eye(precision.shape[0])
    covariance = np.linalg.inv(precision + (FULL_DAYS / days - 1) * of_log)
    spread = best.posterior.prior.thermal_sd[0] * float(np.sqrt(covariance[0, 0]))
    return ((FULL_DAYS - days, float(np.sinh(1.96 * np.hypot(spread, FLOOR_SD[0])))),)


def _result(
    best: _Solution,
    solutions: list[_Solution],
    *,
    held_back: float,
    mean_rmse: float,
    candidates: tuple[tuple[ModelKind, float], ...],
    heat_scale: float,
    doubts: tuple[Doubt, ...],
) -> RoomFit:
    posterior, log = best.posterior, best.posterior.log
    rooms = [posterior.room(best.point)]
    unlogged = posterior.unlogged(best.point)
    gains, suns = [unlogged.gain_w], [unlogged.sun_m2 * posterior.flat_sun()]
    for solution, offsets in _shared_draws(solutions):
        rooms += solution.rooms(offsets)
        assumed = [solution.posterior.unlogged(solution.point + offset) for offset in offsets]
        gains += [a.gain_w for a in assumed]
        suns += [a.sun_m2 * solution.posterior.flat_sun() for a in assumed]
    gain = range_of(np.array(gains))
    constants = np.array([room.network().time_constants_s() for room in rooms])
    states = posterior.filter.smoothed(rooms[0], unlogged)
    fitted_c = posterior.filter.modelled_c(rooms[0], unlogged, states)
    misfit = (fitted_c - posterior.filter.measured_c)[~np.isnan(posterior.filter.measured_c)]

    def of(read: Callable[[RoomRc], float]) -> Estimate:
        return learnt_from(read(rooms[0]), [read(room) for room in rooms[1:]])

    return RoomFit(
        model=posterior.form,
        watts_known=log.watts_known,
        loss_w_k=of(lambda room: room.loss_w_k),
        air_j_k=of(lambda room: room.air_j_k),
        fabric_j_k=of(lambda room: room.fabric_j_k),
        air_fabric_w_k=of(lambda room: room.air_fabric_w_k),
        slow_s=learnt_from(float(constants[0, 0]), constants[1:, 0]),
        fast_s=learnt_from(float(constants[0, 1]), constants[1:, 1]),
        emitter_lag_s=of(lambda room: room.emitter_lag_s),
        # Beside a cooler neighbour gains less what it draws may be negative: no logarithms here.
        gain_w=Estimate(value=gain.value, low=gain.low, high=gain.high),
        sun_m2=learnt_from(suns[0], suns[1:]),
        rooms=tuple(rooms),
        gains_w=tuple(gains),
        suns_m2=tuple(suns),
        fitted_c=fitted_c,
        rmse_k=float(np.sqrt(np.mean(misfit**2))),
        held_back_rmse_k=held_back,
        mean_rmse_k=mean_rmse,
        candidates=candidates,
        balance=plain_balance(log, posterior.prior),
        hours=float((~np.isnan(posterior.filter.measured_c)).sum()) * log.step_s / S_PER_H,
        full_heat_w=posterior.full_heat_w,
        heat_scale=heat_scale,
        doubts=doubts,
        narrowing=_narrowing(best),
    )
