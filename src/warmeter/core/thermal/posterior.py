"""How far a room and its unlogged heat are from a log and from what was known: the posterior that a fit climbs."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from scipy.optimize import fmin_l_bfgs_b

from warmeter.core.arrays import Floats
from warmeter.core.thermal.likelihood import LogFilter, Unlogged
from warmeter.core.thermal.room_fit import LOW_SUN, ModelKind, Prior, RoomLog
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import S_PER_DAY

# Part of a log's likelihood that counts. Days repeat each other: what a form gets wrong on one morning it gets
# wrong on all, so fourteen mornings are not fourteen witnesses, and forty are no more than fourteen. Chosen on
# layered stand-in houses.
LOG_TRUST, FULL_DAYS = 0.5, 14.0
# Spreads of what wanders, as shares: of usual gains within hours, of the mean loss within days.
QUICK_SHARE, SLOW_SHARE = 0.5, 0.10
LOCAL_K, NOISE_K = 0.1, 0.08
_SPREAD_SD = (0.7, 0.7, 0.3)  # of those spreads themselves, as logarithms: quick, local, noise
_SHARE_SD = 0.8  # of the logit of the loss that passes no store
_CONVECTIVE_SD = 1.0  # of the logit of the heater's convective share
_ONE_STORE_AIR_SHARE = 0.02
_NOWHERE = 1e12  # cost of a point at which the log has no probability
_FIRST, _MOST_STEPS = (0.02, 15), 60  # trust in the log and steps: a first climb, then the climb
_FACTR = 4.5e8  # ends where a step gains less than 1e-7 of the cost
_REACH = 4.0  # standard deviations beyond which nothing is looked for
# Places in a point; the first five are the room's loss, stores, coupling and lag.
THERMAL, AIR, LAG, _SHARE, GAIN, _CONVECTIVE, _DRAIN, POINT_SIZE = 5, 1, 4, 5, 6, 11, 12, 13
NEIGHBOUR_SD_K = 4.0  # of a neighbour's temperature that nobody logs
_BESIDE_K = 1.0  # spread of how much warmer a sensor reads that stands beside the heater
Extra = Literal["", "beside the heater"]


class Posterior:
    """One log and one form: how far a point is from what was measured and from what was known.

    A point is a vector of standard deviations from prior knowledge, in the order of the logarithms of loss, air
    store, fabric store, coupling and lag, the logit of the share of loss beside the fabric, and the logarithms of
    gain, sun and the spreads of quick heat, local warmth and noise, the logit of the heater's convective share, and how
    much colder the neighbours are than was written down. With the extra "beside the heater" one more stands last: how much too warm the sensor reads at full heat.
    """

    def __init__(self, log: RoomLog, prior: Prior, form: ModelKind, full_heat_w: float, extra: Extra = "") -> None:
        self.log, self.prior, self.form, self.full_heat_w, self.extra = log, prior, form, full_heat_w, extra
        days = log.heat_w.size * log.step_s / S_PER_DAY
        self.trust = LOG_TRUST * min(1.0, FULL_DAYS / days)
        self.sun_w_m2 = log.windows_w_m2 if form == LOW_SUN and log.windows_w_m2 is not None else log.clear_sky_w_m2
        self.filter = LogFilter(log, self.sun_w_m2, full_heat_w)
        room, share = prior.room, prior.room.air_out_w_k / prior.room.loss_w_k
        convective = min(max(room.convective, 0.05), 0.95)
        self._mean = np.log(
            [
                room.loss_w_k,
                # Furniture and surfaces answer with the air: well above the air's own store.
                2.0 * room.air_j_k,
                room.fabric_j_k,
                room.air_fabric_w_k,
                max(room.emitter_lag_s, 300.0),
                share / (1 - share),
                prior.gain_w,
                prior.sun_m2,
                QUICK_SHARE * prior.gain_w,
                LOCAL_K,
                NOISE_K,
                convective / (1 - convective),
            ]
        )
        quick_sd, local_sd, noise_sd = _SPREAD_SD
        thermal = prior.thermal_sd
        self._sd = np.array(
            [*thermal, _SHARE_SD, prior.gain_sd, prior.sun_sd, quick_sd, local_sd, noise_sd, _CONVECTIVE_SD]
        )
        self._mean_c = float(np.nanmean(log.room_c))
        excess = max(1.0, float(np.nanmean(log.room_c - log.outdoor_c)))
        self._slow_w = SLOW_SHARE * room.loss_w_k * excess

    def room(self, point: Floats) -> RoomRc:
        """Return the room at a point."""
        values = self._mean + self._sd * point[: self._mean.size]
        loss, air, fabric, coupling, lag = np.exp(values[:THERMAL])
        if self.form == "one store":
            air, coupling = _ONE_STORE_AIR_SHARE * fabric, 50.0 * loss
        air_out = loss / (1 + np.exp(-values[_SHARE]))
        through = loss - air_out
        return RoomRc(
            air_out_w_k=float(air_out),
            air_fabric_w_k=float(coupling),
            # The fabric's own way out, so that both ways together lose ``loss``.
            fabric_out_w_k=float(through * coupling / max(coupling - through, 0.05 * coupling)),
            air_j_k=float(air),
            fabric_j_k=float(fabric),
            convective=float(1 / (1 + np.exp(-values[_CONVECTIVE]))),
            emitter_lag_s=float(lag),
        )

    def unlogged(self, point: Floats) -> Unlogged:
        """Return what is assumed of unlogged heat at a point."""
        gain, sun, quick, local, noise = np.exp((self._mean + self._sd * point[: self._mean.size])[GAIN:_CONVECTIVE])
        drain_w = self.drain_w(point)
        return Unlogged(
            gain_w=float(gain) - drain_w,
            sun_m2=float(sun),
            quick_w=float(quick),
            slow_w=self._slow_w,
            local_k=float(local),
            noise_k=float(noise),
            beside_heater_k=_BESIDE_K * float(point[-1]) if self.extra == "beside the heater" else 0.0,
        )

    def drain_w(self, point: Floats) -> float:
        """Return what flows to heated neighbours at a point; negative if they are warmer [W]."""
        prior = self.prior
        excess_k = self._mean_c - prior.neighbour_c + NEIGHBOUR_SD_K * float(point[_DRAIN])
        return prior.neighbour_w_k * excess_k

    def cost(self, point: Floats, trust: float | None = None) -> float:
        """Return minus the logarithm of the posterior density at a point, without its constant.

        ``trust`` is the part of the log's likelihood that counts, its own if not given.
        """
        if not np.isfinite(point).all():
            return _NOWHERE
        deviance = self.filter.deviance(self.room(point), self.unlogged(point))
        if not np.isfinite(deviance):
            return _NOWHERE
        return 0.5 * (self.trust if trust is None else trust) * deviance + 0.5 * float(point @ point)

    def flat_sun(self) -> float:
        """Return the clear-sky sun on the form's plane over that on the flat, through the log (ratio)."""
        flat = float(self.log.clear_sky_w_m2.sum())
        return float(self.sun_w_m2.sum()) / flat if flat > 0 else 1.0


