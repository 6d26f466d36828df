"""Rooms stepped exactly under on/off control: the compiled kernels and their plain reference.

Arrays run (draw, step) with separate parameter draws as the leading axis, so that a range costs
one call. ``plain_controlled_run`` is the reference in plain NumPy that the kernel is tested with.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats
from warmeter.core.thermal.network import ExactStep, Link, RcNetwork, exact_step
from warmeter.core.thermal.survey import RoomRc

# A heater's surface is taken to stand this far above the room at full heat; with the emitter's lag
# it fixes the emitter node. The room hardly feels the choice, only the lag.
EMITTER_EXCESS_K = 30.0
GAIN_TO_AIR = 0.5  # sun and people: half to the air, half to the fabric
NODES, INPUTS = 3, 4


def room_network(room: RoomRc, full_heat_w: float, beside_w_k: float = 0.0) -> RcNetwork:
    """Return the room's network: air, fabric and, where heat comes late, the emitter; boundaries outdoors and beside.

    ``beside_w_k`` is the conductance of the walls that it shares with heated rooms, from fabric to fabric [W/K].
    """
    alone = room.network()
    surveyed = RcNetwork(
        capacities_j_k=alone.capacities_j_k,
        boundaries=[*alone.boundaries, "beside"],
        links=[*alone.links, Link("fabric", "beside", beside_w_k)],
    )
    if room.emitter_lag_s <= 0:
        return surveyed
    conductance = max(full_heat_w, 1.0) / EMITTER_EXCESS_K
    return RcNetwork(
        capacities_j_k={**surveyed.capacities_j_k, "emitter": conductance * room.emitter_lag_s},
        boundaries=surveyed.boundaries,
        links=[
            *surveyed.links,
            Link("emitter", "air", conductance * room.convective),
            Link("emitter", "fabric", conductance * (1 - room.convective)),
        ],
    )


def room_system(room: RoomRc, full_heat_w: float, beside_w_k: float = 0.0) -> tuple[Floats, Floats]:
    """Return (A, B) with inputs (outdoor °C, heater W, gains W, rooms beside °C), always three states.

    A room without lag has an idle third state that follows the air.
    """
    a_net, b_net = room_network(room, full_heat_w, beside_w_k).matrices()
    nodes = a_net.shape[0]
    a, b = np.zeros((NODES, NODES)), np.zeros((NODES, INPUTS))
    out, beside, air, fabric, emitter = range(5)
    a[:nodes, :nodes] = a_net
    b[:nodes, 0] = b_net[:, out]
    b[:nodes, 2] = GAIN_TO_AIR * b_net[:, air] + (1 - GAIN_TO_AIR) * b_net[:, fabric]
    b[:nodes, 3] = b_net[:, beside]
    if nodes == NODES:
        b[:, 1] = b_net[:, emitter]
    else:
        b[:nodes, 1] = room.convective * b_net[:, air] + (1 - room.convective) * b_net[:, fabric]
        a[2, 0], a[2, 2] = 1 / 60.0, -1 / 60.0
    return a, b


def compile_rooms(rooms: Sequence[RoomRc], full_heat_w: float, step_s: float, beside_w_k: float = 0.0) -> ExactStep:
    """Return the exact step of several draws of one room, all beside the same rooms; leading axis (draw,)."""
    systems = [room_system(room, full_heat_w, beside_w_k) for room in rooms]
    return exact_step(np.stack([a for a, _ in systems]), np.stack([b for _, b in systems]), step_s)


@dataclass(frozen=True, slots=True, kw_only=True)
class OnOff:
    """How a heater is switched.

    Parameters
    ----------
    full_heat_w, full_cool_w : float
        Heat when on, and heat taken away when cooling [W].
    band_k : float
        Width of the thermostat's band, centred on the setpoint [K].
    min_on_steps, min_off_steps : int
        Shortest stretches on and off, in steps.
    """

    full_heat_w: float
    band_k: float
    min_on_steps: int
    min_off_steps: int
    full_cool_w: float = 0.0


@dataclass(frozen=True, slots=True)
class BoundaryConditions:
    """What acts on a room; shapes (draw, step + 1), (draw, step), (step,) and (draw, node).

    ``cool_c`` is the cooling limit by step (step,), None without cooling; ``beside_c`` the temperature of the rooms
    beside by step (step,), weighted by what they share, None where the room is taken alone.
    """

    outdoor_c: Floats
    gain_w: Floats
    setpoint_c: Floats
    start_c: Floats
    cool_c: Floats | None = None
    beside_c: Floats | None = None

    @property
    def beside(self) -> Floats:
        """The rooms beside by step; nought without any, where it counts for nothing [°C]."""
        return np.zeros(self.setpoint_c.shape) if self.beside_c is None else self.beside_c

    @property
    def limit_c(self) -> Floats:
        """The cooling limit by step, out of reach without cooling [°C]."""
        return np.full(self.setpoint_c.shape, np.inf) if self.cool_c is None else self.cool_c


@dataclass(frozen=True, slots=True)
class Run:
    """A simulated stretch: states (draw, step + 1, node) [°C] and heat (draw, step) [W]."""

    states_c: Floats
    heat_w: Floats

    @property
    def air_c(self) -> Floats:
        """Air temperature, shape (draw, step + 1) [°C]."""
        return self.states_c[:, :, 0]


@njit(cache=True, nogil=True)
def _advance(state, now, then, x, out_now, out_then, heat, gain, beside, to):  # type: ignore[no-untyped-def]
    for i in range(3):
        total = now[i, 0] * out_now + then[i, 0] * out_then
        total += (now[i, 1] + then[i, 1]) * heat + (now[i, 2] + then[i, 2]) * gain
        total += (now[i, 3] + then[i, 3]) * beside
        for j in range(3):
            total += state[i, j] * x[j]
        to[i] = total


@njit(cache=True, nogil=True)
def _controlled(  # type: ignore[no-untyped-def]
    state,
    now,
    then,
    outdoor,
    gain,
    beside,
    setpoint,
    limit,
    full_w,
    cool_w,
    band,
    min_on,
    min_off,
    begin,
    end,
    states,
    heat,
):
    for s in range(state.shape[0]):
        # 1 heats, −1 cools, 0 is off.
        mode = 0
        lasted = 1_000_000_000
        if begin > 0:
            mode = int(np.sign(heat[s, begin - 1]))
            k = begin - 1
            while k > 0 and int(np.sign(heat[s, k - 1])) == mode:
                k -= 1
            lasted = begin - k if k > 0 else 1_000_000_000
        for k in range(begin, end):
            air = states[s, k, 0]
            if mode == 1:
                if air >= setpoint[k] + 0.5 * band - 1e-9 and lasted >= min_on:
                    mode = 0
                    lasted = 0
            elif mode == -1:
                if air <= limit[k] - 0.5 * band + 1e-9 and lasted >= min_on:
                    mode = 0
                    lasted = 0
            elif lasted >= min_off:
                if air <= setpoint[k] - 0.5 * band + 1e-9:
                    mode = 1
                    lasted = 0
                elif cool_w > 0.0 and air >= limit[k] + 0.5 * band - 1e-9:
                    mode = -1
                    lasted = 0
            lasted += 1
            heat[s, k] = full_w if mode == 1 else (-cool_w if mode == -1 else 0.0)
            _advance(
                state[s],
                now[s],
                then[s],
                states[s, k],
                outdoor[s, k],
                outdoor[s, k + 1],
                heat[s, k],
                gain[s, k],
                beside[k],
                states[s, k + 1],
            )


def controlled_run(step: ExactStep, boundary: BoundaryConditions, control: OnOff) -> Run:
    """Simulate draws of a room under on/off control.

    The heater is on when the air is at or below the setpoint less half the band, off at or above
    the setpoint plus half of it, each looked at when a step begins and kept for its shortest time; cooling
    likewise, the other way round, about the cooling limit. Never both at once.
    """
    draws, steps = step.state.shape[0], boundary.setpoint_c.shape[0]
    states, heat = np.empty((draws, steps + 1, NODES)), np.empty((draws, steps))
    states[:, 0] = boundary.start_c
    run = Run(states, heat)
    run_on(step, boundary, control, run, 0, steps)
    return run


def run_on(step: ExactStep, boundary: BoundaryConditions, control: OnOff, run: Run, begin: int, end: int) -> None:
    """Simulate steps [begin, end) of a run again in place, from the state and the heater as they are at ``begin``."""
    _controlled(
        step.state,
        step.now,
        step.then,
        boundary.outdoor_c,
        boundary.gain_w,
        boundary.beside,
        boundary.setpoint_c,
        boundary.limit_c,
        control.full_heat_w,
        control.full_cool_w,
        control.band_k,
        control.min_on_steps,
        control.min_off_steps,
        begin,
        end,
        run.states_c,
        run.heat_w,
    )


def plain_controlled_run(step: ExactStep, boundary: BoundaryConditions, control: OnOff) -> Run:
    """Simulate as ``controlled_run`` does, in plain NumPy a step at a time (its reference)."""
    draws, steps = step.state.shape[0], boundary.setpoint_c.shape[0]
    states, heat = np.empty((draws, steps + 1, NODES)), np.zeros((draws, steps))
    states[:, 0] = boundary.start_c
    mode, lasted = np.zeros(draws, dtype=int), np.full(draws, 10**9)
    half, limit_c = control.band_k / 2, boundary.limit_c
    for k in range(steps):
        air, setpoint, limit = states[:, k, 0], boundary.setpoint_c[k], limit_c[k]
        warm_enough = (mode == 1) & (air >= setpoint + half - 1e-9) & (lasted >= control.min_on_steps)
        cool_enough = (mode == -1) & (air <= limit - half + 1e-9) & (lasted >= control.min_on_steps)
        may_begin = (mode == 0) & (lasted >= control.min_off_steps)
        too_cold = may_begin & (air <= setpoint - half + 1e-9)
        too_warm = may_begin & ~too_cold & (air >= limit + half - 1e-9) & (control.full_cool_w > 0)
        lasted = np.where(warm_enough | cool_enough | too_cold | too_warm, 0, lasted) + 1
        mode = np.where(warm_enough | cool_enough, 0, np.where(too_cold, 1, np.where(too_warm, -1, mode)))
        heat[:, k] = np.where(mode == 1, control.full_heat_w, np.where(mode == -1, -control.full_cool_w, 0.0))
        beside = np.full(draws, boundary.beside[k])
        before = np.stack([boundary.outdoor_c[:, k], heat[:, k], boundary.gain_w[:, k], beside], axis=1)
        after = np.stack([boundary.outdoor_c[:, k + 1], heat[:, k], boundary.gain_w[:, k], beside], axis=1)
        states[:, k + 1] = (
            np.einsum("sij,sj->si", step.state, states[:, k])
            + np.einsum("sij,sj->si", step.now, before)
            + np.einsum("sij,sj->si", step.then, after)
        )
    return Run(states, heat)


@njit(cache=True, nogil=True)
def _steps_to_target(  # type: ignore[no-untyped-def]
    state, now, then, x, outdoor, gain, beside, full_w, target, begin, end, scratch
):
    current = x.copy()
    for k in range(begin, end):
        if current[0] >= target - 1e-9:
            return k - begin
        _advance(state, now, then, current, outdoor[k], outdoor[k + 1], full_w, gain[k], beside[k], scratch)
        for i in range(3):
            current[i] = scratch[i]
    return end - begin if current[0] >= target - 1e-9 else -1


@njit(cache=True, nogil=True)
def _latest_starts(  # type: ignore[no-untyped-def]
    state, now, then, outdoor, gain, beside, states, full_w, target, due, earliest, leads
):
    scratch = np.empty(3)
    for s in range(state.shape[0]):
        if states[s, due, 0] >= target - 1e-9:
            leads[s] = 0.0
            continue
        low, high = earliest, due
        if (
            _steps_to_target(
                state[s],
                now[s],
                then[s],
                states[s, low],
                outdoor[s],
                gain[s],
                beside,
                full_w,
                target,
                low,
                due,
                scratch,
            )
            < 0
        ):
            leads[s] = np.nan
            continue
        while high - low > 1:
            middle = (low + high) // 2
            if (
                _steps_to_target(
                    state[s],
                    now[s],
                    then[s],
                    states[s, middle],
                    outdoor[s],
                    gain[s],
                    beside,
                    full_w,
                    target,
                    middle,
                    due,
                    scratch,
                )
                < 0
            ):
                high = middle
            else:
                low = middle
        leads[s] = due - low


def latest_starts(
    step: ExactStep,
    boundary: BoundaryConditions,
    run: Run,
    *,
    full_heat_w: float,
    target_c: float,
    due: int,
    earliest: int,
) -> Floats:
    """Return how many steps before ``due`` full heat must start, per draw.

    Parameters
    ----------
    run : Run
        What happens without the warm-up; heating may branch off at any of its steps.
    target_c : float
        Air temperature to be reached at step ``due`` [°C].
    due, earliest : int
        Step at which it must be reached, and first step at which heating may start.

    Returns
    -------
    (draw,) float array
        0 where the room is warm anyway, NaN where even the earliest start is too late.

    Notes
    -----
    Bisection on the full model: a start that is in time stays so when made earlier.
    """
    leads = np.empty(step.state.shape[0])
    _latest_starts(
        step.state,
        step.now,
        step.then,
        boundary.outdoor_c,
        boundary.gain_w,
        boundary.beside,
        run.states_c,
        full_heat_w,
        target_c,
        due,
        earliest,
        leads,
    )
    return leads


@njit(cache=True, nogil=True)
def _tracked(state, now, then, outdoor, heat, gain, beside, measured, start, pull, states):  # type: ignore[no-untyped-def]
    for s in range(state.shape[0]):
        current = start[s].copy()
        scratch = np.empty(3)
        for k in range(heat.shape[0]):
            _advance(
                state[s], now[s], then[s], current, outdoor[k], outdoor[k + 1], heat[k], gain[s, k], beside[k], scratch
            )
            error = measured[k + 1] - scratch[0]
            for i in range(3):
                current[i] = scratch[i] + (0.0 if np.isnan(error) else pull[i] * error)
        for i in range(3):
            states[s, i] = current[i]


def tracked_state(
    step: ExactStep,
    *,
    outdoor_c: Floats,
    heat_w: Floats,
    gain_w: Floats,
    measured_c: Floats,
    start_c: Floats,
    beside_c: Floats | None = None,
) -> Floats:
    """Return each draw's state after a logged stretch, pulled towards what was measured.

    Parameters
    ----------
    outdoor_c, measured_c : (step + 1,) float arrays
        Logged temperatures; NaN in ``measured_c`` lets the model run free [°C].
    heat_w : (step,) float array
        Logged heat [W].
    gain_w : (draw, step) float array
        Gains [W].
    start_c : (draw, node) float array
        First states [°C].
    beside_c : (step,) float array, optional
        Rooms beside [°C].

    Notes
    -----
    A fixed-gain observer: of each step's error the air takes 60 %, the fabric 3 %.
    """
    states = np.empty((step.state.shape[0], NODES))
    pull = np.array([0.6, 0.03, 0.0])
    beside = np.zeros(heat_w.shape) if beside_c is None else beside_c
    _tracked(step.state, step.now, step.then, outdoor_c, heat_w, gain_w, beside, measured_c, start_c, pull, states)
    return states
