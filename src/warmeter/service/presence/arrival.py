"""Whether a room of a home is warm on arrival, over the days that presence is learnt from."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.building.heating import heat_over_draw
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.costing import drawn_of
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import Zone
from warmeter.core.presence.absences import absences_of, nearest_m
from warmeter.core.presence.household_presence import minutes_of
from warmeter.core.presence.presence_log import distance_of
from warmeter.core.presence.ways import DAY_MIN, looking_back
from warmeter.core.timetable.day import blocks_between
from warmeter.core.truth.truth import TRUE
from warmeter.core.units import MS_PER_MIN
from warmeter.core.warmup.prediction import HeatingStretch, guarded_c
from warmeter.core.warmup.warm_arrival import ArrivalRoom, WarmArrival, warm_arrival
from warmeter.core.weather.forecast import WeatherForecast
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.forecast.day_forecasts import FEW_DRAWS
from warmeter.service.forecast.outdoor_forecast import outdoor_between
from warmeter.service.forecast.room_models import room_forecast_inputs
from warmeter.service.presence.household import HomePresenceNow
from warmeter.service.readings.room_logs import clear_sky
from warmeter.service.tariffs.pricing import known_prices

# Shorter absences cool nothing down [min].
LEAST_ABSENCE_MIN = 45
_FOUND: "Cache[RoomArrival]" = Cache(24)


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalAsked:
    """What is asked: levels while somebody is in and while nobody is, the assurance, outdoors where no log tells [°C]."""

    room_id: str
    warm_id: str
    away_id: str
    assurance: float
    outdoor_c: float


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomArrival:
    """What came of it, and what it rests on: whether the room is fitted, and whether it was logged how cold it was."""

    found: WarmArrival
    is_fitted: bool
    is_outdoor_logged: bool
    has_distance: bool
    warm_c: float
    away_c: float


def room_arrival(app: App, home: Home, presence: HomePresenceNow, asked: ArrivalAsked) -> RoomArrival:
    """Return the ways to have a room warm on arrival, over the days that presence is learnt from.

    Raises
    ------
    NotKnowable
        If the room has no heater or zone, the level for while nobody is in is no colder, or nobody was away for long.
    """
    room = home.room(asked.room_id)
    heater, zone = home.heater_of(room.id), home.zone_of_room(room.id)
    if heater is None or zone is None:
        raise NotKnowable(f"{room.name} has no heater, or stands in no zone.", "Enter both in the survey.")
    if home.heating_c(zone, asked.away_id) >= home.heating_c(zone, asked.warm_id):
        raise NotKnowable(
            f"{home.level(asked.away_id).name} is no colder than {home.level(asked.warm_id).name}: nothing is to be warmed up.",
            "Choose a level that saves for while nobody is in.",
        )
    stamp = app.work.fit_stamp(home.id), app.readings.import_stamp(home.id), app.as_of_ms(home.id)
    key = (str(app.engine.url), home, repr(stamp), presence.log.start_ms, presence.log.end_ms, asked)
    return _FOUND.get(key, lambda: _arrival(app, home, presence, asked, room, heater, zone))


def _arrival(
    app: App, home: Home, presence: HomePresenceNow, asked: ArrivalAsked, room: Room, heater: Heater, zone: Zone
) -> RoomArrival:
    minutes_ms = minutes_of(presence.log.start_ms, presence.log.end_ms)
    state = looking_back(presence.household, minutes_ms, home.presence_practice.sure)
    absences = absences_of(state, LEAST_ABSENCE_MIN)
    if not absences:
        raise NotKnowable(
            f"In these days nobody came home after {LEAST_ABSENCE_MIN} minutes or more.",
            "Import a longer log of people.",
        )
    stored = app.work.fits(home.id).get(room.id)
    is_fitted = stored is not None and stored.fit.is_fit_for_use and stored.fit.watts_known
    outdoor, certain = _outdoor(app, home, minutes_ms, asked.outdoor_c)
    model, state_c, _, _ = room_forecast_inputs(
        app, home, room, heater, stored if is_fitted else None, int(minutes_ms[0]), outdoor, minutes_ms.size, FEW_DRAWS
    )
    told = [d for device in home.devices if (d := distance_of(presence.log, device.id)) is not None]
    on_the_way = np.zeros(minutes_ms.size, dtype=bool)
    for word in presence.household.home.on_the_way.values():
        on_the_way |= word.at(minutes_ms) == TRUE
    away_c = home.heating_c(zone, asked.away_id)
    found = warm_arrival(
        ArrivalRoom(
            model=model,
            stretch=_stretch(home, minutes_ms, outdoor, certain, state_c),
            warm_c=_warm_c(app, home, zone, minutes_ms, asked.warm_id),
            target_c=guarded_c(home.guard_of(zone), home.heating_c(zone, asked.warm_id)),
            away_c=away_c,
            price=_price(app, home, heater, minutes_ms, outdoor.outdoor_c),
        ),
        absences,
        nearest_m(told, minutes_ms),
        on_the_way,
        minutes_ms,
        app.clock(home),
        asked.assurance,
    )
    return RoomArrival(
        found=found,
        is_fitted=is_fitted,
        is_outdoor_logged=certain > 0,
        has_distance=bool(told),
        warm_c=home.heating_c(zone, asked.warm_id),
        away_c=away_c,
    )


def _outdoor(app: App, home: Home, minutes_ms: Ints, typed_c: float) -> tuple[WeatherForecast, int]:
    """Return how cold it was and how many minutes of it were measured; the typed temperature all through without a log."""
    start, end = int(minutes_ms[0]), int(minutes_ms[-1]) + MS_PER_MIN
    try:
        outdoor, _, certain = outdoor_between(app, home, app.clock(home), app.as_of_ms(home.id), start, end, None)
    except NotKnowable:
        return WeatherForecast(np.full(minutes_ms.size + 1, typed_c), "typed", 0.0), 0
    return outdoor, certain


def _stretch(home: Home, minutes_ms: Ints, outdoor: WeatherForecast, certain: int, start_c: Floats) -> HeatingStretch:
    return HeatingStretch(
        start_ms=int(minutes_ms[0]),
        outdoor_c=outdoor.outdoor_c[: minutes_ms.size + 1],
        offsets_k=np.zeros(FEW_DRAWS),
        certain=certain,
        clear_sky_w_m2=clear_sky(home, int(minutes_ms[0]), 60.0, minutes_ms.size),
        start_c=start_c,
    )


def _warm_c(app: App, home: Home, zone: Zone, minutes_ms: Ints, warm_id: str) -> Floats:
    """Return what is asked while somebody is in: the level by day, at night what the timetable says [°C]."""
    clock, guard = app.clock(home), home.guard_of(zone)
    blocks = blocks_between(home, zone, clock, int(minutes_ms[0]), int(minutes_ms[-1]) + MS_PER_MIN)
    begins = np.array([b.from_ms for b in blocks], dtype=np.int64)
    asked = np.array([guarded_c(guard, b.setpoint_c) for b in blocks])
    _, of_day = clock.local_minutes(minutes_ms)
    by_day = (of_day >= DAY_MIN[0]) & (of_day < DAY_MIN[1])
    written = asked[np.maximum(np.searchsorted(begins, minutes_ms, side="right") - 1, 0)]
    return np.where(by_day, guarded_c(guard, home.heating_c(zone, warm_id)), written)


def _price(app: App, home: Home, heater: Heater, minutes_ms: Ints, outdoor_c: Floats) -> Floats | None:
    """Return what a kWh of heat costs by minute; None where what the heater draws has no price for all of them."""
    source = home.source(heater.source_id)
    prices = known_prices(app, home, minutes_ms)
    drawn = drawn_of(heater, source, prices, minutes_ms.size).by_step
    if drawn is None:
        return None
    heat_for_each: Floats = heat_over_draw(heater, source, outdoor_c[None, : minutes_ms.size])[0]
    return np.asarray(drawn / heat_for_each)
