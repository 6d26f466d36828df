"""Made-up winter days of the demo homes, room by room: what a plan of them promises, and what simulation then says."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.optimum import cheapest_plan
from warmeter.core.edits.preheat_edits import with_preheats
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.day_forecast import RoomForecast
from warmeter.core.forecast.room_forecast import (
    ForecastInputs,
    neighbour_temperatures,
    room_forecast,
    shared_conductance_w_k,
)
from warmeter.core.forecast.room_model import draws_of, room_model, settled_state
from warmeter.core.home.document import Home
from warmeter.core.home.preheats import PreheatBlock, PreheatZone, ZoneFigures
from warmeter.core.preheat.coupled_rooms import coupled, rooms_alone
from warmeter.core.preheat.movable_room import MovableRoom, movable_room
from warmeter.core.preheat.zone_blocks import PlannedZone, forecast_figures, promised_figures, zone_blocks
from warmeter.core.tariff.home_prices import home_prices
from warmeter.core.tariff.prices import Prices, minutes_between
from warmeter.core.thermal.room_fit import StoredFit
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MIN_PER_H, MS_PER_DAY, MS_PER_MIN
from warmeter.core.warmup.prediction import RoomModel
from warmeter.core.weather.forecast import WeatherForecast
from warmeter.core.weather.sun import clear_sky_w_m2, sun_position

FEW_DRAWS = 9
BEFORE_DAYS = 2
STEP_MIN = 15
DEVICE_CHANGES = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class WinterDay:
    """A zone's winter day: figures as written, promised and simulated, its blocks, and whether its limits had to give way."""

    home: str
    zone: str
    on: date
    written: ZoneFigures
    promised: ZoneFigures
    simulated: ZoneFigures
    blocks: tuple[PreheatBlock, ...]
    unreached_k: float


def winter_day(home: Home, on: date, rng: np.random.Generator, *, warmer_k: float = 0.0) -> list[WinterDay]:
    """Return the zones of a home on a day of made-up weather, each planned and then run through the simulation.

    ``warmer_k`` makes a summer's day of it.
    """
    clock = LocalClock(home.time_zone)
    inputs = made_up_inputs(home, clock, on, rng, warmer_k=warmer_k)
    prices = home_prices(home, clock, minutes_between(inputs.day.start_ms, inputs.day.end_ms))
    written = made_up_rooms(home, clock, inputs, prices)
    changes = dict.fromkeys((zone.id for zone in home.zones), DEVICE_CHANGES)
    alone = list(_zones(home, inputs, prices, written))
    zones = coupled(home, clock, alone, changes, lambda edited: made_up_rooms(edited, clock, inputs, prices))
    slots = (inputs.day.end_ms - inputs.day.start_ms) // MS_PER_MIN // STEP_MIN
    movable = [room for zone in zones for room in zone.rooms]
    if not movable:
        return []
    price = prices.by_step.reshape(slots, STEP_MIN).mean(axis=1)
    problem = rooms_alone(price, STEP_MIN, movable)
    plan = cheapest_plan(problem).plan
    assert plan is not None and checked(problem, plan).is_kept  # limits were moved to what can be kept
    blocks = {zone.zone.id: zone_blocks(home, clock, zone, plan.room_kw, DEVICE_CHANGES) for zone in zones}
    edited = home
    for key, each in blocks.items():
        edited = with_preheats(edited, key, clock, each)
    after = made_up_rooms(edited, clock, inputs, prices)
    found = []
    for zone in zones:
        rooms = [_movable(edited, after[room.forecast.room.id]) for room in zone.rooms]
        found.append(
            WinterDay(
                home=home.name,
                zone=zone.zone.name,
                on=on,
                written=forecast_figures(zone, zone.rooms),
                promised=promised_figures(zone, plan.room_kw),
                simulated=forecast_figures(zone, rooms),
                blocks=blocks[zone.zone.id],
                unreached_k=max(float(room.found.too_cold_k.max()) for room in zone.rooms),
            )
        )
    return found


def _movable(home: Home, forecast: RoomForecast) -> MovableRoom:
    guard = home.guard_of(forecast.zone)
    return movable_room(home, forecast, guard, step_min=STEP_MIN, beyond_k=PreheatZone(zone_id="x").beyond_k)


