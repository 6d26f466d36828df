"""A home's day: what is asked, what was measured, what will happen, and what it costs."""

from dataclasses import replace
from datetime import date
from functools import partial

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import TariffError
from warmeter.core.forecast.day_forecast import DayForecast, RoomForecast
from warmeter.core.forecast.room_forecast import (
    ForecastInputs,
    neighbour_temperatures,
    room_forecast,
    shared_conductance_w_k,
)
from warmeter.core.home.document import Home
from warmeter.core.tariff.prices import Prices, minutes_between
from warmeter.core.thermal.room_fit import DRAWS, even_normals
from warmeter.core.timegrid import LocalClock, LocalDay
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.forecast.damp import damp_limits, guarded_home
from warmeter.service.forecast.outdoor_forecast import TypedWeather, outdoor_between
from warmeter.service.forecast.room_models import room_forecast_inputs
from warmeter.service.readings.room_logs import clear_sky
from warmeter.service.tariffs.pricing import prices_for
from warmeter.service.timetable.manual_overrides import changes_of, claims_by_hand

FEW_DRAWS = 9  # the best estimate and eight others


_KEPT_GROUNDS: "Cache[ForecastInputs]" = Cache(24)
_KEPT_BESIDE: Cache[dict[str, Floats]] = Cache(24)
# An edit of one zone leaves the other rooms as they were; a room's day is about 100 kB, its week 600 kB.
_KEPT_ROOMS: Cache[RoomForecast] = Cache(60)


def day_forecast(
    app: App, home: Home, revision: int, on: date, typed: TypedWeather | None = None, days: int = 1
) -> DayForecast:
    """Return a home's day, or so many days from one on as one stretch.

    A stretch of several days has ranges from fewer draws.

    Raises
    ------
    NotKnowable
        If neither log nor typing says how cold it will be.
    """
    clock, as_of = app.clock(home), app.as_of_ms(home.id)
    key = (
        str(app.engine.url),
        home.id,
        on,
        days,
        as_of,
        typed,
        app.work.fit_stamp(home.id),
        _ground_key(home),
        home.place,
        home.time_zone,
        home.day_weather,
        app.readings.import_stamp(home.id),
    )
    inputs = _KEPT_GROUNDS.get(key, lambda: _forecast_inputs(app, home, clock, as_of, on, typed, days))
    begin = (inputs.day.start_ms - inputs.start_ms) // MS_PER_MIN
    minutes = (inputs.day.end_ms - inputs.day.start_ms) // MS_PER_MIN
    prices, note = _prices(app, home, inputs.day)
    changes = [change for _, change in changes_of(app, home.id)]
    guarded = guarded_home(home, inputs.damp)
    asked_of = guarded.zones, home.levels, home.guard, home.day_kinds, home.special_days
    beside = _KEPT_BESIDE.get((key, asked_of), partial(neighbour_temperatures, guarded, clock, inputs))
    rooms = []
    for room in home.rooms:
        zone, heater = guarded.zone_of_room(room.id), home.heater_of(room.id)
        if zone is not None and heater is not None:
            by_hand = claims_by_hand(changes, zone, inputs.start_ms, inputs.day.end_ms)
            kinds = home.day_kinds, home.special_days
            near = beside.get(room.id)
            told = b"" if near is None else near[::60].tobytes()
            limit_c = home.guard_of(home.zone_of_id(zone.id)).low_c
            unchanged = (
                key,
                room.id,
                replace(zone, name=""),
                limit_c,
                by_hand,
                home.levels,
                home.guard,
                home.tariffs,
                kinds,
                told,
            )
            found = _KEPT_ROOMS.get(
                unchanged,
                partial(
                    room_forecast,
                    guarded,
                    clock,
                    inputs,
                    room,
                    zone,
                    heater,
                    prices,
                    begin,
                    minutes,
                    by_hand,
                    near,
                    limit_c,
                ),
            )
            rooms.append(replace(found, zone=home.zone_of_id(zone.id)))
    inside = slice(begin, begin + minutes)
    return DayForecast(
        home=home,
        revision=revision,
        day=inputs.day,
        as_of_ms=as_of,
        clock=clock,
        outdoor=inputs.outdoor,
        outdoor_measured_c=inputs.outdoor_measured_c[inside],
        outdoor_expected_c=inputs.outdoor.outdoor_c[inside],
        prices=prices,
        price_note=note,
        rooms=tuple(rooms),
        damp=inputs.damp,
        stamp=key,
    )


def _ground_key(home: Home) -> tuple[object, ...]:
    """Return what of a home a day's grounds depend on; change points and levels are not among it."""
    return home.rooms, home.openings, home.storeys, home.sources, home.heaters, home.design, home.devices


def _prices(app: App, home: Home, day: LocalDay) -> tuple[Prices | None, str]:
    if home.tariff_on(day.date) is None:
        return None, "no tariff yet"
    try:
        return prices_for(app, home, minutes_between(day.start_ms, day.end_ms)), ""
    except TariffError as error:
        return None, str(error)


def _forecast_inputs(
    app: App, home: Home, clock: LocalClock, as_of: int, on: date, typed: TypedWeather | None, days: int
) -> ForecastInputs:
    day = clock.stretch(on, days)
    start = min(max(as_of, day.start_ms - 2 * MS_PER_DAY), day.start_ms - 12 * MS_PER_H) // MS_PER_MIN * MS_PER_MIN
    outdoor, measured, certain = outdoor_between(app, home, clock, as_of, start, day.end_ms, typed)
    steps = (day.end_ms - start) // MS_PER_MIN
    fits = app.work.fits(home.id)
    draws = DRAWS + 1 if days == 1 else FEW_DRAWS
    rooms = {
        room.id: room_forecast_inputs(
            app,
            home,
            room,
            heater,
            fits.get(room.id),
            start,
            outdoor,
            steps,
            draws,
            shared_conductance_w_k(home, room, fits),
        )
        for room in home.rooms
        if (heater := home.heater_of(room.id))
    }
    return ForecastInputs(
        start_ms=start,
        day=day,
        as_of_ms=as_of,
        outdoor=outdoor,
        outdoor_measured_c=measured,
        certain=certain,
        offsets=np.append(0.0, even_normals(DRAWS, 1)[:, 0] * outdoor.spread_k)[:draws],
        clear_sky_w_m2=clear_sky(home, start, 60.0, steps),
        rooms=rooms,
        damp=damp_limits(app, home),
    )
