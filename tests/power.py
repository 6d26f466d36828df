"""Power of made-up machines, for tests."""

import numpy as np

from warmeter.core.arrays import Floats, Ints

STEP = 10.0


def steady(*parts: tuple[int, float]) -> Floats:
    """Return a log of (steps, watts)."""
    return np.concatenate([np.full(n, w) for n, w in parts])


def days(power: Floats, step_s: float = STEP) -> Ints:
    """Return the day of each step."""
    return (np.arange(power.size) * step_s // 86_400).astype(np.int64)


def washes(*, pauses: tuple[int, ...] = (0, 0, 0), rest: int = 1500) -> Floats:
    """Return cycles of 100 steps at 300 W, each with a pause of some steps at 3 W before its last 40."""
    parts = [np.full(rest, 2.0)]
    for pause in pauses:
        parts += [np.full(60, 300.0), np.full(pause, 3.0), np.full(40, 300.0), np.full(rest, 2.0)]
    return np.concatenate(parts)
