"""How far a made-up household's telephones are from home: ways there and back, stops on the way, reports that err."""

from dataclasses import replace

import numpy as np

from warmeter.core.arrays import Floats, Ints, true_runs
from warmeter.core.units import MIN_PER_H, MS_PER_MIN
from warmeter.simulators.household import Household
from warmeter.simulators.household_life import OUT

# Shorter absences go to somewhere near [min].
NEAR_MIN = 150
KM = 1000.0


def with_distances(made: Household, seed: int) -> Household:
    """Return a household whose telephones tell their distance besides, drawn apart from everything else."""
    heard = dict(made.heard)
    for place, where in enumerate(made.where.values()):
        phone = f"phone-{place}"
        if ("is_home", phone) not in heard:
            continue
        rng = np.random.default_rng([seed, 77, place])
        at_ms, says = heard["is_home", phone]
        told = _told(rng, made, np.asarray(where) == OUT, at_ms, says)
        heard["distance_m", phone] = told
    return replace(made, heard=heard)


def _told(rng: np.random.Generator, made: Household, is_out: Floats, at_ms: Ints, says: Floats) -> tuple[Ints, Floats]:
    usual_m, speed_m_min = rng.lognormal(np.log(5 * KM), 0.7), rng.lognormal(np.log(22 * KM / MIN_PER_H), 0.25)
    rows: list[tuple[float, float]] = []
    for begin, end in zip(*true_runs(is_out.astype(bool)), strict=True):
        left_ms, came_ms = made.start_ms + begin * MS_PER_MIN, made.start_ms + end * MS_PER_MIN
        within = says[(at_ms > left_ms + 15 * MS_PER_MIN) & (at_ms < came_ms)]
        if (within.size and within.min() > 0.5) or rng.random() < 0.05:
            continue  # forgotten at home, or without a net all the way
        rows += _journey(rng, int(begin), int(end), usual_m, speed_m_min)
    at = made.start_ms + np.round(np.array([m for m, _ in rows]) * 60).astype(np.int64) * 1000
    return at, np.array([round(value) for _, value in rows], dtype=np.float64)


def _journey(
    rng: np.random.Generator, begin: int, end: int, usual_m: float, speed_m_min: float
) -> list[tuple[float, float]]:
    """Return reports (minute, metres) of one absence: out, still, back, at times with a stop on the way back."""
    length = end - begin
    target = usual_m * rng.uniform(0.9, 1.1) if length >= NEAR_MIN else rng.uniform(0.3, 3.0) * KM
    travel = min(target / speed_m_min, 0.4 * length)
    times, metres = [0.0, travel], [0.0, target]
    stop_min = float(rng.uniform(15, 45)) if rng.random() < 0.12 and length > 120 else 0.0
    back = length - travel * rng.uniform(0.8, 1.3) - stop_min
    times += [max(back, travel)]
    metres += [target]
    if stop_min:
        near = rng.uniform(0.5, 2.0) * KM
        share = min(near / target, 0.8)
        stop_at = length - stop_min - (length - stop_min - times[-1]) * share
        times += [stop_at, stop_at + stop_min]
        metres += [share * target, share * target]
    times += [float(length)]
    metres += [0.0]
    rows, at = [], float(rng.uniform(1, 6))
    while at < length:
        true = float(np.interp(at, times, metres))
        ahead = float(np.interp(at + 3, times, metres))
        error = rng.normal(0, 35) + (rng.uniform(1, 3) * KM * rng.choice([-1, 1]) if rng.random() < 0.02 else 0.0)
        rows.append((begin + at, max(0.0, true + error)))
        at += float(rng.uniform(2, 5) if abs(ahead - true) > 100 else rng.uniform(15, 35))
    return rows
