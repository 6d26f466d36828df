"""A room's hours ahead from what it has now, whatever its forecast had expected it to have by then."""

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.forecast.day_forecast import RoomForecast
from warmeter.core.thermal.simulate import controlled_run
from warmeter.core.warmup.prediction import boundary_of


def expected_from(room: RoomForecast, minute: int, measured_c: float) -> Floats:
    """Return a room's expected air temperature by minute from a minute of its day on [°C].

    Parameters
    ----------
    minute : int
        Of the forecast's day, from 0 on.
    measured_c : float
        What the room has at that minute [°C].

    Returns
    -------
    (rest of the day,) float array
        The first value is the measured one.

    Notes
    -----
    What is stored in walls and floor at that minute is not measured: it is taken from the forecast, all of it as much
    warmer or colder as the air was found.

    References
    ----------
    docs/methods, B; the shift is Warmeter's own.
    """
    draws = room.model.gain_w.size
    begun = np.repeat(room.begin_state_c[None, :], draws, axis=0)
    limit = room.limit_c
    before = room.stretch.part(room.begin, room.begin + minute, begun)
    state = begun
    if minute:
        past = None if limit is None else limit[:minute]
        boundary = boundary_of(room.model, before, room.setpoint_c[:minute], past)
        state = controlled_run(room.model.step, boundary, room.model.control).states_c[:, -1]
    shifted = np.ascontiguousarray(state + (measured_c - state[0, 0]))
    after = room.stretch.part(room.begin + minute, room.begin + room.setpoint_c.size, shifted)
    ahead = None if limit is None else limit[minute:]
    boundary = boundary_of(room.model, after, room.setpoint_c[minute:], ahead)
    return np.asarray(controlled_run(room.model.step, boundary, room.model.control).air_c[0, :-1])
