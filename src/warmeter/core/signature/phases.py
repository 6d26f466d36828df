"""The phases of a cycle: where its power changes for good, not at every turn of a drum (H6)."""

import itertools
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.signature.change_points import noise_of, partition

BIN_S = 15.0
SHORTEST_S = 90.0
FLOOR_W = 5.0  # added before the logarithm: changes below it are no phases
PENALTY = 2.0
LEAST_NOISE = 0.2
AROUND_S = 60.0
ALIKE = 0.3  # octaves: a quarter more power is no other phase
SAME_LEVEL = 0.3
LONGER, TURN_S = 2.0, 600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Phase:
    """A stretch of a cycle in steps [start, end) of the log, with its mean power [W]."""

    start: int
    end: int
    mean_w: float


def phases_of(power_w: Floats, step_s: float, start: int, end: int) -> tuple[Phase, ...]:
    """Return the phases of a cycle that lies in steps [start, end) of a log.

    Parameters
    ----------
    power_w : (step,) float array
        The log's mean power by step [W]; unheard steps take the reading before them.
    step_s : float
        Length of a step [s].

    Notes
    -----
    docs/methods H6 on the binary logarithm of the mean power over 15 s (or a step, if longer): phases differ by
    factors, not by watts. No phase is shorter than 90 s or two bins. Each border is then set where it parts the
    readings within a minute of it best.
    """
    inside = _filled(power_w[start:end])
    per_bin = max(1, round(BIN_S / step_s))
    bins = inside.size // per_bin
    shortest = max(2, round(SHORTEST_S / (per_bin * step_s)))
    if bins < 2 * shortest:
        return (Phase(start=start, end=end, mean_w=float(inside.mean())),)
    cut = inside[: bins * per_bin].reshape(bins, per_bin).copy()
    if per_bin == 1:
        # The first and the last step belong to the cycle only in part: no phases of their own.
        cut[0], cut[-1] = cut[1], cut[-2]
    value = np.log2(np.column_stack([cut.mean(axis=1), _strongest_near(cut.max(axis=1))]) + FLOOR_W)
    noise = max(noise_of(value[:, 0]), LEAST_NOISE)
    coarse = partition(value, PENALTY * noise**2 * float(np.log(bins)), shortest=shortest).breaks * per_bin
    around = max(1, round(AROUND_S / step_s))
    fine = np.log2(inside + FLOOR_W)
    edges = [0, *sorted({_best_split(fine, int(b), around) for b in coarse}), inside.size]
    edges = _without_alternation(inside, _without_likes(inside, edges), step_s)
    return tuple(
        Phase(start=start + a, end=start + b, mean_w=float(inside[a:b].mean())) for a, b in itertools.pairwise(edges)
    )


def _levels(inside: Floats, edges: list[int]) -> Floats:
    """Return each stretch's mean power and its ninth decile as binary logarithms, shape (stretch, 2)."""
    parts = [inside[a:b] for a, b in itertools.pairwise(edges)]
    return np.log2(np.array([(part.mean(), np.quantile(part, 0.9)) for part in parts]) + FLOOR_W)


def _without_likes(inside: Floats, edges: list[int]) -> list[int]:
    """Return the edges without those between stretches of nearly the same mean power, the most alike first."""
    kept = list(edges)
    while len(kept) > 2:
        steps = np.abs(np.diff(_levels(inside, kept), axis=0)).max(axis=1)
        least = int(np.argmin(steps))
        if steps[least] >= ALIKE:
            break
        del kept[least + 1]
    return kept


def _without_alternation(inside: Floats, edges: list[int], step_s: float) -> list[int]:
    """Return the edges without those of a thermostat's turns: two levels in turn, three times or more.

    A stretch that lasts much longer than those of its level before it ends the turns: a drum that cools.
    """
    levels, length = _levels(inside, edges), np.diff(np.array(edges, dtype=np.float64)) * step_s
    kept, k = [edges[0]], 0
    while k < length.size:
        last = k
        while last + 2 < length.size and _goes_on(levels, length, k, last + 2):
            last += 1
        last = last + 1 if last > k + 1 else k
        kept.append(edges[last + 1])
        k = last + 1
    return kept


def _goes_on(levels: Floats, length: Floats, first: int, at: int) -> bool:
    is_level = abs(levels[at, 0] - levels[at - 2, 0]) < SAME_LEVEL
    usual = max(length[first + (at - first) % 2 : at : 2].max(), SHORTEST_S)
    return bool(is_level and length[at] <= LONGER * usual and length[at - 2] <= TURN_S)


def _filled(power_w: Floats) -> Floats:
    heard = ~np.isnan(power_w)
    if heard.all():
        return power_w
    if not heard.any():
        return np.zeros(power_w.size)
    last = np.maximum.accumulate(np.where(heard, np.arange(power_w.size), -1))
    return np.where(last >= 0, power_w[np.maximum(last, 0)], power_w[heard][0])


def _strongest_near(strongest_w: Floats) -> Floats:
    """Return the strongest power of each bin and its neighbours: a drum that turns stays strong between turns."""
    padded = np.pad(strongest_w, 1, mode="edge")
    return np.maximum(np.maximum(padded[:-2], padded[1:-1]), padded[2:])


def _best_split(value: Floats, at: int, around: int) -> int:
    """Return the place near ``at`` that parts the values around it into two levels best."""
    low, high = max(0, at - around), min(value.size, at + around)
    window = value[low:high]
    n = np.arange(1, window.size)
    before = np.cumsum(window)[:-1]
    gain = before**2 / n + (window.sum() - before) ** 2 / (window.size - n)
    return low + 1 + int(np.argmax(gain))
