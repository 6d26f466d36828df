"""A home's day: what is asked, what was measured, what will happen, and what it costs."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from functools import partial

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.damp import DampLimit
from warmeter.core.building.fuel import FUELS, kwh_per_unit
from warmeter.core.building.heating import cold_over_draw, full_heat_w, heat_over_draw
from warmeter.core.building.losses import prior_of, surveyed_room
from warmeter.core.building.rooms_together import NOTHING_ASKED_C, RoomTogether, beside_w_k, temperatures_beside
from warmeter.core.claims.arbiter import Claim
from warmeter.core.errors import TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import GuardLimits, Zone
from warmeter.core.thermal.room_fit import DRAWS, DrawnEstimate, even_normals, range_of, total_of
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock, LocalDay
from warmeter.core.timetable.day import Block, blocks_between
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN
from warmeter.core.warmup.dangers import TooSmall, UnderGuard, too_small, under_guard
from warmeter.core.warmup.prediction import (
    BlockLead,
    HeatingStretch,
    RoomDay,
    RoomModel,
    day_with_leads,
    guarded_c,
    held_setpoint_c,
    predict_day,
    settled_heat_w,
)
from warmeter.core.warmup.season import STEP_MIN
from warmeter.core.weather.forecast import WeatherForecast
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.costing import Costed, PricedEnergy, Prices, costed, drawn_of, prices_between
from warmeter.service.damp import damp_limits, guarded_home
from warmeter.service.manual_overrides import changes_of, claims_by_hand
from warmeter.service.outdoor_forecast import TypedWeather, outdoor_between
from warmeter.service.room_models import room_forecast_inputs
from warmeter.service.roomlogs import clear_sky
from warmeter.store.codec import StoredFit

FEW_DRAWS = 9  # the best estimate and eight others


@dataclass(frozen=True, slots=True, kw_only=True)
class Saving:
    """A day held at its highest setpoint against the day as written, both settled."""

    held: Costed
    written: Costed
    saved_kwh: DrawnEstimate
    saved_cost: DrawnEstimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomForecast:
    """One room's day; arrays by minute of the day, ``under`` and ``too_small`` None where the day holds no such danger."""

    room: Room
    zone: Zone
    heater: Heater
    full_heat_w: float
    surveyed: RoomRc
    fit: StoredFit | None
    blocks: tuple[Block, ...]
    by_hand: tuple[Claim, ...]
    setpoint_c: Floats
    wanted_c: Floats
    measured_c: Floats
    predicted_c: Floats
    heat_w: Floats
    drawn_w: Floats
    leads: tuple[BlockLead, ...]
    cool_downs: tuple[BlockLead, ...]
    under: UnderGuard | None
    too_small: TooSmall | None
    begin: int
    model: RoomModel
    stretch: HeatingStretch
    costed: Costed
    underheating_kh: DrawnEstimate
    overheating_kh: DrawnEstimate | None
    saving: Saving

    @property
    def is_in_watts(self) -> bool:
        """Whether watts, and so energy and money, are known."""
        return self.fit is None or self.fit.fit.watts_known


@dataclass(frozen=True, slots=True, kw_only=True)
class DayForecast:
    """A home's day, or several as one stretch; ``stamp`` changes when anything beside the timetable does."""

    home: Home
    revision: int
    day: LocalDay
    as_of_ms: int
    clock: LocalClock
    outdoor: WeatherForecast
    outdoor_measured_c: Floats
    outdoor_expected_c: Floats
    prices: Prices | None
    price_note: str
    rooms: tuple[RoomForecast, ...]
    damp: Mapping[str, DampLimit]
    stamp: tuple[object, ...]

    @property
    def minutes(self) -> int:
        """Length of the day [min]."""
        return (self.day.end_ms - self.day.start_ms) // MS_PER_MIN

    @property
    def now_min(self) -> int | None:
        """Minute of the day that is now, None on another day."""
        minute = (self.as_of_ms - self.day.start_ms) // MS_PER_MIN
        return minute if 0 <= minute < self.minutes else None


_KEPT_GROUNDS: "Cache[ForecastInputs]" = Cache(24)
_KEPT_BESIDE: Cache[dict[str, Floats]] = Cache(24)
# An edit of one zone leaves the other rooms as they were; a room's day is about 100 kB, its week 600 kB.
_KEPT_ROOMS: Cache[RoomForecast] = Cache(60)


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
        tuple(i.id for i in app.readings.imports(home.id) if not i.is_taken_back),
    )
    inputs = _KEPT_GROUNDS.get(key, lambda: _forecast_inputs(app, home, clock, as_of, on, typed, days))
    begin = (inputs.day.start_ms - inputs.start_ms) // MS_PER_MIN
    minutes = (inputs.day.end_ms - inputs.day.start_ms) // MS_PER_MIN
    prices, note = _prices(home, clock, inputs.day)
    changes = [change for _, change in changes_of(app, home.id)]
    guarded = guarded_home(home, inputs.damp)
    asked_of = guarded.zones, home.levels, home.guard, home.day_kinds, home.special_days
    beside = _KEPT_BESIDE.get((key, asked_of), partial(_beside, guarded, clock, inputs))
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
                    _room_forecast,
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


def _shared_w_k(home: Home, room: Room, fits: Mapping[str, StoredFit]) -> float:
    """Return what a room shares with others; nought where its model lives on a scale of its own [W/K]."""
    stored = fits.get(room.id)
    own_scale = stored is not None and stored.fit.is_fit_for_use and not stored.fit.watts_known
    return 0.0 if own_scale else beside_w_k(home, room)


