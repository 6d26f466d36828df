"""A room's day under its timetable, its neighbours' warmth among what acts on it."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.damp import DampLimit
from warmeter.core.building.heating import cold_over_draw, full_heat_w, heat_over_draw
from warmeter.core.building.losses import prior_of, surveyed_room
from warmeter.core.building.rooms_together import NOTHING_ASKED_C, RoomTogether, beside_w_k, temperatures_beside
from warmeter.core.claims.arbiter import Claim
from warmeter.core.forecast.costing import PricedEnergy, costed, drawn_of
from warmeter.core.forecast.day_forecast import RoomForecast, Saving
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import GuardLimits, Zone
from warmeter.core.tariff.prices import Prices
from warmeter.core.thermal.room_fit import StoredFit, range_of
from warmeter.core.timegrid import LocalClock, LocalDay
from warmeter.core.timetable.day import Block, blocks_between
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN, W_MIN_PER_KWH
from warmeter.core.warmup.dangers import too_small, under_guard
from warmeter.core.warmup.prediction import (
    HeatingStretch,
    RoomDay,
    RoomModel,
    guarded_c,
    held_setpoint_c,
    predict_day,
    settled_heat_w,
)
from warmeter.core.warmup.season import STEP_MIN
from warmeter.core.weather.forecast import WeatherForecast


@dataclass(frozen=True, slots=True, kw_only=True)
class ForecastInputs:
    """What a day stands on, whatever the timetable says."""

    start_ms: int
    day: LocalDay
    as_of_ms: int
    outdoor: WeatherForecast
    outdoor_measured_c: Floats
    certain: int
    offsets: Floats
    clear_sky_w_m2: Floats
    rooms: dict[str, tuple[RoomModel, Floats, Floats, StoredFit | None]]
    damp: dict[str, DampLimit]


def shared_conductance_w_k(home: Home, room: Room, fits: Mapping[str, StoredFit]) -> float:
    """Return what a room shares with others; nought where its model lives on a scale of its own [W/K]."""
    stored = fits.get(room.id)
    own_scale = stored is not None and stored.fit.is_fit_for_use and not stored.fit.watts_known
    return 0.0 if own_scale else beside_w_k(home, room)


def neighbour_temperatures(home: Home, clock: LocalClock, inputs: ForecastInputs) -> dict[str, Floats]:
    """Return the temperature beside each room that shares walls with others, by minute; none for what stands alone."""
    rooms, own_scale = {}, set()
    minutes = inputs.outdoor.outdoor_c.size - 1
    coarse = slice(0, minutes, STEP_MIN)
    for key, (model, state, _, stored) in inputs.rooms.items():
        zone, room = home.zone_of_room(key), home.room(key)
        is_learnt = stored is not None and stored.fit.is_fit_for_use
        in_watts = not is_learnt or (stored is not None and stored.fit.watts_known)
        if not in_watts:
            own_scale.add(key)
        asked = np.full(minutes, NOTHING_ASKED_C)
        end_ms = inputs.start_ms + minutes * MS_PER_MIN
        for block in blocks_between(home, zone, clock, inputs.start_ms, end_ms) if zone else ():
            span = slice(
                max(0, (block.from_ms - inputs.start_ms) // MS_PER_MIN),
                (block.until_ms - inputs.start_ms) // MS_PER_MIN,
            )
            asked[span] = guarded_c(home.guard_of(zone), block.setpoint_c)
        rc = stored.fit.rooms[0] if stored is not None and is_learnt and in_watts else surveyed_room(home, room)
        gain = model.gain_w[0] + model.sun_m2[0] * inputs.clear_sky_w_m2
        rooms[key] = RoomTogether(
            rc=rc,
            gain_w=gain[coarse] if in_watts else np.full(gain[coarse].size, prior_of(home, room).gain_w),
            asked_c=asked[coarse],
            start_c=(float(state[0, 0]), float(state[0, 1])),
            is_learnt=is_learnt,
        )
    found = temperatures_beside(home, rooms, inputs.outdoor.outdoor_c[:-1][coarse], STEP_MIN)
    return {key: np.repeat(beside, STEP_MIN)[:minutes] for key, beside in found.items() if key not in own_scale}


def room_forecast(
    home: Home,
    clock: LocalClock,
    inputs: ForecastInputs,
    room: Room,
    zone: Zone,
    heater: Heater,
    prices: Prices | None,
    begin: int,
    minutes: int,
    by_hand: tuple[Claim, ...],
    beside: Floats | None,
    limit_c: float,
) -> RoomForecast:
    """Return a room's day, or several as one stretch, predicted from what it stands on.

    ``begin`` and ``minutes`` say which minutes of the inputs' stretch are the day; ``beside`` is the temperature
    beside the room by minute [°C], None where it stands alone; ``limit_c`` its lower guard limit.
    """
    model, state, measured, stored = inputs.rooms[room.id]
    stretch = HeatingStretch(
        start_ms=inputs.start_ms,
        outdoor_c=inputs.outdoor.outdoor_c,
        offsets_k=inputs.offsets,
        certain=inputs.certain,
        clear_sky_w_m2=inputs.clear_sky_w_m2,
        start_c=state,
        beside_c=beside,
    )
    day = inputs.day
    blocks = blocks_between(home, zone, clock, inputs.start_ms, day.end_ms)
    today = tuple(block for block in blocks if block.from_ms >= day.start_ms)
    predicted = predict_day(home, zone, model, stretch, blocks, others=by_hand)
    end = begin + minutes
    outdoor = inputs.outdoor.outdoor_c[None, begin:end] + np.where(
        np.arange(begin, end)[None, :] >= inputs.certain, inputs.offsets[:, None], 0.0
    )
    heat = predicted.run.heat_w[:, begin:end]
    cop = heat_over_draw(heater, home.source(heater.source_id), outdoor)
    cooler = next((h for h in home.heaters_of(room.id) if h.split is not None), None)
    if cooler is not None and model.control.full_cool_w > 0:
        cop = np.where(heat < 0, cold_over_draw(cooler, outdoor), cop)
    drawn = drawn_of(heater, home.source(heater.source_id), prices, minutes)
    return RoomForecast(
        room=room,
        zone=zone,
        heater=heater,
        full_heat_w=full_heat_w(home, room.id),
        surveyed=surveyed_room(home, room),
        fit=stored,
        blocks=today,
        by_hand=by_hand,
        begin_state_c=predicted.run.states_c[0, begin].copy(),
        end_state_c=predicted.run.states_c[0, end].copy(),
        setpoint_c=predicted.setpoint_c[begin:end],
        limit_c=None if predicted.limit_c is None else predicted.limit_c[begin:end],
        wanted_c=predicted.wanted_c[begin:end],
        measured_c=_until(measured[begin:end], inputs, day),
        predicted_c=predicted.run.air_c[0, begin:end].copy(),
        heat_w=heat[0].copy(),
        drawn_w=np.abs(heat[0]) / cop[0],
        leads=predicted.leads,
        cool_downs=predicted.cool_downs,
        under=under_guard(predicted, model, limit_c, begin, end),
        too_small=too_small(predicted, model, stretch, begin, end),
        begin=begin,
        model=model,
        stretch=stretch,
        costed=costed(heat, cop, drawn),
        underheating_kh=range_of(predicted.underheating_kh(begin, end)),
        overheating_kh=range_of(predicted.overheating_kh(begin, end)) if predicted.limit_c is not None else None,
        saving=_saving(home.guard_of(zone), model, stretch, predicted, today, drawn, begin, minutes, cop),
    )


def _until(measured: Floats, inputs: ForecastInputs, day: LocalDay) -> Floats:
    after = day.start_ms + np.arange(measured.size) * MS_PER_MIN > inputs.as_of_ms
    return np.where(after, np.nan, measured)


def _saving(
    guard: GuardLimits,
    model: RoomModel,
    stretch: HeatingStretch,
    predicted: RoomDay,
    today: tuple[Block, ...],
    drawn: PricedEnergy,
    begin: int,
    minutes: int,
    cop: Floats,
) -> Saving:
    """Return what the day as written saves against holding, after several days of each."""
    alone = stretch.part(begin, stretch.minutes, np.ascontiguousarray(predicted.run.states_c[:, begin]))
    times = 4 if minutes <= 2 * MIN_PER_DAY else 2
    limit, coolest = None, None
    if predicted.limit_c is not None:
        limit = predicted.limit_c[begin:]
        coolest = np.full(limit.size, float(limit.min()))
    written = settled_heat_w(model, alone, predicted.setpoint_c[begin:], cool_c=limit, times=times)[:, :minutes]
    kept = held_setpoint_c(guard, today, alone.minutes)
    held = settled_heat_w(model, alone, kept, cool_c=coolest, times=times)[:, :minutes]
    saved = (np.abs(held) - np.abs(written)) / cop / W_MIN_PER_KWH
    return Saving(
        held=costed(held, cop, drawn),
        written=costed(written, cop, drawn),
        saved_kwh=range_of(saved.sum(axis=1)),
        saved_cost=None if drawn.by_step is None else range_of(saved @ drawn.by_step),
    )
