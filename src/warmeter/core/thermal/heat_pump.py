"""Heat pump efficiency: second law (C8) and a table by outdoor temperature."""

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import HomeError, OutOfRange

COP_CAP = 7.0


def cop_carnot(
    *, eta: float, flow_c: float, source_c: float, approach_hot_k: float = 0.0, approach_cold_k: float = 0.0
) -> tuple[float, float]:
    """Return (ideal COP, real COP = η times it, at most 7).

    Parameters
    ----------
    eta : float
        Share of the ideal reached; air 0.35 to 0.45, brine 0.45 to 0.55.
    flow_c, source_c : float
        Flow and source temperature [°C]; at least 15 K apart, or the formula exaggerates.

    Raises
    ------
    OutOfRange
        If the condenser is not warmer than the evaporator.

    References
    ----------
    Second law of thermodynamics; docs/methods C8.

    Examples
    --------
    >>> round(cop_carnot(eta=0.45, flow_c=35, source_c=2)[1], 4)
    4.202
    """
    hot_k = flow_c + approach_hot_k + 273.15
    cold_k = source_c - approach_cold_k + 273.15
    if not hot_k > cold_k:
        raise OutOfRange("source temperature", source_c, -60.0, flow_c, "°C")
    ideal = hot_k / (hot_k - cold_k)
    return ideal, min(COP_CAP, eta * ideal)


def cop_at(points: Sequence[tuple[float, float]], outdoor_c: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the COP for outdoor temperatures by straight lines between given points.

    Beyond the first and last point their COP holds. Shape as ``outdoor_c``.

    Raises
    ------
    HomeError
        If there is no point or the outdoor temperatures do not rise.
    """
    if not points or any(b[0] <= a[0] for a, b in itertools.pairwise(points)):
        raise HomeError("the COP needs at least one point, outdoor temperatures rising")
    table = np.asarray(points, dtype=np.float64)
    return np.interp(outdoor_c, table[:, 0], table[:, 1])
