"""How well told events match true ones (H10), and an estimated power the true one (H11)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from warmeter.core.errors import NotKnowable


@dataclass(frozen=True, slots=True, kw_only=True)
class EventMatch:
    """Pairs, misses and false events; ratios are None where their denominator is 0."""

    true_positives: int
    false_positives: int
    false_negatives: int
    mean_abs_error_s: float | None

    @property
    def precision(self) -> float | None:
        """Share of told events that are true."""
        told = self.true_positives + self.false_positives
        return self.true_positives / told if told else None

    @property
    def recall(self) -> float | None:
        """Share of true events that were told."""
        true = self.true_positives + self.false_negatives
        return self.true_positives / true if true else None

    @property
    def f1(self) -> float | None:
        """2 TP/(2 TP + FP + FN)."""
        weight = 2 * self.true_positives + self.false_positives + self.false_negatives
        return 2 * self.true_positives / weight if weight else None


def match_events(truth_s: Sequence[float], detected_s: Sequence[float], tolerance_s: float) -> EventMatch:
    """Match true and detected times one to one: most pairs, then least total error.

    Parameters
    ----------
    truth_s, detected_s : sequences of float
        Times [s].
    tolerance_s : float
        Largest distance of a pair, inclusive [s].

    Notes
    -----
    docs/methods H10. An assignment in which leaving a pair out costs more than all distances together.
    """
    if not len(truth_s) or not len(detected_s):
        return EventMatch(
            true_positives=0, false_positives=len(detected_s), false_negatives=len(truth_s), mean_abs_error_s=None
        )
    distance = np.abs(np.subtract.outer(np.asarray(truth_s, float), np.asarray(detected_s, float)))
    allowed = distance <= tolerance_s + 1e-9
    never = (tolerance_s + 1.0) * (min(distance.shape) + 1)
    rows, columns = linear_sum_assignment(np.where(allowed, distance, never))
    kept = allowed[rows, columns]
    pairs = int(kept.sum())
    return EventMatch(
        true_positives=pairs,
        false_positives=len(detected_s) - pairs,
        false_negatives=len(truth_s) - pairs,
        mean_abs_error_s=float(distance[rows, columns][kept].mean()) if pairs else None,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerError:
    """How far an estimated power is from the true one (H11); ratios are None where nothing was drawn."""

    mae_w: float
    rmse_w: float
    relative_energy: float | None
    nde: float | None


def power_error(truth_w: NDArray[np.float64], estimate_w: NDArray[np.float64]) -> PowerError:
    """Return the errors of an estimated power, shapes (step,) [W].

    Raises
    ------
    NotKnowable
        If there is no step.

    Notes
    -----
    docs/methods H11: mean and root mean square error, (Σê − Σy)/Σy, and √(Σ(y − ê)²/Σy²).
    """
    if truth_w.size == 0:
        raise NotKnowable("There is no power to compare.", "Record some.")
    away = estimate_w - truth_w
    total, squares = float(truth_w.sum()), float((truth_w**2).sum())
    return PowerError(
        mae_w=float(np.abs(away).mean()),
        rmse_w=float(np.sqrt((away**2).mean())),
        relative_energy=float(away.sum()) / total if total else None,
        nde=float(np.sqrt((away**2).sum() / squares)) if squares else None,
    )
