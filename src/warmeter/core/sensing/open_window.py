"""An open window told by the fall of temperature (D9)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import within

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Fall:
    """When a fall was first seen [s] and how deep it was [K]; both None where none was."""

    at_s: float | None
    drop_k: float | None


def open_window(at_s: Floats, temperature_c: Floats, *, window_s: float, drop_k: float) -> Fall:
    """Return the first fall of at least ``drop_k`` below the highest reading not older than the window (D9).

    Parameters
    ----------
    at_s, temperature_c : (reading,) float arrays
        Times, rising [s], and temperatures [°C].

    Raises
    ------
    OutOfRange
        If window or drop is not above 0.
    """
    within("window", window_s, 1e-9, 86_400, "s")
    within("drop", drop_k, 1e-9, 100, "K")
    first = np.searchsorted(at_s, at_s - window_s - 1e-9, side="left")
    for k in range(at_s.size):
        fall = float(np.max(temperature_c[first[k] : k + 1]) - temperature_c[k])
        if fall >= drop_k - 1e-9:
            return Fall(float(at_s[k]), fall)
    return Fall(None, None)


def usual_drop_k(
    at_s: Floats, temperature_c: Floats, is_shut: NDArray[np.bool_], *, noise_k: float, window_s: float
) -> float:
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
