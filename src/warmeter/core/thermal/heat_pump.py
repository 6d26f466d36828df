"""Heat pump efficiency: second law (C8) and a table by outdoor temperature."""

import itertools
from collections.abc import Sequence

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import HomeError

COP_CAP = 7.0


def cop_at(points: Sequence[tuple[float, float]], outdoor_c: Floats) -> Floats:
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
