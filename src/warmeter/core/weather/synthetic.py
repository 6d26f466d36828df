"""A made-up season: outdoor temperature from a place's yearly mean and coldest day, always the same."""

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.units import MIN_PER_DAY

# Periods of the slow waves that stand for spells [d], and their shares.
SPELLS = ((4.3, 0.3), (7.9, 0.4), (15.7, 0.3))
SWING_K = 3.0
COLDEST_DAY, WARMEST_MIN = 20, 930


def made_up_outdoor_c(
    day_of_year: Floats, minute: Floats, *, annual_mean_c: float, coldest_c: float, is_south: bool = False
) -> Floats:
    """Return made-up outdoor temperatures, shape as given [°C].

    Parameters
    ----------
    day_of_year : float array
        Day and its fraction, 1 on 1 January.
    minute : float array
        Minute of the local day.
    annual_mean_c, coldest_c : float
        Yearly mean and design day of the place.

    Notes
    -----
    A yearly wave of half the way from the mean to the design day, coldest on 20 January (south of the equator half a
    year later); spells as three slow waves of a quarter of that way; a daily wave of 3 K, warmest at 15:30.
    """
    way = min(max(annual_mean_c - coldest_c, 4.0), 40.0)
    phase = 2 * np.pi * (day_of_year - COLDEST_DAY) / 365.25 + (np.pi if is_south else 0.0)
    year = -0.5 * way * np.cos(phase)
    spells = 0.25 * way * sum(share * np.sin(2 * np.pi * day_of_year / period + period) for period, share in SPELLS)
    day = SWING_K * np.cos(2 * np.pi * (minute - WARMEST_MIN) / MIN_PER_DAY)
    return np.asarray(annual_mean_c + year + spells + day, dtype=np.float64)
