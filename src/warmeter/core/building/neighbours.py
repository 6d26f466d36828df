"""What heated rooms give each other through the walls that they share: conductances, and the temperature beside a room."""

from collections.abc import Mapping

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.groupings import RoomsRun

_STEP_K = 0.2  # a wall of 50 W/K carries 5 W for half of it


def beside_c(shared_w_k: Mapping[str, float], run: RoomsRun, room_ids: tuple[str, ...]) -> Floats:
    """Return the fabric temperature of the rooms beside one, weighted by what they share with it, shape (step,) [°C].

    Parameters
    ----------
    shared_w_k : mapping of str to float
        Conductance to each heated room beside, their sum above 0 [W/K].
    run : RoomsRun
        All rooms together.
    room_ids : tuple of str
        The run's rooms in order.
    """
    place = {key: k for k, key in enumerate(room_ids)}
    weights = np.zeros(len(room_ids))
    for key, conductance in shared_w_k.items():
        weights[place[key]] += conductance
    return np.asarray(weights @ run.fabric_c / weights.sum(), dtype=np.float64)


def hourly_c(temperature_c: Floats, steps_an_hour: int) -> Floats:
    """Return hourly means to a fifth of a kelvin, held through their hours, shape as given [°C].

    A wall is slow: what its other side does within an hour does not matter, nor does a change too small to be told.
    """
    hours = -(-temperature_c.size // steps_an_hour)
    padded = np.append(temperature_c, np.full(hours * steps_an_hour - temperature_c.size, temperature_c[-1]))
    means = np.round(padded.reshape(hours, steps_an_hour).mean(axis=1) / _STEP_K) * _STEP_K
    return np.repeat(means, steps_an_hour)[: temperature_c.size]