def solve(posterior: Posterior, start: Floats, progress: Callable[[], None], *, is_near: bool = False) -> Floats:
    """Return the likeliest point, found from a start.

    From afar the log is first trusted little, so that the first steps do not leap over the best point.
    """
    point = start
    for trust, most_steps in ((posterior.trust, _MOST_STEPS),) if is_near else (_FIRST, (posterior.trust, _MOST_STEPS)):
        point = _climbed(posterior, point, progress, trust, most_steps)
    return point


def _climbed(
    posterior: Posterior, start: Floats, progress: Callable[[], None], trust: float, most_steps: int
) -> Floats:
    def cost_and_slope(point: Floats) -> tuple[float, Floats]:
        progress()
        here = posterior.cost(point, trust)
        nudges = 1e-4 * np.eye(point.size)
        return here, np.array([(posterior.cost(point + nudge, trust) - here) / 1e-4 for nudge in nudges])

    bounds = [(-_REACH, _REACH)] * POINT_SIZE + [(0.0, 2 * _REACH)] * (start.size - POINT_SIZE)
    found, _, _ = fmin_l_bfgs_b(cost_and_slope, start, bounds=bounds, maxiter=most_steps, factr=_FACTR)
    return np.asarray(found, dtype=np.float64)


def curvature(posterior: Posterior, point: Floats, step: float = 0.03) -> Floats:
    """Return the second derivatives of the cost at a point, shape (n, n), by central differences."""
    n, here = point.size, posterior.cost(point)
    nudge = step * np.eye(n)
    up = [posterior.cost(point + nudge[i]) for i in range(n)]
    down = [posterior.cost(point - nudge[i]) for i in range(n)]
    out = np.empty((n, n))
    for i in range(n):
        out[i, i] = (up[i] + down[i] - 2 * here) / step**2
        for j in range(i):
            both = posterior.cost(point + nudge[i] + nudge[j]) + posterior.cost(point - nudge[i] - nudge[j])
            out[i, j] = out[j, i] = (both - up[i] - up[j] - down[i] - down[j] + 2 * here) / (2 * step**2)
    return out
