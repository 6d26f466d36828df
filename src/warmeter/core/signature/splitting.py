"""Known cycles found in the power of a whole home, one after the other, the surest first."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import signal

from warmeter.core.errors import NotKnowable
from warmeter.core.signature.change_points import noise_of

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Template:
    """A known cycle: its name, mean power by step [W], and how far into the first step it begins [s]."""

    name: str
    power_w: Floats
    phase_s: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """A cycle found: which, at which step, how large against the known one, and how sure (standard deviations)."""

    name: str
    step: int
    phase_s: float
    size: float
    sureness: float


def split_cycles(
    power_w: Floats,
    templates: Sequence[Template],
    *,
    least_sure: float = 6.0,
    least_like: float = 0.85,
    sizes: tuple[float, float] = (0.8, 1.25),
) -> list[Placed]:
    """Return the known cycles that a home's power holds, in order of time.

    Parameters
    ----------
    power_w : (step,) float array
        Import less export, without gaps [W].
    templates : sequence of Template
        Known cycles at the same step; one machine may have several.
    least_sure : float
        A cycle is told when it stands so many standard deviations out of the noise.
    least_like : float
        The changes within a cycle's stretch must correlate so far with the known one, 0 to 1.
    sizes : tuple of float
        A cycle is told when it is between so many times as large as the known one.

    Raises
    ------
    NotKnowable
        If there is no template or the log is shorter than each.

    Notes
    -----
    Derived: the home's own load wanders, its changes from step to step hardly follow one another. So the changes
    are compared: with x the changes of the power and t those of a template, its size is Σxt/Σt² and its sureness
    Σxt/(σ √Σt²), σ from the middle change. The surest is taken, its power subtracted, and all is compared anew.
    """
    fitting = [t for t in templates if t.power_w.size + 2 <= power_w.size]
    if not fitting:
        raise NotKnowable("No known cycle fits into this log.", "Record a longer stretch, or learn a machine first.")
    rest = power_w.astype(np.float64).copy()
    edges = [np.diff(np.concatenate([[0.0], t.power_w, [0.0]])) for t in fitting]
    weights = [float((e**2).sum()) for e in edges]
    found: list[Placed] = []
    changes = np.diff(rest)
    sigma = max(noise_of(rest), 1e-9) * np.sqrt(2.0)
    scores = [_scores(changes, e, w, sigma, least_like, sizes) for e, w in zip(edges, weights, strict=True)]
    for _ in range(power_w.size):
        best = int(np.argmax([s.max() for s in scores]))
        at = int(np.argmax(scores[best]))
        if scores[best][at] < least_sure:
            break
        size = _size(changes, edges[best], weights[best], at)
        placed = fitting[best]
        found.append(
            Placed(name=placed.name, step=at + 1, phase_s=placed.phase_s, size=size, sureness=float(scores[best][at]))
        )
        rest[at + 1 : at + 1 + placed.power_w.size] -= placed.power_w
        changes = np.diff(rest)
        scores = [_scores(changes, e, w, sigma, least_like, sizes) for e, w in zip(edges, weights, strict=True)]
    return sorted(found, key=lambda p: p.step)


def _scores(
    changes: Floats, edge: Floats, weight: float, sigma: float, least_like: float, sizes: tuple[float, float]
) -> Floats:
    """Return how sure a template is at each place, 0 where it would be too small, too large or too unlike."""
    inner = signal.correlate(changes, edge, mode="valid", method="auto")
    size = inner / weight
    squares = np.concatenate([[0.0], np.cumsum(changes**2)])
    like = inner / np.sqrt(np.maximum((squares[edge.size :] - squares[: -edge.size]) * weight, 1e-9))
    told = (size >= sizes[0]) & (size <= sizes[1]) & (like >= least_like)
    return np.asarray(np.where(told, inner / (sigma * np.sqrt(weight)), 0.0))


def _size(changes: Floats, edge: Floats, weight: float, at: int) -> float:
    return float((changes[at : at + edge.size] * edge).sum() / weight)
