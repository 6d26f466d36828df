"""Rooms under a heater that gives heat in proportion over a band: energies without the noise of switching.

Arrays run (draw, step) as in ``simulate``.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats
from warmeter.core.thermal.network import ExactStep
from warmeter.core.thermal.simulate import NODES, BoundaryConditions, Run, _advance


@dataclass(frozen=True, slots=True, kw_only=True)
class Proportional:
    """A heater: full heat [W] at half a band [K] under the setpoint, none at half a band over it."""

    full_heat_w: float
    band_k: float


@njit(cache=True, nogil=True)
def _proportional(  # type: ignore[no-untyped-def]
    state, now, then, outdoor, gain, beside, setpoint, full_w, band, states, heat
):
    for s in range(state.shape[0]):
        for k in range(setpoint.shape[0]):
            share = 0.5 + (setpoint[k] - states[s, k, 0]) / band
            heat[s, k] = full_w * min(max(share, 0.0), 1.0)
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


def proportional_run(step: ExactStep, boundary: BoundaryConditions, heater: Proportional) -> Run:
    """Simulate draws of a room whose heater follows its setpoint in proportion, exact steps, heat held in each."""
    draws, steps = step.state.shape[0], boundary.setpoint_c.shape[0]
    states, heat = np.empty((draws, steps + 1, NODES)), np.empty((draws, steps))
    states[:, 0] = boundary.start_c
    _proportional(
        step.state,
        step.now,
        step.then,
        boundary.outdoor_c,
        boundary.gain_w,
        boundary.beside,
        boundary.setpoint_c,
        heater.full_heat_w,
        heater.band_k,
        states,
        heat,
    )
    return Run(states, heat)


def settled_c(
    step: ExactStep,
    *,
    outdoor_c: Floats,
    gain_w: Floats,
    setpoint_c: float,
    heater: Proportional,
    beside_c: float = 0.0,
) -> Floats:
    """Return the states of a room long held at a setpoint, shape (draw, node) [°C].

    ``outdoor_c`` and ``gain_w`` have shape (draw,); ``beside_c`` is that of the rooms beside.

    The heat that keeps them is what the heater gives at its place in the band, within its limits.
    """
    states = np.empty((step.state.shape[0], NODES))
    for s in range(states.shape[0]):
        rest, per_watt = _at_rest_c(step, s, float(outdoor_c[s]), float(gain_w[s]), beside_c)
        slope = heater.full_heat_w / heater.band_k
        air = (rest[0] + per_watt[0] * heater.full_heat_w * (0.5 + setpoint_c / heater.band_k)) / (
            1 + per_watt[0] * slope
        )
        heat = min(max(heater.full_heat_w * (0.5 + (setpoint_c - air) / heater.band_k), 0.0), heater.full_heat_w)
        states[s] = rest + per_watt * heat
    return states


def full_heat_reach_c(
    step: ExactStep, *, outdoor_c: Floats, gain_w: Floats, full_heat_w: float, beside_c: float = 0.0
) -> Floats:
    """Return the air temperature that full heat would hold for ever, shape (draw,) [°C].

    ``outdoor_c`` and ``gain_w`` have shape (draw,); ``beside_c`` is that of the rooms beside.
    """
    found = np.empty(step.state.shape[0])
    for s in range(found.size):
        rest, per_watt = _at_rest_c(step, s, float(outdoor_c[s]), float(gain_w[s]), beside_c)
        found[s] = rest[0] + per_watt[0] * full_heat_w
    return found


def _at_rest_c(step: ExactStep, draw: int, outdoor_c: float, gain_w: float, beside_c: float) -> tuple[Floats, Floats]:
    """Return a draw's states long unheated [°C], and what each watt of steady heat adds [K/W]; shapes (node,)."""
    held, system = (step.now + step.then)[draw], np.eye(NODES) - step.state[draw]
    rest = np.linalg.solve(system, held @ np.array([outdoor_c, 0.0, gain_w, beside_c]))
    return rest, np.linalg.solve(system, held[:, 1])
