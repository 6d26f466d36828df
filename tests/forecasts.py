"""A day's forecast made of a home and the weather alone: no log, no store."""

from datetime import date

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import TariffError
from warmeter.core.forecast.day_forecast import DayForecast
from warmeter.core.forecast.room_forecast import (
    ForecastInputs,
    neighbour_temperatures,
    room_forecast,
    shared_conductance_w_k,
)
from warmeter.core.forecast.room_model import draws_of, room_model, settled_state
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.tariff.prices import Prices, prices_between
from warmeter.core.thermal.room_fit import StoredFit
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_H, MS_PER_MIN
from warmeter.core.warmup.prediction import RoomModel
from warmeter.core.weather.forecast import WeatherForecast

DAY = date(2026, 1, 14)
RUN_IN_MIN = 720


def surveyed_forecast(home: Home, outdoor_c: float = 2.0, spread_k: float = 1.5, on: date = DAY) -> DayForecast:
    """Return a day of steady cold without sun, of which nothing was measured, from half a day before it."""
    clock = LocalClock(home.time_zone)
    day = clock.day(on)
    start = day.start_ms - RUN_IN_MIN * MS_PER_MIN
    minutes = (day.end_ms - start) // MS_PER_MIN
    weather = WeatherForecast(np.full(minutes + 1, outdoor_c), "typed", spread_k)
    rooms: dict[str, tuple[RoomModel, Floats, Floats, StoredFit | None]] = {}
    draws = 0
    for room, heater in _heated(home):
        drawn, gains, suns, full_heat = draws_of(home, room, None)
        shared = shared_conductance_w_k(home, room, {})
        model = room_model(home, room, heater, drawn, gains, suns, full_heat, shared)
        draws = gains.size
        state = settled_state(home, room, model, weather)
        rooms[room.id] = model, state, np.full(minutes + 1, np.nan), None
    offsets = np.append(0.0, np.linspace(-spread_k, spread_k, draws - 1))
    inputs = ForecastInputs(
        start_ms=start,
        day=day,
        as_of_ms=day.start_ms - MS_PER_H,
        outdoor=weather,
        outdoor_measured_c=np.full(minutes, np.nan),
        certain=0,
        offsets=offsets,
        clear_sky_w_m2=np.zeros(minutes),
        rooms=rooms,
        damp={},
    )
    prices, note = _prices(home, clock, day.start_ms, day.end_ms, on)
    beside = neighbour_temperatures(home, clock, inputs)
    forecasts = []
    for room, heater in _heated(home):
        zone = home.zone_of_room(room.id)
        assert zone is not None
        limit_c = home.guard_of(zone).low_c
        length = minutes - RUN_IN_MIN
        near = beside.get(room.id)
        forecasts.append(
            room_forecast(home, clock, inputs, room, zone, heater, prices, RUN_IN_MIN, length, (), near, limit_c)
        )
    return DayForecast(
        home=home,
        revision=1,
        day=day,
        as_of_ms=inputs.as_of_ms,
        clock=clock,
        outdoor=weather,
        outdoor_measured_c=inputs.outdoor_measured_c[RUN_IN_MIN:],
        outdoor_expected_c=weather.outdoor_c[RUN_IN_MIN:-1],
        prices=prices,
        price_note=note,
        rooms=tuple(forecasts),
        damp={},
        stamp=(),
    )


def _heated(home: Home) -> list[tuple[Room, Heater]]:
    return [(room, heater) for room in home.rooms if (heater := home.heater_of(room.id))]


def _prices(home: Home, clock: LocalClock, start_ms: int, end_ms: int, on: date) -> tuple[Prices | None, str]:
    tariff = home.tariff_on(on)
    if tariff is None:
        return None, "no tariff yet"
    try:
        return prices_between(tariff, clock, start_ms, end_ms), ""
    except TariffError as error:
        return None, str(error)
