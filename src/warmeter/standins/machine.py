"""A stand-in washing machine: programmes with pauses, anti-crease ticks, and standby between runs."""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def washing_run(rng: np.random.Generator, step_s: float, *, is_warm: bool) -> Floats:
    """Return one run's power by step [W]: fill, heat, wash with turns, soak, rinses, spin."""

    def stretch(minutes: float, level: float, noise: float) -> Floats:
        n = max(1, round(minutes * 60 / step_s))
        return np.maximum(level + rng.normal(0, noise, n), 0)

    def pause(minutes: float) -> Floats:
        return stretch(minutes, 3.4, 0.1)

    parts = [stretch(2, 22, 3)]
    if is_warm:
        parts.append(stretch(rng.uniform(14, 22), 2080, 25))
    for _ in range(rng.integers(9, 14)):
        parts += [stretch(2.0, rng.uniform(110, 190), 25), pause(0.5)]
    parts.append(pause(rng.uniform(2.6, 3.6)))
    for _ in range(2):
        parts += [stretch(3, 25, 4), stretch(5, 140, 30), pause(1.2)]
    parts += [stretch(rng.uniform(5, 8), 430, 40), stretch(0.5, 60, 10)]
    return np.concatenate(parts)


def machine_log(
    rng: np.random.Generator, days: int, step_s: float, standby_w: float = 3.4
) -> tuple[Floats, list[tuple[int, int]]]:
    """Return (power by step [W], true runs as steps [start, end)) of some weeks of washing."""
    per_day = round(86_400 / step_s)
    power = np.maximum(standby_w + rng.normal(0, 0.12, days * per_day), 0)
    runs = []
    for day in range(days):
        if day % 7 in (1, 3) and rng.random() < 0.7:
            continue
        for hour in rng.choice([7.6, 10.4, 13.2, 17.5], size=int(rng.integers(1, 3)), replace=False):
            run = washing_run(rng, step_s, is_warm=bool(rng.random() < 0.7))
            start = round((day * 24 + hour + rng.uniform(-0.4, 0.4)) * 3600 / step_s)
            if start + run.size >= power.size or (runs and start < runs[-1][1] + round(3600 / step_s)):
                continue
            power[start : start + run.size] = run
            runs.append((start, start + run.size))
            # The drum turns now and then so that nothing creases: short ticks, no work.
            for tick in range(1, 6):
                at = start + run.size + round(tick * 480 / step_s)
                if at < power.size:
                    power[at] = 38.0
    return np.round(power, 1), runs
