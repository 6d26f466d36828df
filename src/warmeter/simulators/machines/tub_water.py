"""The water of a stand-in hot tub: warmed by its heater and half of its pump, cooled by the air around it."""

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.units import S_PER_H
from warmeter.core.water.store import WarmWater

PUMP_SHARE = 0.5
HEATING_FROM_W = 1000.0


def tub_water(
    rng: np.random.Generator, power_w: Floats, step_s: float, store: WarmWater, *, start_c: float, mean_air_c: float
) -> tuple[Floats, Floats]:
    """Return water and air temperature at the steps' ends, shapes (step + 1,) [°C], as sensors of 0.1 K show them."""
    hours = np.arange(power_w.size + 1) * step_s / S_PER_H
    air = mean_air_c + 4 * np.sin(2 * np.pi * (hours - 9) / 24)
    water = np.empty(power_w.size + 1)
    water[0] = start_c
    watts = np.nan_to_num(power_w)
    pump = (
        float(np.median(watts[(watts > 50) & (watts < HEATING_FROM_W)]))
        if ((watts > 50) & (watts < HEATING_FROM_W)).any()
        else 0.0
    )
    for k, w in enumerate(watts.tolist()):
        heat = (w - pump + PUMP_SHARE * pump) if w > HEATING_FROM_W else (PUMP_SHARE * w if w > 50 else 0.0)
        water[k + 1] = water[k] + (heat - store.standing_w(water[k], air[k])) * step_s / store.heat_capacity_j_k
    noise = rng.normal(0, 0.03, (2, water.size))
    return np.round(water + noise[0], 1), np.round(air + noise[1], 1)
