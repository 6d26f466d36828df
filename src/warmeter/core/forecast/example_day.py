"""One made-up room through one winter day: the picture by which a newcomer learns to read a strip."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.thermal.proportional import Proportional, proportional_run
from warmeter.core.thermal.simulate import BoundaryConditions, OnOff, Run, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import MIN_PER_DAY, W_MIN_PER_KWH
from warmeter.core.warmup.lead import simulated_lead

ROOM = RoomRc(
    air_out_w_k=25.0, air_fabric_w_k=180.0, fabric_out_w_k=30.0, air_j_k=9e5, fabric_j_k=6e6, emitter_lag_s=600.0
)
FULL_W, BAND_K, GAIN_W = 2200.0, 0.3, 120.0
# What is asked: from minute, temperature, word.
PERIODS = (
    (0, 16.5, "Asleep"),
    (405, 20.0, "In use"),
    (510, 18.0, "Out"),
    (960, 21.0, "In use"),
    (1350, 16.5, "Asleep"),
)
DUE_MIN, HELD_C = 960, 21.0
PRICES = ((0, 0.142), (360, 0.268), (960, 0.446), (1200, 0.268))


@dataclass(frozen=True, slots=True, kw_only=True)
class ExampleDay:
    """The day by minute: the air [°C] and the power drawn [W]; and the two answers.

    ``lead_min`` is how long before ``DUE_MIN`` heating must start; ``saved_kwh`` and ``saved_money`` are against 21 °C
    held all day.
    """

    air_c: Floats
    power_w: Floats
    lead_min: float
    saved_kwh: float
    saved_money: float


def example_day() -> ExampleDay:
    """Return the day, simulated by minute as every other day is."""
    asked, price = _steps([(at, c) for at, c, _ in PERIODS]), _steps(PRICES)
    lead = _lead(asked)
    warmed = asked.copy()
    warmed[DUE_MIN - round(lead) : DUE_MIN] = HELD_C
    day, held = _run(warmed), _run(np.full(MIN_PER_DAY, HELD_C))
    kwh = [run.heat_w[0, MIN_PER_DAY:] / W_MIN_PER_KWH for run in (day, held)]
    return ExampleDay(
        air_c=day.states_c[0, MIN_PER_DAY:, 0],
        power_w=day.heat_w[0, MIN_PER_DAY:],
        lead_min=lead,
        saved_kwh=float((kwh[1] - kwh[0]).sum()),
        saved_money=float(((kwh[1] - kwh[0]) * price).sum()),
    )


def _steps(changes: Sequence[tuple[int, float]]) -> Floats:
    found = np.empty(MIN_PER_DAY)
    for at, value in changes:
        found[at:] = value
    return found


def _boundary(asked: Floats) -> BoundaryConditions:
    """Return two days alike, so that the second begins as it ends."""
    minute = np.arange(2 * MIN_PER_DAY + 1)
    outdoor = 3.0 + 3.0 * np.cos(2 * np.pi * (minute - 930) / MIN_PER_DAY)
    return BoundaryConditions(
        outdoor_c=outdoor[None, :],
        gain_w=np.full((1, 2 * MIN_PER_DAY), GAIN_W),
        setpoint_c=np.tile(asked, 2),
        start_c=np.full((1, 3), float(asked[-1])),
    )


def _control() -> OnOff:
    return OnOff(full_heat_w=FULL_W, band_k=BAND_K, min_on_steps=1, min_off_steps=1)


def _run(asked: Floats) -> Run:
    heater = Proportional(full_heat_w=FULL_W, band_k=BAND_K)
    return proportional_run(compile_rooms((ROOM,), FULL_W, 60.0), _boundary(asked), heater)


def _lead(asked: Floats) -> float:
    boundary, step = _boundary(asked), compile_rooms((ROOM,), FULL_W, 60.0)
    lead = simulated_lead(
        step, boundary, _run(asked), _control(), target_c=HELD_C, due=MIN_PER_DAY + DUE_MIN, not_before=MIN_PER_DAY
    )
    return lead.best or 0.0
