"""What a machine draws doing nothing (H1)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import NotKnowable, within

HOURS_PER_YEAR_K = 8.76  # W x 8.76 = kWh a year


@dataclass(frozen=True, slots=True, kw_only=True)
class Standby:
    """Standby power by quantile and by mode [W], and a year of the mode [kWh]."""

    quantile_w: float
    mode_w: float

    @property
    def annual_kwh(self) -> float:
        """Energy of a year at the mode [kWh]."""
        return self.mode_w * HOURS_PER_YEAR_K


def standby_of(power_w: NDArray[np.float64], *, quantile: float = 0.05, bin_w: float = 1.0) -> Standby:
    """Return the standby power of a log.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power over equal steps, gaps left out [W].
    quantile : float
        Between 0 and 1.
    bin_w : float
        Width of the mode's bins, > 0 [W].

    Raises
    ------
    NotKnowable
        If the log is empty.

    Notes
    -----
    Quantile: straight line at q (n − 1) of the sorted samples. Mode: median of the fullest bin of
    floor(P/bin + 1e-9), the lowest on ties. docs/methods H1.
    """
    within("quantile", quantile, 0.0, 1.0)
    within("bin", bin_w, 1e-6, 1e4, "W")
    if power_w.size == 0:
        raise NotKnowable("There is no power in this log.", "Record a day or more, better a week.")
    bins = np.floor(power_w / bin_w + 1e-9).astype(np.int64)
    names, counts = np.unique(bins, return_counts=True)
    fullest = names[int(np.argmax(counts))]
    return Standby(quantile_w=float(np.quantile(power_w, quantile)), mode_w=float(np.median(power_w[bins == fullest])))
