"""An open window told by the fall of temperature (D9)."""

import numpy as np

from warmeter.core.arrays import Flags, Floats


def usual_drop_k(at_s: Floats, temperature_c: Floats, is_shut: Flags, *, noise_k: float, window_s: float) -> float:
    """Return from which fall within a window on an opening may be told (D9): four times the noise and the fastest fall while shut.

    Parameters
    ----------
    at_s, temperature_c : (reading,) float arrays
        Times, rising [s], and temperatures [°C].
    is_shut : (reading,) bool array
        Where windows were surely shut, such as at night.
    noise_k : float
        The sensor's noise [K].

    Notes
    -----
    Of the falls that are surely none of a window the 99.9 % quantile counts, so that one wrong reading does not.
    """
    first = np.searchsorted(at_s, at_s - window_s - 1e-9, side="left")
    falls = [
        float(np.max(temperature_c[first[k] : k + 1]) - temperature_c[k]) for k in np.flatnonzero(is_shut).tolist()
    ]
    fastest = float(np.quantile(falls, 0.999)) if falls else 0.0
    return 4 * noise_k + max(0.0, fastest - 2 * noise_k)