def _beside(home: Home, clock: LocalClock, inputs: ForecastInputs) -> dict[str, Floats]:
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


def _ground_key(home: Home) -> tuple[object, ...]:
    """Return what of a home a day's grounds depend on; change points and levels are not among it."""
    return home.rooms, home.openings, home.storeys, home.sources, home.heaters, home.design, home.devices


def _prices(home: Home, clock: LocalClock, day: LocalDay) -> tuple[Prices | None, str]:
    tariff = home.tariff_on(day.date)
    if tariff is None:
        return None, "no tariff yet"
    try:
        return prices_between(tariff, clock, day.start_ms, day.end_ms), ""
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
            app, home, room, heater, fits.get(room.id), start, outdoor, steps, draws, _shared_w_k(home, room, fits)
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


def _room_forecast(
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
        setpoint_c=predicted.setpoint_c[begin:end],
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
    alone = replace(
        stretch,
        start_ms=stretch.start_ms + begin * MS_PER_MIN,
        outdoor_c=stretch.outdoor_c[begin:],
        certain=max(0, stretch.certain - begin),
        clear_sky_w_m2=stretch.clear_sky_w_m2[begin:],
        beside_c=None if stretch.beside_c is None else stretch.beside_c[begin:],
        start_c=np.ascontiguousarray(predicted.run.states_c[:, begin]),
    )
    times = 4 if minutes <= 2 * 1440 else 2
    limit, coolest = None, None
    if predicted.limit_c is not None:
        limit = predicted.limit_c[begin:]
        coolest = np.full(limit.size, float(limit.min()))
    written = settled_heat_w(model, alone, predicted.setpoint_c[begin:], cool_c=limit, times=times)[:, :minutes]
    kept = held_setpoint_c(guard, today, alone.minutes)
    held = settled_heat_w(model, alone, kept, cool_c=coolest, times=times)[:, :minutes]
    saved = (np.abs(held) - np.abs(written)) / cop / 60_000
    return Saving(
        held=costed(held, cop, drawn),
        written=costed(written, cop, drawn),
        saved_kwh=range_of(saved.sum(axis=1)),
        saved_cost=None if drawn.by_minute is None else range_of(saved @ drawn.by_minute),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class FuelUse:
    """What a source burns over a stretch: the fuel's name and unit, how much in that unit, and the energy in it."""

    source: Source
    name: str
    unit: str
    amount: DrawnEstimate
    drawn_kwh: DrawnEstimate


@dataclass(frozen=True, slots=True, kw_only=True)
class Totals:
    """A stretch's sums over the rooms whose watts are known; None where there are no prices or no watts."""

    electric_kwh: DrawnEstimate | None
    fuels: tuple[FuelUse, ...]
    cost: DrawnEstimate | None
    underheating_kh: DrawnEstimate
    overheating_kh: DrawnEstimate | None
    saved_cost: DrawnEstimate | None


def totals_of(forecast: DayForecast) -> Totals:
    """Return a stretch's sums."""
    rooms = [room for room in forecast.rooms if room.is_in_watts]
    priced = bool(rooms) and all(room.costed.cost is not None for room in rooms)
    electric = [room.costed.drawn_kwh for room in rooms if not room.costed.fuel]
    return Totals(
        electric_kwh=total_of(electric) if electric else None,
        fuels=_fuels(forecast.home, rooms),
        cost=total_of([room.costed.cost for room in rooms if room.costed.cost]) if priced else None,
        underheating_kh=total_of([room.underheating_kh for room in forecast.rooms]),
        overheating_kh=total_of(over)
        if (over := [r.overheating_kh for r in forecast.rooms if r.overheating_kh is not None])
        else None,
        saved_cost=total_of([r.saving.saved_cost for r in rooms if r.saving.saved_cost]) if priced else None,
    )


def _fuels(home: Home, rooms: list[RoomForecast]) -> tuple[FuelUse, ...]:
    """Return what each source of these rooms burns, in the unit in which it is bought."""
    found = []
    for source in home.sources:
        drawn = [r.costed.drawn_kwh for r in rooms if r.costed.fuel and r.heater.source_id == source.id]
        if drawn:
            kind, total = FUELS[source.fuel], total_of(drawn)
            found.append(
                FuelUse(
                    source=source,
                    name=kind.name,
                    unit=kind.unit,
                    amount=range_of(total.draws / kwh_per_unit(source)),
                    drawn_kwh=total,
                )
            )
    return tuple(found)


def cost_with_leads(forecast: DayForecast, room: RoomForecast, leads_min: dict[int, float]) -> float | None:
    """Return the day's cost with warm-ups at given leads, None without prices."""
    source = forecast.home.source(room.heater.source_id)
    by_minute = drawn_of(room.heater, source, forecast.prices, forecast.minutes).by_minute
    if by_minute is None:
        return None
    blocks = blocks_between(forecast.home, room.zone, forecast.clock, room.stretch.start_ms, forecast.day.end_ms)
    run = day_with_leads(forecast.home, room.zone, room.model, room.stretch, blocks, leads_min).run
    minutes = forecast.minutes
    heat = run.heat_w[:1, room.begin : room.begin + minutes]
    outdoor = room.stretch.outdoor_c[None, room.begin : room.begin + minutes]
    electric = heat / heat_over_draw(room.heater, source, outdoor) / 60_000
    return float((electric @ by_minute)[0])
