"""A slow change told from scattered readings: the median of all slopes (D10)."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from statistics import median

from warmeter.core.errors import NotKnowable

FEWEST_READINGS = 3
PER_30_DAYS = 30.0
DRIFT_LIMIT_K = 0.5  # in thirty days; more is no noise of a sound sensor


@dataclass(frozen=True, slots=True, kw_only=True)
class Drift:
    """A slope a day with the middle half of all slopes, and the level at day 0 by the median."""

    slope_per_day: float
    low_per_day: float
    high_per_day: float
    level: float

    @property
    def per_30_days(self) -> float:
        """The change of thirty days."""
        return PER_30_DAYS * self.slope_per_day

    @property
    def is_one_way(self) -> bool:
        """Whether the middle half of all slopes lies on one side of nought."""
        return self.low_per_day * self.high_per_day > 0

    def exceeds(self, limit_per_30_days: float) -> bool:
        """Whether thirty days change it by more than a limit."""
        return abs(self.per_30_days) > limit_per_30_days


def drift_of(days: Sequence[float], values: Sequence[float]) -> Drift:
    """Return how values drift over days.

    Parameters
    ----------
    days, values : sequences of float of one length
        Readings and their times [days]; readings of one time have no slope between them.

    Raises
    ------
    NotKnowable
        If there are fewer than three readings, or all at one time.

    Notes
    -----
    docs/methods D10: the median of all pairwise slopes (Theil and Sen); its range is the middle half of the slopes.
    """
    pairs = combinations(zip(days, values, strict=True), 2)
    slopes = sorted((w - v) / (e - d) for (d, v), (e, w) in pairs if e != d)
    if len(days) < FEWEST_READINGS or not slopes:
        raise NotKnowable("Fewer than three readings at different times tell no drift.", "Read it again later.")
    slope = median(slopes)
    return Drift(
        slope_per_day=slope,
        low_per_day=slopes[len(slopes) // 4],
        high_per_day=slopes[-1 - len(slopes) // 4],
        level=median(v - slope * d for d, v in zip(days, values, strict=True)),
    )
