"""A room's model as a day begins: as fitted or as surveyed, in draws, at the state that its log leaves."""

from hashlib import sha256

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.heating import full_cool_w, full_heat_w
from warmeter.core.building.losses import prior_of
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.thermal.room_fit import StoredFit, survey_draws
from warmeter.core.thermal.simulate import OnOff, compile_rooms, tracked_state
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.core.warmup.prediction import RoomModel, guarded_c
from warmeter.core.weather.forecast import WeatherForecast
from warmeter.service.app import App
from warmeter.service.readings.room_logs import instants, room_log, room_series

TRACK_MS = 4 * MS_PER_DAY


def draws_of(home: Home, room: Room, stored: StoredFit | None) -> tuple[tuple[RoomRc, ...], Floats, Floats, float]:
    """Return a room's draws, gains [W], sun apertures [m2] and full heat [W]: as fitted where that is fit for use."""
    full_heat = full_heat_w(home, room.id)
    if stored is not None and stored.fit.is_fit_for_use:
        # Without watts the model lives on a scale of its own, on which the heater has its own full heat.
        full_heat = full_heat if stored.fit.watts_known else stored.fit.full_heat_w
        return tuple(stored.fit.rooms), np.array(stored.fit.gains_w), np.array(stored.fit.suns_m2), full_heat
    return *survey_draws(prior_of(home, room)), full_heat


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
    control = OnOff(
        full_heat_w=full_heat,
        band_k=heater.band_k,
        min_on_steps=heater.min_on_min,
        min_off_steps=heater.min_off_min,
        full_cool_w=full_cool_w(home, room.id) if in_watts else 0.0,
    )
    step = compile_rooms(rooms, full_heat, 60.0, beside_w_k)
    model = RoomModel(step=step, gain_w=gains, sun_m2=suns, control=control)
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
        return _settled_state(home, room, model, outdoor)
    known = log.known
    if not known.any() or np.isnan(log.room_c).all():
        return _settled_state(home, room, model, outdoor)
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


def _settled_state(home: Home, room: Room, model: RoomModel, outdoor: WeatherForecast) -> Floats:
    zone = home.zone_of_room(room.id)
    asked = [setpoint_of(home, zone, point) for point in zone.timetables[0].usual] if zone else [18.0]
    air = guarded_c(home.guard_of(zone), float(np.mean(asked)))
    state = np.full((model.gain_w.size, 3), air)
    # In a settled room the fabric lies between air and outdoors, by about a tenth of the way.
    state[:, 1] = air - 0.1 * (air - float(outdoor.outdoor_c[0]))
    return state
