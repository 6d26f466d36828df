"""A home's day, or several as one stretch, room by room: asked, measured, predicted, drawn, and its sums."""

from collections.abc import Mapping
from dataclasses import dataclass

from warmeter.core.arrays import Floats
from warmeter.core.building.damp import DampLimit
from warmeter.core.building.fuel import FUELS, kwh_per_unit
from warmeter.core.building.heating import heat_over_draw
from warmeter.core.claims.arbiter import Claim
from warmeter.core.forecast.costing import Costed, drawn_of
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater, Source
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import Zone
from warmeter.core.tariff.prices import Prices
from warmeter.core.thermal.room_fit import DrawnEstimate, StoredFit, range_of, total_of
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock, LocalDay
from warmeter.core.timetable.day import Block, blocks_between
from warmeter.core.units import MS_PER_MIN, W_MIN_PER_KWH
from warmeter.core.warmup.dangers import TooSmall, UnderGuard
from warmeter.core.warmup.prediction import BlockLead, HeatingStretch, RoomModel, day_with_leads
from warmeter.core.weather.forecast import WeatherForecast


@dataclass(frozen=True, slots=True, kw_only=True)
class Saving:
    """A day held at its highest setpoint against the day as written, both settled."""

    held: Costed
    written: Costed
    saved_kwh: DrawnEstimate
    saved_cost: DrawnEstimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomForecast:
    """One room's day; arrays by minute of the day, ``under`` and ``too_small`` None where the day holds no such danger.

    ``begin_state_c`` and ``end_state_c`` are the nodes of the best estimate as the day begins and ends [°C].
    """

    room: Room
    zone: Zone
    heater: Heater
    full_heat_w: float
    surveyed: RoomRc
    fit: StoredFit | None
    blocks: tuple[Block, ...]
    by_hand: tuple[Claim, ...]
    begin_state_c: Floats
    end_state_c: Floats
    setpoint_c: Floats
    limit_c: Floats | None
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
    by_step = drawn_of(room.heater, source, forecast.prices, forecast.minutes).by_step
    if by_step is None:
        return None
    blocks = blocks_between(forecast.home, room.zone, forecast.clock, room.stretch.start_ms, forecast.day.end_ms)
    run = day_with_leads(forecast.home, room.zone, room.model, room.stretch, blocks, leads_min).run
    minutes = forecast.minutes
    heat = run.heat_w[:1, room.begin : room.begin + minutes]
    outdoor = room.stretch.outdoor_c[None, room.begin : room.begin + minutes]
    electric = heat / heat_over_draw(room.heater, source, outdoor) / W_MIN_PER_KWH
    return float((electric @ by_step)[0])
