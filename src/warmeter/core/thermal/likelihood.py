"""How likely a room's log is when part of the heat was logged by nobody: a filter over room and unlogged heat.

Beside its temperatures the room carries what no log shows and what wanders about its mean: heat of people, doors
and gusts (hours), what the model's form gets wrong about walls and weather (days), the clouds, and what the sensor
feels beside the air. All but the last are heat, in watts; so the temperatures are simulated through the whole log,
and what the model cannot explain widens the range instead of passing for loss.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats
from warmeter.core.thermal.room_fit import RoomLog
from warmeter.core.thermal.simulate import EMITTER_EXCESS_K, NODES, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import S_PER_H

# How long each wandering part remembers [s], and the clouds' spread over the mean sun; chosen on layered
# stand-in houses whose seeds are used for nothing else (docs/methods, "The fit").
QUICK_S, SLOW_S, CLOUD_S, LOCAL_S = 2 * S_PER_H, 48 * S_PER_H, 12 * S_PER_H, 1800.0
CLOUD_SHARE = 0.6
# What is known of first temperatures, as standard deviations: the air from the sensor, the fabric and the emitter
# hardly (a house that was left cold, a radiator that was just on) [K].
START_SD_K = (0.3, 3.0, 6.0)
QUICK, SLOW, CLOUD, LOCAL = NODES, NODES + 1, NODES + 2, NODES + 3
STATES = NODES + 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Unlogged:
    """What is assumed of heat that no log shows, and of the sensor.

    Parameters
    ----------
    gain_w : float
        Mean of what people, machines and neighbours give [W].
    sun_m2 : float
        Mean effective aperture, clouds included, 0 or more [m2].
    quick_w, slow_w : float
        Standard deviations of what wanders within hours and within days, 0 or more [W].
    local_k : float
        Standard deviation of what the sensor feels beside the mean air for half an hour [K].
    noise_k : float
        Standard deviation of a single reading, above 0 [K].
    beside_heater_k : float
        By how much the sensor reads too high while the heater gives its full heat [K].
    """

    gain_w: float
    sun_m2: float
    quick_w: float
    slow_w: float
    local_k: float
    noise_k: float
    beside_heater_k: float = 0.0


@njit(cache=True, nogil=True)
def _filtered(  # type: ignore[no-untyped-def]
    f, by_gain, boundary, shapes, measured, starts, start_mean, start_var, wander, seen, noise_var, means, spreads, keep
):
    """Return minus twice the log likelihood without its constant.

    States: air, fabric, emitter; then one for each column of ``shapes`` (step, shape), heat of that shape; last what
    the sensor feels beside the air. ``f`` holds what moves them apart from the shapes.
    """
    n = f.shape[0]
    last = n - 1
    x, p = start_mean[0].copy(), np.zeros((n, n))
    fp, before = np.empty((n, n)), np.empty(n)
    total, number = 0.0, 0
    for k in range(measured.shape[0]):
        if k > 0:
            heat = 0.0
            for m in range(3, last):
                heat += shapes[k - 1, m - 3] * x[m]
            for i in range(3):
                s = boundary[k - 1, i] + by_gain[i] * heat
                for j in range(3):
                    s += f[i, j] * x[j]
                before[i] = s
            for i in range(3):
                x[i] = before[i]
            for m in range(3, n):
                x[m] *= f[m, m]
            # Rows of F P: the first three mix, the others only fade.
            for j in range(n):
                heat = 0.0
                for m in range(3, last):
                    heat += shapes[k - 1, m - 3] * p[m, j]
                for i in range(3):
                    s = by_gain[i] * heat
                    for m in range(3):
                        s += f[i, m] * p[m, j]
                    fp[i, j] = s
            for i in range(3):
                heat = 0.0
                for m in range(3, last):
                    heat += shapes[k - 1, m - 3] * fp[i, m]
                for j in range(3):
                    s = by_gain[j] * heat
                    for m in range(3):
                        s += f[j, m] * fp[i, m]
                    p[i, j] = s
                for j in range(3, n):
                    p[i, j] = fp[i, j] * f[j, j]
                    p[j, i] = p[i, j]
            for i in range(3, n):
                for j in range(3, n):
                    p[i, j] *= f[i, i] * f[j, j]
                p[i, i] += wander[i]
        if number < starts.shape[0] and k == starts[number]:
            for i in range(3):
                x[i] = start_mean[number, i]
                for j in range(n):
                    p[i, j] = 0.0
                    p[j, i] = 0.0
                p[i, i] = start_var[i]
            if number == 0:
                for i in range(3, n):
                    x[i] = 0.0
                    p[i, i] = start_var[i]
            number += 1
        y = measured[k]
        if not np.isnan(y):
            variance, error = noise_var, y
            for i in range(n):
                s = 0.0
                for j in range(n):
                    s += p[i, j] * seen[j]
                before[i] = s
                variance += seen[i] * s
                error -= seen[i] * x[i]
            total += error * error / variance + np.log(variance)
            for i in range(n):
                x[i] += before[i] * error / variance
            for i in range(n):
                scaled = before[i] / variance
                for j in range(n):
                    p[i, j] -= scaled * before[j]
        if keep:
            for i in range(n):
                means[k, i] = x[i]
                for j in range(n):
                    spreads[k, i, j] = p[i, j]
    return total


@dataclass(frozen=True, slots=True)
class _Moves:
    """What one room and one assumption of unlogged heat make of a log, ready for the kernel."""

    state: Floats
    by_gain: Floats
    boundary: Floats
    start_mean: Floats
    start_var: Floats
    wander: Floats
    seen: Floats
    noise_var: float


class LogFilter:
    """One log and one form of sun, ready to be held against any room.

    Parameters
    ----------
    log : RoomLog
        Room, outdoor temperature and heat.
    sun_w_m2 : (step,) float array
        Clear-sky irradiance on the plane that the sun is taken to come through [W/m2].
    full_heat_w : float
        The heater's full heat [W].
    """

    def __init__(self, log: RoomLog, sun_w_m2: Floats, full_heat_w: float) -> None:
        self.log, self.sun_w_m2, self.full_heat_w = log, sun_w_m2, full_heat_w
        known = log.known
        index, heard = np.arange(log.outdoor_c.size), ~np.isnan(log.outdoor_c)
        self._outdoor_c = np.interp(index, index[heard], log.outdoor_c[heard])
        self._heat_w = np.where(known, log.heat_w, 0.0)
        # After a stretch without inputs the room starts afresh: its temperatures are unknown again.
        starts = [0, *(k for k in range(1, known.size) if known[k] and not known[k - 1])]
        self._starts = np.array(starts, dtype=np.int64)
        self.measured_c = log.room_c.copy()
        self.measured_c[1:][~known] = np.nan
        self._shapes = np.ascontiguousarray(np.stack([np.ones(known.size), np.ones(known.size), sun_w_m2], axis=1))
        self._first_c = [self._heard_from(k) for k in starts]

    def _heard_from(self, begin: int) -> float:
        heard = self.log.room_c[begin:]
        heard = heard[~np.isnan(heard)]
        return float(heard[0]) if heard.size else float(np.nanmean(self.log.room_c))

    def deviance(self, room: RoomRc, unlogged: Unlogged) -> float:
        """Return minus twice the log likelihood of the measured temperatures, without its constant."""
        means, spreads = np.empty((1, STATES)), np.empty((1, STATES, STATES))
        return self._filtered(self._moves(room, unlogged), self.measured_c, means, spreads, keep=False)

    def free_run_c(self, room: RoomRc, unlogged: Unlogged, cut: int) -> Floats:
        """Return what the sensor is expected to read if nothing after instant ``cut`` is shown, shape (step + 1,) [°C]."""
        shown = self.measured_c.copy()
        shown[cut + 1 :] = np.nan
        moves = self._moves(room, unlogged)
        means, _ = self._kept(moves, shown)
        return np.asarray(means @ moves.seen, dtype=np.float64)

    def smoothed(self, room: RoomRc, unlogged: Unlogged) -> Floats:
        """Return every state as the whole log shows it, shape (step + 1, state): °C, W, W, m2 and K.

        References
        ----------
        Rauch, Tung and Striebel 1965, the backward pass, over each stretch with inputs.
        """
        moves = self._moves(room, unlogged)
        means, spreads = self._kept(moves, self.measured_c)
        smooth = means.copy()
        for begin, end in self._stretches():
            for k in range(end - 2, begin - 1, -1):
                step = self._step(moves, k)
                ahead = step @ spreads[k] @ step.T + np.diag(moves.wander + 1e-9)
                predicted = step @ means[k]
                predicted[:NODES] += moves.boundary[k]
                smooth[k] = means[k] + spreads[k] @ step.T @ np.linalg.solve(ahead, smooth[k + 1] - predicted)
        return smooth

    def modelled_c(self, room: RoomRc, unlogged: Unlogged, states: Floats) -> Floats:
        """Return the sensor's reading without what wanders, the clouds apart, shape (step + 1,) [°C].

        ``states`` as ``smoothed`` gives them: each stretch begins at theirs, under their clouds.
        """
        moves = self._moves(room, unlogged)
        out = np.empty(states.shape[0])
        for begin, end in self._stretches():
            at = states[begin].copy()
            at[[QUICK, SLOW, LOCAL]] = 0.0
            out[begin] = at @ moves.seen
            for k in range(begin, end - 1):
                at[CLOUD] = states[k, CLOUD]
                at = self._step(moves, k) @ at
                at[:NODES] += moves.boundary[k]
                out[k + 1] = at @ moves.seen
        return out

    def _stretches(self) -> list[tuple[int, int]]:
        starts = self._starts.tolist()
        return list(zip(starts, [*starts[1:], self.measured_c.size], strict=True))

    def _step(self, moves: _Moves, k: int) -> Floats:
        step = moves.state.copy()
        step[:NODES, QUICK:LOCAL] = np.outer(moves.by_gain, self._shapes[k])
        return step

    def _kept(self, moves: _Moves, measured_c: Floats) -> tuple[Floats, Floats]:
        means, spreads = np.empty((measured_c.size, STATES)), np.empty((measured_c.size, STATES, STATES))
        self._filtered(moves, measured_c, means, spreads, keep=True)
        return means, spreads

    def _filtered(self, moves: _Moves, measured_c: Floats, means: Floats, spreads: Floats, *, keep: bool) -> float:
        return float(
            _filtered(
                moves.state,
                moves.by_gain,
                moves.boundary,
                self._shapes,
                measured_c,
                self._starts,
                moves.start_mean,
                moves.start_var,
                moves.wander,
                moves.seen,
                moves.noise_var,
                means,
                spreads,
                keep,
            )
        )

    def _moves(self, room: RoomRc, unlogged: Unlogged) -> _Moves:
        step, step_s = compile_rooms([room], self.full_heat_w, self.log.step_s), self.log.step_s
        now, then, held = step.now[0], step.then[0], step.held[0]
        fade = np.exp(-step_s / np.array([QUICK_S, SLOW_S, CLOUD_S, LOCAL_S]))
        state = np.zeros((STATES, STATES))
        state[:NODES, :NODES] = step.state[0]
        state[range(NODES, STATES), range(NODES, STATES)] = fade
        gain = unlogged.gain_w + unlogged.sun_m2 * self.sun_w_m2
        boundary = np.outer(self._outdoor_c[:-1], now[:, 0]) + np.outer(self._outdoor_c[1:], then[:, 0])
        boundary += np.outer(self._heat_w, held[:, 1]) + np.outer(gain, held[:, 2])
        spreads = unlogged.quick_w, unlogged.slow_w, CLOUD_SHARE * unlogged.sun_m2, unlogged.local_k
        start_var = np.square(np.array([*START_SD_K, *spreads]))
        seen = np.zeros(STATES)
        beside = unlogged.beside_heater_k / EMITTER_EXCESS_K
        seen[[0, 2, LOCAL]] = 1.0 - beside, beside, 1.0
        return _Moves(
            state=state,
            by_gain=held[:, 2].copy(),
            boundary=boundary,
            start_mean=np.stack([self._start_c(room, k, c) for k, c in zip(self._starts, self._first_c, strict=True)]),
            start_var=start_var,
            wander=np.concatenate([np.zeros(NODES), (1 - fade**2) * start_var[NODES:]]),
            seen=seen,
            noise_var=unlogged.noise_k**2,
        )

    def _start_c(self, room: RoomRc, begin: int, air_c: float) -> Floats:
        """Return where a stretch is taken to begin: air as heard, fabric as in a settled room."""
        through = room.fabric_out_w_k / (room.fabric_out_w_k + room.air_fabric_w_k)
        start = np.zeros(STATES)
        start[:NODES] = air_c, air_c - through * (air_c - self._outdoor_c[begin]), air_c
        return start
