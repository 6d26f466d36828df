"""Logs of stand-in rooms that mislead: what was logged is not what happened, or does not say enough.

Each kind spoils a run of either family of houses in one way, so that a fit can be asked whether it notices.
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.thermal.room_fit import Prior, RoomLog
from warmeter.core.units import MIN_PER_DAY
from warmeter.simulators.agreement import HELD_DAYS, LOG_DAYS, Family, log_of_run, prior_of_plan, scene_of

Misleading = Literal[
    "clean",
    "part of the heat",
    "stove in the evening",
    "sensor beside the heater",
    "stamp",
    "steady outdoors",
    "cold neighbour",
]
KINDS: tuple[Misleading, ...] = (
    "part of the heat",
    "stove in the evening",
    "sensor beside the heater",
    "stamp",
    "steady outdoors",
    "cold neighbour",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class MisledFit:
    """What a fit is given, and the truth that it is not."""

    log: RoomLog
    prior: Prior
    full_heat_w: float
    true_loss_w_k: float


def misleading_log(kind: Misleading, seed: int, family: Family, days: int = LOG_DAYS) -> MisledFit:
    """Return a seed's log, misleading in one way.

    The heat stamped off is shifted by a step of a quarter of an hour, the usual step of a heat meter's log.
    """
    rng = np.random.default_rng([seed, KINDS.index(kind) if kind in KINDS else 99])
    scene = scene_of(seed, family, days)
    parameters, minute = scene.parameters, np.arange((days + HELD_DAYS) * MIN_PER_DAY + 1)
    if kind == "stove in the evening":
        scene = scene.with_heat(_stove_w(rng, days + HELD_DAYS, parameters.floor_area_m2))
    elif kind == "steady outdoors":
        scene = scene.under(4.0 - 2.5 * np.cos(2 * np.pi * (minute - 180) / MIN_PER_DAY))
    elif kind == "cold neighbour":
        scene = scene.beside(float(rng.uniform(6, 10)), float(rng.uniform(0.2, 0.4)) * parameters.loss_w_k)
    run = scene.run()
    log = log_of_run(scene.rng, run, days)
    if kind == "part of the heat":
        log = replace(log, heat_w=log.heat_w * 0.6)
    elif kind == "sensor beside the heater":
        every = days * MIN_PER_DAY // log.heat_w.size
        felt_k = float(rng.uniform(1.5, 3.0)) / 30.0 * (run.emitter_c - run.air_c)[: days * MIN_PER_DAY + 1 : every]
        log = replace(log, room_c=np.round(10 * (log.room_c + felt_k)) / 10)
    elif kind == "stamp":
        log = _coarser(log, 3)
        log = replace(log, heat_w=np.roll(log.heat_w, int(rng.choice([-1, 1]))))
    return MisledFit(
        log=log,
        prior=prior_of_plan(scene.rng, scene.parameters),
        full_heat_w=parameters.full_heat_w,
        true_loss_w_k=parameters.loss_w_k,
    )


def _stove_w(rng: np.random.Generator, days: int, floor_area_m2: float) -> Floats:
    """Return a small stove's heat by minute: lit on three evenings of four, burning down slowly."""
    heat = np.zeros(days * MIN_PER_DAY)
    full_w = floor_area_m2 * float(rng.uniform(30, 60))
    for day in range(days):
        if rng.random() < 0.75:
            at = day * MIN_PER_DAY + int(rng.normal(1110, 25))
            length = int(rng.uniform(150, 260))
            burn = np.minimum(1.0, np.arange(length) / 20) * np.linspace(1.0, 0.4, length)
            heat[at : at + length] += full_w * burn[: heat.size - at]
    return heat


def _coarser(log: RoomLog, every: int) -> RoomLog:
    """Return a log in steps so many times as long."""
    return replace(
        log,
        step_s=log.step_s * every,
        room_c=log.room_c[::every],
        outdoor_c=log.outdoor_c[::every],
        heat_w=log.heat_w.reshape(-1, every).mean(axis=1),
        clear_sky_w_m2=log.clear_sky_w_m2.reshape(-1, every).mean(axis=1),
        day=log.day[::every],
        windows_w_m2=None if log.windows_w_m2 is None else log.windows_w_m2.reshape(-1, every).mean(axis=1),
    )
