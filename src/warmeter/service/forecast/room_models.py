"""A room's model as a day begins: as fitted or as surveyed, in draws, at the state that its log leaves."""

from hashlib import sha256

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.room_model import draws_of, room_model, settled_state
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.thermal.room_fit import StoredFit
from warmeter.core.thermal.simulate import compile_rooms, tracked_state
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.core.warmup.prediction import RoomModel
from warmeter.core.weather.forecast import WeatherForecast
from warmeter.service.app import App
from warmeter.service.readings.room_logs import instants, room_log, room_series

TRACK_MS = 4 * MS_PER_DAY


def draws_apart(room_id: str, count: int) -> Ints:
    """Return the order in which a room's draws stand beside those of the others, the best estimate first.

    Every room errs in its own way: what one fit or survey gets wrong says nothing of the next room's. The order hangs
    on the room alone, so that it is the same at each look.
    """
    rng = np.random.default_rng(int.from_bytes(sha256(room_id.encode()).digest()[:4], "big"))
    return np.append(0, 1 + rng.permutation(count - 1)).astype(np.int64)


def room_forecast_inputs(
    app: App,
    home: Home,
    room: Room,
    heater: Heater,
    stored: StoredFit | None,
    start: int,
    outdoor: WeatherForecast,
    steps: int,
    draws: int,
    beside_w_k: float = 0.0,
) -> tuple[RoomModel, Floats, Floats, StoredFit | None]:
    """Return (model, state at the start, measured temperature by minute, fit); ``beside_w_k`` is what it shares [W/K]."""
    rooms, gains, suns, full_heat = draws_of(home, room, stored)
    apart = draws_apart(room.id, len(rooms))[:draws]
    is_fitted = stored is not None and stored.fit.is_fit_for_use
    # People and sun are the same in all rooms; a fit has them together with its loss.
    common = apart if is_fitted else np.arange(draws)
    rooms, gains, suns = tuple(rooms[k] for k in apart), gains[common], suns[common]
    in_watts = stored is None or not stored.fit.is_fit_for_use or stored.fit.watts_known
    model = room_model(home, room, heater, rooms, gains, suns, full_heat, beside_w_k, in_watts=in_watts)
    grid = np.arange(start, start + (steps + 1) * MS_PER_MIN, MS_PER_MIN, dtype=np.int64)
    measured = instants(app, home, room_series(app, home, "room_temperature", room.id), grid)
    state = _state(
        app,
        home,
        room,
        model,
        rooms,
        full_heat,
        start,
        outdoor,
        stored if stored is not None and stored.fit.is_fit_for_use else None,
    )
    return model, state, measured, stored


def _state(
    app: App,
    home: Home,
    room: Room,
    model: RoomModel,
    rooms: tuple[RoomRc, ...],
    full_heat: float,
    start: int,
    outdoor: WeatherForecast,
    stored: StoredFit | None,
) -> Floats:
    """Return each draw's state at ``start``: tracked through the log, else settled at the first level."""
    try:
        logged = room_log(app, home, room, start - TRACK_MS, start)
        log = logged.log
    except NotKnowable:
        return settled_state(home, room, model, outdoor)
    known = log.known
    if not known.any() or np.isnan(log.room_c).all():
        return settled_state(home, room, model, outdoor)
    index, heard = np.arange(log.outdoor_c.size), ~np.isnan(log.outdoor_c)
    gains = model.gain_w[:, None] + model.sun_m2[:, None] * log.clear_sky_w_m2[None, :]
    first = float(log.room_c[~np.isnan(log.room_c)][0])
    heat = np.nan_to_num(log.heat_w)
    if not log.watts_known and heat.max() > 0:
        # On the scale of the fit; a surveyed room takes the highest logged heat for its heater's full heat.
        heat = heat * (stored.fit.heat_scale if stored is not None else full_heat / heat.max())
    return tracked_state(
        compile_rooms(rooms, full_heat, log.step_s),
        outdoor_c=np.interp(index, index[heard], log.outdoor_c[heard]),
        heat_w=heat,
        gain_w=gains,
        measured_c=log.room_c,
        start_c=np.full((len(rooms), 3), first),
    )
