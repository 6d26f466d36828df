"""What a log teaches about a room: heat loss, heat stores, lag, with a range on each.

The room is simulated through the whole log (multi-step output error). Given its conductances and
stores the room is linear in everything else that is unknown: first temperatures, constant gains,
sun day by day. Those are solved exactly inside each evaluation, the rest by least squares on
logarithms. Survey values enter as weak prior knowledge, so that a log that says little moves little.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from warmeter.core.errors import NotKnowable
from warmeter.core.thermal.learnt import (
    DRAWS,
    HELD_BACK,
    PRIOR_SD,
    Balance,
    Learnt,
    ModelKind,
    Prior,
    RoomFit,
    RoomLog,
    learnt_from,
    learnt_plain,
    normal_draws,
)
from warmeter.core.thermal.simulate import compile_rooms, responses
from warmeter.core.thermal.survey import RoomRc

Floats = NDArray[np.float64]

_FREE: dict[ModelKind, tuple[int, ...]] = {
    "one store": (0, 2),
    "two stores": (0, 1, 2, 3),
    "two stores, slow emitter": (0, 1, 2, 3, 4),
}
# A range is to hold what the linearised fit does not see (gains that follow the clock, a store
# split in two): the parameters' spread is widened by this factor, set on seeds of the stand-in.
SPREAD_FACTOR = 1.3
# What no log of weeks can tell, as standard deviations of logarithms, in the order of ``PARAMETERS``:
# gains that rise and fall with the weather pass for loss, and two stores stand for many in a real room.
FLOOR_SD = np.array([0.05, 0.08, 0.10, 0.08, 0.15])
_MIN_HOURS = 48.0
_ONE_STORE_AIR_SHARE = 0.02


def check_teaches(log: RoomLog) -> None:
    """Refuse a log that cannot teach.

    Raises
    ------
    NotKnowable
        If it is short, constant, without heating that goes on and off, or no warmer than outdoors.
    """
    heard = ~np.isnan(log.room_c[1:]) & log.known
    hours = float(heard.sum()) * log.step_s / 3600
    if hours < _MIN_HOURS:
        raise NotKnowable(
            f"Room, outdoor temperature and heat stand together in only {hours:.0f} h of this log.",
            "Record at least 48 h, better 14 days, of all three at the same time.",
        )
    if float(np.nanmax(log.room_c) - np.nanmin(log.room_c)) < 0.5:
        raise NotKnowable(
            "The room's temperature hardly changes (less than 0.5 K), so nothing shows how fast it does.",
            "Record nights with a setback of 2 K or more.",
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
            f"On average the room is only {excess:.1f} K warmer than outdoors.",
            "Record in colder weather: 8 K or more between room and outdoors.",
        )


def plain_balance(log: RoomLog, prior: Prior) -> Balance:
    """Return the loss from mean heat and mean excess temperature over whole days."""
    per_day = max(1, round(86_400 / log.step_s))
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
        hours=float(heard.sum()) * log.step_s / 3600,
    )


class _Problem:
    """One log, one model: residuals over the free logarithms, the linear unknowns solved inside."""

    def __init__(self, log: RoomLog, prior: Prior, model: ModelKind, full_heat_w: float) -> None:
        self.log, self.prior, self.model, self.full_heat_w = log, prior, model, full_heat_w
        self.free = _FREE[model]
        surveyed = prior.room
        self.prior_log = np.log(
            [
                surveyed.loss_w_k,
                # Furniture and surfaces answer with the air: well above the air's own store.
                2.0 * surveyed.air_j_k,
                surveyed.fabric_j_k,
                surveyed.air_fabric_w_k,
                max(surveyed.emitter_lag_s, 300.0),
            ]
        )
        self.air_out_share = surveyed.air_out_w_k / surveyed.loss_w_k
        self.measured = ~np.isnan(log.room_c)
        self.weight = 1.0
        self._inputs()

    def _inputs(self) -> None:
        log = self.log
        known = log.known
        index = np.arange(log.outdoor_c.size)
        heard = ~np.isnan(log.outdoor_c)
        self.outdoor = np.interp(index, index[heard], log.outdoor_c[heard])
        self.heat = np.where(known, log.heat_w, 0.0)
        # After a stretch without inputs the room starts afresh: its temperatures are unknown again.
        starts = [0] + [k for k in range(1, known.size) if known[k] and not known[k - 1]]
        self.segments = [(begin, end) for begin, end in zip(starts, [*starts[1:], known.size], strict=True)]
        for begin, end in self.segments:
            run = known[begin:end]
            stop = begin + (int(np.argmin(run)) if not run.all() else run.size)
            self.measured[stop + 1 : end + 1] = False
            if not known[begin]:
                self.measured[begin : end + 1] = False
        self.days = int(log.day.max()) - int(log.day.min()) + 1

    def room(self, logs: Floats) -> RoomRc:
        """Return the room of free logarithms."""
        full = self.prior_log.copy()
        full[list(self.free)] = logs
        loss, air, fabric, coupling, lag = np.exp(full)
        if self.model == "one store":
            air, coupling = _ONE_STORE_AIR_SHARE * fabric, 50.0 * loss
        air_out = self.air_out_share * loss
        through = loss - air_out
        # The fabric's own way out, so that both ways together lose ``loss``.
        fabric_out = through * coupling / max(coupling - through, 0.05 * coupling)
        return RoomRc(
            air_out_w_k=air_out,
            air_fabric_w_k=coupling,
            fabric_out_w_k=fabric_out,
            air_j_k=air,
            fabric_j_k=fabric,
            convective=self.prior.room.convective,
            emitter_lag_s=lag if self.model == "two stores, slow emitter" else 0.0,
        )

    def channels(self, room: RoomRc) -> tuple[Floats, Floats]:
        """Return (known response (step + 1,), unknowns' responses (step + 1, unknown))."""
        log, step = self.log, compile_rooms([room], self.full_heat_w, self.log.step_s)
        known, unknown = np.empty(log.room_c.size), np.zeros((log.room_c.size, self.unknowns))
        for number, (begin, end) in enumerate(self.segments):
            first = self._first_c(begin, end)
            starts = np.zeros((3, 5 + self.days))
            starts[:, 0] = first
            starts[[0, 2], 1], starts[1, 2] = 1.0, 1.0
            gains = np.zeros((end - begin, 5 + self.days))
            gains[:, 3] = 1.0
            gains[:, 4] = log.clear_sky_w_m2[begin:end]
            gains[np.arange(end - begin), 5 + log.day[begin:end] - log.day.min()] = gains[:, 4]
            air = responses(
                step, outdoor_c=self.outdoor[begin : end + 1], heat_w=self.heat[begin:end], gains=gains, starts_c=starts
            )
            known[begin : end + 1] = air[:, 0]
            unknown[begin : end + 1, 2 * number : 2 * number + 2] = air[:, 1:3]
            unknown[begin : end + 1, 2 * len(self.segments) :] = air[:, 3:]
        return known, unknown

    @property
    def unknowns(self) -> int:
        return 2 * len(self.segments) + 2 + self.days

    def _first_c(self, begin: int, end: int) -> float:
        heard = self.log.room_c[begin : end + 1]
        heard = heard[~np.isnan(heard)]
        return float(heard[0]) if heard.size else float(np.nanmean(self.log.room_c))

    def linear_prior(self) -> tuple[Floats, Floats]:
        """Return (means, spreads) of first air and fabric temperatures, gain, sun, sun by day."""
        p, pairs = self.prior, len(self.segments)
        return (
            np.concatenate([np.zeros(2 * pairs), [p.gain_w, p.sun_m2], np.zeros(self.days)]),
            np.concatenate([np.tile([0.3, 1.5], pairs), [p.gain_sd_w, p.sun_sd_m2], np.full(self.days, p.sun_sd_m2)]),
        )

    def solve_linear(self, logs: Floats) -> tuple[Floats, Floats, Floats]:
        """Return (coefficients, modelled air (step + 1,), scaled unknown responses)."""
        known, unknown = self.channels(self.room(logs))
        mean, spread = self.linear_prior()
        rows = unknown[self.measured] * self.weight
        target = (self.log.room_c - known)[self.measured] * self.weight
        # The prior keeps the normal equations well conditioned.
        normal = rows.T @ rows + np.diag(spread**-2)
        coefficients = np.asarray(np.linalg.solve(normal, rows.T @ target + mean * spread**-2), dtype=np.float64)
        return coefficients, known + unknown @ coefficients, unknown

    def residuals(self, logs: Floats) -> Floats:
        """Return weighted misfits, then distances from prior knowledge, all in spreads."""
        coefficients, air, _ = self.solve_linear(logs)
        mean, spread = self.linear_prior()
        free = list(self.free)
        return np.concatenate(
            [
                (air - self.log.room_c)[self.measured] * self.weight,
                (coefficients - mean) / spread,
                (logs - self.prior_log[free]) / PRIOR_SD[free],
            ]
        )


@dataclass(frozen=True, slots=True)
class _Solution:
    problem: _Problem
    logs: Floats
    coefficients: Floats
    air_c: Floats
    rmse_k: float


def _independence(residual: Floats) -> float:
    """Return by how much neighbouring errors repeat each other, (1 + ρ)/(1 − ρ), at least 1."""
    spread = float(np.dot(residual, residual))
    if residual.size < 10 or spread <= 0:
        return 1.0
    rho = min(0.99, max(0.0, float(np.dot(residual[1:], residual[:-1])) / spread))
    return (1 + rho) / (1 - rho)


def _solve(problem: _Problem, progress: Callable[[], None]) -> _Solution:
    """Fit one model; the second pass weighs the log by how independent its errors proved."""
    logs = problem.prior_log[list(problem.free)]
    steps_3h = max(1.0, 3 * 3600 / problem.log.step_s)
    problem.weight = 1 / (0.15 * np.sqrt(steps_3h))
    for _ in range(2):
        progress()
        found = least_squares(problem.residuals, logs, method="trf", x_scale=0.3, max_nfev=40, xtol=1e-6, ftol=1e-8)
        logs = found.x
        coefficients, air, _ = problem.solve_linear(logs)
        error = (air - problem.log.room_c)[problem.measured]
        rmse = float(np.sqrt(np.mean(error**2)))
        problem.weight = 1 / (max(rmse, 0.03) * np.sqrt(_independence(error)))
    return _Solution(problem, logs, coefficients, air, rmse)


def _free_run_rmse(solution: _Solution, whole: RoomLog, cut: int) -> float:
    """Return the error over steps from ``cut`` on of a run that saw nothing of them.

    The run goes on from the part that was shown; the sun of a day not shown is the usual one.
    """
    problem = solution.problem
    free = _Problem(whole, problem.prior, problem.model, problem.full_heat_w)
    known, unknown = free.channels(problem.room(solution.logs))
    pairs, mine = 2 * len(free.segments), 2 * len(problem.segments)
    coefficients = np.zeros(free.unknowns)
    coefficients[:mine] = solution.coefficients[:mine]
    shared = solution.coefficients[mine:]
    coefficients[pairs : pairs + shared.size] = shared
    error = (known + unknown @ coefficients - whole.room_c)[cut + 1 :][free.measured[cut + 1 :]]
    return float(np.sqrt(np.mean(error**2)))


def _covariance(solution: _Solution) -> Floats:
    """Return the covariance of (free logarithms, linear unknowns) at the solution."""
    problem, logs = solution.problem, solution.logs
    free = list(problem.free)
    columns = []
    for i in range(logs.size):
        nudge = np.zeros(logs.size)
        nudge[i] = 1e-3
        up_known, up = problem.channels(problem.room(logs + nudge))
        down_known, down = problem.channels(problem.room(logs - nudge))
        slope = (up_known + up @ solution.coefficients - down_known - down @ solution.coefficients) / 2e-3
        columns.append(slope[problem.measured] * problem.weight)
    _, unknown = problem.channels(problem.room(logs))
    jacobian = np.column_stack([*columns, unknown[problem.measured] * problem.weight])
    prior = np.concatenate([1 / PRIOR_SD[free], 1 / problem.linear_prior()[1]])
    return np.linalg.inv(jacobian.T @ jacobian + np.diag(prior**2))


def _say_nothing(_share: float, _sentence: str) -> None:
    """Take progress and do nothing with it."""


def fit_room(
    log: RoomLog,
    prior: Prior,
    *,
    full_heat_w: float,
    slow_emitter: bool = True,
    held_back_h: float | None = None,
    progress: Callable[[float, str], None] = _say_nothing,
) -> RoomFit:
    """Fit a room to its log, choosing the model on a held-back part.

    Parameters
    ----------
    log : RoomLog
        At least 48 h of room and outdoor temperature and heat.
    prior : Prior
        From the survey.
    full_heat_w : float
        The heater's rated heat [W].
    slow_emitter : bool
        Whether an emitter that gives its heat late is among the models tried.
    held_back_h : float or None
        Length of the held-back end [h]; a quarter of the log if not given.
    progress : callable
        Told the share done and what is being done; may raise to stop.

    Raises
    ------
    NotKnowable
        If the log cannot teach (``check_teaches``).

    Notes
    -----
    The end of the log is held back; the plainest model within 5 % of the best free run over it
    is chosen and then fitted to the whole log. Errors that follow one another count as fewer:
    the weight of the log is divided by (1 + ρ)/(1 − ρ) of their lag-one correlation ρ.
    """
    check_teaches(log)
    scale = _heat_scale(log, prior)
    if not log.watts_known:
        log = replace(log, heat_w=log.heat_w * scale)
        full_heat_w = float(np.nanmax(log.heat_w))
    held_steps = log.heat_w.size * HELD_BACK if held_back_h is None else held_back_h * 3600 / log.step_s
    cut = log.heat_w.size - round(held_steps)
    chosen, errors = _choice(log, cut, prior, full_heat_w, slow_emitter=slow_emitter, progress=progress)
    progress(len(errors) / (len(errors) + 1), f"Fitting {chosen} to the whole log")
    solution = _solve(_Problem(log, prior, chosen, full_heat_w), lambda: None)
    mean_error = log.room_c[cut:] - np.nanmean(log.room_c[:cut])
    return _result(
        solution,
        log,
        prior,
        held_back=errors[chosen],
        mean_rmse=float(np.sqrt(np.nanmean(mean_error**2))),
        candidates=tuple(errors.items()),
        heat_scale=scale,
    )


def _choice(
    log: RoomLog,
    cut: int,
    prior: Prior,
    full_heat_w: float,
    *,
    slow_emitter: bool,
    progress: Callable[[float, str], None],
) -> tuple[ModelKind, dict[ModelKind, float]]:
    """Return the model chosen on the steps from ``cut`` on, and each model's error there [K]."""
    names: list[ModelKind] = ["one store", "two stores"]
    if slow_emitter:
        names.append("two stores, slow emitter")
    errors: dict[ModelKind, float] = {}
    for number, name in enumerate(names):
        share = number / (len(names) + 1)
        progress(share, f"Trying {name}")
        problem = _Problem(log.part(0, cut), prior, name, full_heat_w)
        solution = _solve(problem, partial(progress, share, f"Fitting {name}"))
        errors[name] = _free_run_rmse(solution, log, cut)
    best = min(errors.values())
    return next(name for name in names if errors[name] <= 1.05 * best), errors


def _heat_scale(log: RoomLog, prior: Prior) -> float:
    """Return the watts that stand for one unit of heat: those the surveyed room would need; ratios stay true."""
    if log.watts_known:
        return 1.0
    balance = plain_balance(log, prior)
    loss_w = prior.room.loss_w_k * balance.mean_excess_k
    return max(loss_w - prior.gain_w, 0.3 * loss_w) / balance.mean_heat_w


def _result(
    solution: _Solution,
    log: RoomLog,
    prior: Prior,
    *,
    held_back: float,
    mean_rmse: float,
    candidates: tuple[tuple[str, float], ...],
    heat_scale: float,
) -> RoomFit:
    problem = solution.problem
    free, first_gain = len(problem.free), len(problem.free) + 2 * len(problem.segments)
    covariance = _covariance(solution) * SPREAD_FACTOR**2
    covariance[np.arange(free), np.arange(free)] += FLOOR_SD[list(problem.free)] ** 2
    wanted = [*range(free), first_gain, first_gain + 1]
    draws = normal_draws(covariance[np.ix_(wanted, wanted)], DRAWS)
    rooms = (problem.room(solution.logs), *(problem.room(solution.logs + d[:free]) for d in draws))
    at = 2 * len(problem.segments)
    gain, sun = float(solution.coefficients[at]), float(solution.coefficients[at + 1])
    gains, suns = np.concatenate([[gain], gain + draws[:, free]]), np.concatenate([[sun], sun + draws[:, free + 1]])
    constants = np.array([room.network().time_constants_s() for room in rooms])

    def of(read: Callable[[RoomRc], float]) -> Learnt:
        return learnt_from(read(rooms[0]), [read(room) for room in rooms[1:]])

    return RoomFit(
        model=problem.model,
        watts_known=log.watts_known,
        loss_w_k=of(lambda room: room.loss_w_k),
        air_j_k=of(lambda room: room.air_j_k),
        fabric_j_k=of(lambda room: room.fabric_j_k),
        air_fabric_w_k=of(lambda room: room.air_fabric_w_k),
        slow_s=learnt_from(float(constants[0, 0]), constants[1:, 0]),
        fast_s=learnt_from(float(constants[0, 1]), constants[1:, 1]),
        emitter_lag_s=of(lambda room: room.emitter_lag_s) if rooms[0].emitter_lag_s else None,
        gain_w=learnt_plain(gain, gains[1:]),
        sun_m2=learnt_plain(sun, suns[1:]),
        rooms=rooms,
        gains_w=tuple(float(g) for g in gains),
        suns_m2=tuple(float(s) for s in suns),
        fitted_c=solution.air_c,
        rmse_k=solution.rmse_k,
        held_back_rmse_k=held_back,
        mean_rmse_k=mean_rmse,
        candidates=candidates,
        balance=plain_balance(log, prior),
        hours=float(problem.measured.sum()) * log.step_s / 3600,
        full_heat_w=problem.full_heat_w,
        heat_scale=heat_scale,
    )
