"""A room's model as a forecast runs it: as fitted where that is fit for use, else as surveyed, in draws."""

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.heating import full_cool_w, full_heat_w
from warmeter.core.building.losses import prior_of
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.thermal.room_fit import StoredFit, survey_draws
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.warmup.prediction import RoomModel, guarded_c
from warmeter.core.weather.forecast import WeatherForecast


def draws_of(home: Home, room: Room, stored: StoredFit | None) -> tuple[tuple[RoomRc, ...], Floats, Floats, float]:
    """Return a room's draws, gains [W], sun apertures [m2] and full heat [W]: as fitted where that is fit for use."""
    full_heat = full_heat_w(home, room.id)
    if stored is not None and stored.fit.is_fit_for_use:
        # Without watts the model lives on a scale of its own, on which the heater has its own full heat.
        full_heat = full_heat if stored.fit.watts_known else stored.fit.full_heat_w
        return tuple(stored.fit.rooms), np.array(stored.fit.gains_w), np.array(stored.fit.suns_m2), full_heat
    return *survey_draws(prior_of(home, room)), full_heat


def room_model(
    home: Home,
    room: Room,
    heater: Heater,
    rooms: tuple[RoomRc, ...],
    gains: Floats,
    suns: Floats,
    full_heat: float,
    beside_w_k: float = 0.0,
    *,
    in_watts: bool = True,
) -> RoomModel:
    """Return draws of a room ready to run at one-minute steps with its heater.

    ``gains`` [W] and ``suns`` [m2] have one value a draw, ``full_heat`` is in W, or on the fit's own scale where not
    ``in_watts``; ``beside_w_k`` is what it shares with other rooms [W/K].
    """
    control = OnOff(
        full_heat_w=full_heat,
        band_k=heater.band_k,
        min_on_steps=heater.min_on_min,
        min_off_steps=heater.min_off_min,
        full_cool_w=full_cool_w(home, room.id) if in_watts else 0.0,
    )
    step = compile_rooms(rooms, full_heat, 60.0, beside_w_k)
    return RoomModel(step=step, gain_w=gains, sun_m2=suns, control=control)


def settled_state(home: Home, room: Room, model: RoomModel, outdoor: WeatherForecast) -> Floats:
    """Return each draw's state [°C], shape (draw, 3), in a room that has long stood at the mean of what its zone asks."""
    zone = home.zone_of_room(room.id)
    asked = [setpoint_of(home, zone, point) for point in zone.timetables[0].usual] if zone else [18.0]
    air = guarded_c(home.guard_of(zone), float(np.mean(asked)))
    state = np.full((model.gain_w.size, 3), air)
    # In a settled room the fabric lies between air and outdoors, by about a tenth of the way.
    state[:, 1] = air - 0.1 * (air - float(outdoor.outdoor_c[0]))
    return state