def _zones(
    home: Home, inputs: ForecastInputs, prices: Prices, written: Mapping[str, RoomForecast]
) -> Iterator[PlannedZone]:
    slots = prices.by_step.size // STEP_MIN
    for zone in home.zones:
        rooms = []
        for room_id in zone.room_ids:
            if room_id in written:
                try:
                    rooms.append(_movable(home, written[room_id]))
                except NotKnowable:
                    continue
        if rooms:
            yield PlannedZone(
                zone=zone,
                rooms=tuple(rooms),
                price=prices.by_step.reshape(slots, STEP_MIN).mean(axis=1),
                start_ms=inputs.day.start_ms,
                step_min=STEP_MIN,
            )


def made_up_inputs(
    home: Home, clock: LocalClock, on: date, rng: np.random.Generator, *, warmer_k: float = 0.0
) -> ForecastInputs:
    """Return a day's inputs with two days before it: a mean, a day's swing, and a wander from hour to hour."""
    day = clock.day(on)
    start = day.start_ms - BEFORE_DAYS * MS_PER_DAY
    minutes = (day.end_ms - start) // MS_PER_MIN
    hours = np.arange(minutes // MIN_PER_H + 2)
    wander = np.zeros(hours.size)
    for k in range(1, hours.size):
        wander[k] = 0.95 * wander[k - 1] + rng.normal(0, 0.6)
    swing = rng.uniform(1, 5) * np.sin((hours - 9) / 24 * 2 * np.pi)
    hourly = rng.uniform(-8, 9) + warmer_k + swing + wander
    outdoor = np.interp(np.arange(minutes + 1) / MIN_PER_H, hours, hourly)
    weather = WeatherForecast(outdoor, "made up", 0.0)
    rooms: dict[str, tuple[RoomModel, Floats, Floats, StoredFit | None]] = {}
    for room in home.rooms:
        heater = home.heater_of(room.id)
        if heater is None or home.zone_of_room(room.id) is None:
            continue
        drawn, gains, suns, full = draws_of(home, room, None)
        few = slice(0, FEW_DRAWS)
        model = room_model(
            home, room, heater, drawn[few], gains[few], suns[few], full, shared_conductance_w_k(home, room, {})
        )
        nothing = np.full(minutes + 1, np.nan)
        rooms[room.id] = (model, settled_state(home, room, model, weather), nothing, None)
    middle = start + ((np.arange(minutes) + 0.5) * MS_PER_MIN).astype(np.int64)
    elevation, _ = sun_position(middle, latitude_deg=home.place.latitude_deg, longitude_deg=home.place.longitude_deg)
    return ForecastInputs(
        start_ms=start,
        day=day,
        as_of_ms=start,
        outdoor=weather,
        outdoor_measured_c=np.full(minutes + 1, np.nan),
        certain=0,
        offsets=np.zeros(FEW_DRAWS),
        clear_sky_w_m2=clear_sky_w_m2(elevation) * rng.uniform(0.1, 1.0),
        rooms=rooms,
        damp={},
    )


def made_up_rooms(home: Home, clock: LocalClock, inputs: ForecastInputs, prices: Prices) -> dict[str, RoomForecast]:
    """Return the rooms of a home on a made-up day, by id, under its timetable as it stands."""
    beside = neighbour_temperatures(home, clock, inputs)
    begin = (inputs.day.start_ms - inputs.start_ms) // MS_PER_MIN
    minutes = (inputs.day.end_ms - inputs.day.start_ms) // MS_PER_MIN
    found = {}
    for room_id in inputs.rooms:
        zone, heater = home.zone_of_room(room_id), home.heater_of(room_id)
        assert zone is not None and heater is not None  # only such rooms are among the inputs
        found[room_id] = room_forecast(
            home,
            clock,
            inputs,
            home.room(room_id),
            zone,
            heater,
            prices,
            begin,
            minutes,
            (),
            beside.get(room_id),
            home.guard_of(zone).low_c,
        )
    return found


def winter_date(rng: np.random.Generator) -> date:
    """Return a random date of a winter."""
    return date(2026, 11, 1) + timedelta(days=int(rng.integers(0, 150)))
