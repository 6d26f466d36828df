"""What the gaps of a day cost, room by room, and which of the two schools its numbers favour."""

from dataclasses import dataclass
from datetime import date
from functools import partial

import numpy as np

from warmeter.core.building.heating import heat_over_draw
from warmeter.core.errors import NotKnowable
from warmeter.core.explain.lead_figure import loss_and_store, origin_of
from warmeter.core.figure import Figure, Input
from warmeter.core.forecast.costing import drawn_of
from warmeter.core.forecast.day_forecast import DayForecast, RoomForecast
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, sentence
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.timetable.day import blocks_between
from warmeter.core.units import J_PER_WH, MIN_PER_DAY, MS_PER_DAY, MS_PER_MIN
from warmeter.core.warmup.gaps import AFTER_MIN, Gap, GapFigures, GapWeather, gap_figures, gaps_of
from warmeter.core.warmup.prediction import HeatingStretch
from warmeter.core.warmup.setback import SetbackCase, setback_cost, setback_energy
from warmeter.core.warmup.setback import SetbackPrices as TwoPrices
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.outdoor_forecast import TypedWeather, outdoor_between
from warmeter.service.readings.room_logs import clear_sky
from warmeter.service.tariffs.pricing import known_prices

# A gap that began earlier, such as a room idle all weekend, is looked at from here on.
LONGEST_DAYS = 4
_KEPT_GAPS: "Cache[RoomGaps]" = Cache(24)


@dataclass(frozen=True, slots=True, kw_only=True)
class SetbackStrategy:
    """The two schools over a day's gaps: what setting back saves against always the same.

    ``is_money`` tells whether the winner was found by money or, without prices, by what is drawn [kWh];
    ``sure`` is the share of draws that agree with the best estimate.
    """

    saved: Estimate
    is_money: bool
    setback_wins: bool
    sure: float
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomGaps:
    """A room's gaps that end in a day; ``fuel`` names what its heater burns, "" for electricity."""

    room: Room
    zone: Zone
    gaps: tuple[GapFigures, ...]
    strategy: SetbackStrategy | None
    fuel: str
    is_in_watts: bool


def day_gaps(
    app: App, home: Home, revision: int, on: date, typed: TypedWeather | None
) -> tuple[DayForecast, list[RoomGaps]]:
    """Return a day's outlook and every room's gaps that end in it.

    Raises
    ------
    NotKnowable
        If neither log nor typing says how cold it will be.
    """
    forecast = day_forecast(app, home, revision, on, typed)
    found = []
    for room in forecast.rooms:
        kinds = home.day_kinds, home.special_days
        key = (forecast.stamp, room.room.id, room.zone, home.levels, home.guard, home.tariffs, kinds)
        found.append(_KEPT_GAPS.get(key, partial(_room_gaps, app, forecast, room, typed)))
    return forecast, found


def _room_gaps(app: App, forecast: DayForecast, room: RoomForecast, typed: TypedWeather | None) -> RoomGaps:
    home, clock, day = forecast.home, forecast.clock, forecast.day
    blocks = blocks_between(home, room.zone, clock, day.start_ms - LONGEST_DAYS * MS_PER_DAY, day.end_ms)
    figures = tuple(
        gap_figures(
            room.model,
            gap,
            _weather(app, forecast, room, gap, typed),
            off_c=max(home.guard_of(room.zone).low_c, -30.0 if room.zone.off_c is None else room.zone.off_c),
        )
        for gap in gaps_of(blocks, day.start_ms, day.end_ms)
    )
    return RoomGaps(
        room=room.room,
        zone=room.zone,
        gaps=figures,
        strategy=_strategy(room, figures),
        fuel=room.costed.fuel,
        is_in_watts=room.is_in_watts,
    )


def _weather(app: App, forecast: DayForecast, room: RoomForecast, gap: Gap, typed: TypedWeather | None) -> GapWeather:
    """Return what a gap is tried in: outdoors as heard or expected, the day after it as the day before."""
    home, clock = forecast.home, forecast.clock
    minutes = gap.minutes + AFTER_MIN
    end = gap.from_ms + minutes * MS_PER_MIN
    expected, _, _ = outdoor_between(app, home, clock, forecast.as_of_ms, gap.from_ms, end, typed)
    outdoor = expected.outdoor_c
    heater = room.heater
    prices = known_prices(app, home, minutes_between(gap.from_ms, end))
    per_heat = 1 / heat_over_draw(heater, home.source(heater.source_id), outdoor[:-1])
    offsets = room.stretch.offsets_k if gap.until_ms > forecast.as_of_ms else np.zeros(room.stretch.offsets_k.size)
    return GapWeather(
        outdoor_c=outdoor,
        offsets_k=offsets,
        sun_w_m2=clear_sky(home, gap.from_ms, 60.0, minutes),
        beside_c=_beside(room.stretch, gap.from_ms, minutes),
        per_heat=per_heat,
        price=drawn_of(heater, home.source(heater.source_id), prices, minutes).by_step,
    )


def _beside(stretch: HeatingStretch, from_ms: int, minutes: int) -> np.ndarray | None:
    """Return the temperature beside a room over a gap: as in the day's run, before and after it as at the same time of its last day."""
    if stretch.beside_c is None:
        return None
    place = (from_ms - stretch.start_ms) // MS_PER_MIN + np.arange(minutes)
    last = max(0, stretch.minutes - MIN_PER_DAY)
    wrapped = last + (place - last) % min(MIN_PER_DAY, stretch.minutes)
    return stretch.beside_c[np.where((place >= 0) & (place < stretch.minutes), place, wrapped)]


def _strategy(room: RoomForecast, figures: tuple[GapFigures, ...]) -> SetbackStrategy | None:
    """Return which school the day's gaps favour, None without a gap or without watts."""
    if not figures or not room.is_in_watts:
        return None
    kwh = np.sum([f.hold.drawn_kwh - f.setback.drawn_kwh for f in figures], axis=0)
    costs = [(f.hold.cost, f.setback.cost) for f in figures]
    is_money = all(a is not None and b is not None for a, b in costs)
    saved = np.sum([a - b for a, b in costs if a is not None and b is not None], axis=0) if is_money else kwh
    wins = bool(saved[0] > 0)
    low, high = np.quantile(saved, [0.025, 0.975])
    return SetbackStrategy(
        saved=Estimate(value=float(saved[0]), low=float(min(low, saved[0])), high=float(max(high, saved[0]))),
        is_money=is_money,
        setback_wins=wins,
        sure=float(((saved > 0) == wins).mean()),
        reason=_reason(figures, float(kwh[0]), wins, is_money),
    )


def _reason(figures: tuple[GapFigures, ...], kwh: float, wins: bool, is_money: bool) -> str:
    """Return why a school wins, in the sentence of the figures."""
    leads = [f.setback.lead.best for f in figures if f.setback.lead is not None]
    late = any(lead is None for lead in leads)
    longest = max((lead for lead in leads if lead is not None), default=0.0)
    small = [
        f.setback.lead.reach_c for f in figures if f.setback.lead is not None and f.setback.lead.reach_c is not None
    ]
    warm = (
        f"it needs up to {longest:.0f} min of warm-up"
        if not late
        else "one warm-up does not reach it in time even at 12 h"
    )
    if small:
        warm = sentence("its heater is too small: at full heat for ever it would hold {}", celsius(min(small), 1))
    if wins:
        return sentence("the room loses less heat while it is cooler ({:.2f} kWh less drawn); {}", kwh, warm)
    if is_money and kwh > 0:
        return sentence(
            "less is drawn ({:.2f} kWh), but the warm-up falls into more expensive hours than holding would; {}",
            kwh,
            warm,
        )
    return sentence("the walls take back what was saved while it was cooler; {}", warm)


def gap_of_key(found: list[RoomGaps], key: str) -> tuple[RoomGaps, GapFigures]:
    """Return the gap that a key names; ``NotKnowable`` if it is not there."""
    room_id, _, place = key.removeprefix("gap.").rpartition(".")
    room = next((r for r in found if r.room.id == room_id), None)
    if room is None or not place.isdecimal() or int(place) >= len(room.gaps):
        raise NotKnowable("This setback period is not there any more.", "Look at the table anew.")
    return room, room.gaps[int(place)]


def gap_figure(forecast: DayForecast, found: list[RoomGaps], key: str) -> Figure:
    """Return how a gap's saving was worked out, the single store's closed form beside it."""
    room, figures = gap_of_key(found, key)
    gap = figures.gap
    shown = next(r for r in forecast.rooms if r.room.id == room.room.id)
    loss, store = loss_and_store(shown)
    saved = figures.saved_kwh(figures.setback)
    place = (gap.from_ms - shown.stretch.start_ms) // MS_PER_MIN
    stretch = shown.stretch.outdoor_c[max(0, place) : max(1, place + gap.minutes)]
    outdoor = float(stretch.mean()) if stretch.size else float(shown.stretch.outdoor_c[0])
    inputs = (
        Input(symbol="H", name="heat loss", value=loss, unit="W/K", decimals=1, origin=origin_of(shown)),
        Input(
            symbol="C", name="thermal mass", value=store / J_PER_WH, unit="Wh/K", decimals=0, origin=origin_of(shown)
        ),
        Input(symbol="P", name="heater", value=shown.full_heat_w, unit="W", decimals=0, origin="typed"),
        Input(symbol="θset", name="held", value=gap.held_c, unit="°C", decimals=1, origin="typed"),
        Input(symbol="θsb", name="set back to", value=gap.low_c, unit="°C", decimals=1, origin="typed"),
        Input(symbol="θe", name="outdoor, mean", value=outdoor, unit="°C", decimals=1, origin="forecast"),
        Input(symbol="T", name="length", value=gap.minutes / 60, unit="h", decimals=2, origin="typed"),
    )
    is_pump = forecast.home.source(shown.heater.source_id).kind == "heat_pump" and not room.fuel
    hand = _hand(loss, store, shown.full_heat_w, gap, outdoor, is_pump)
    hold, back = float(figures.hold.drawn_kwh[0]), float(figures.setback.drawn_kwh[0])
    return Figure(
        key=key,
        title=f"Set back, {room.room.name}, {gap.minutes / 60:.1f} h",
        unit="kWh",
        value=saved.value,
        low=saved.low,
        high=saved.high,
        decimals=2,
        formula="saved = E(held) − E(set back), over the setback period and the day after",
        substituted=f"{hold:.3f} − {back:.3f} = {saved.value:.3f} kWh of {room.fuel or 'electricity'}",
        inputs=inputs,
        method="simulation of the room with its own stores, its heater in proportion over 0.5 K",
        alternatives=hand,
        note=(
            "One store cools and warms as a whole; the room has air, fabric and a heater apart, so its air falls and "
            "rises faster and its walls give and take more slowly. The closed form counts heat, not what is drawn for it."
        ),
    )


def _hand(loss: float, store: float, full_w: float, gap: Gap, outdoor: float, is_pump: bool) -> tuple[Figure, ...]:
    """Return E3 for a gap, and E4 where a heat pump may warm up at a worse efficiency; none where they do not apply."""
    try:
        case = SetbackCase(
            loss_w_k=loss,
            capacity_j_k=store,
            full_heat_w=full_w,
            setpoint_c=gap.held_c,
            setback_c=gap.low_c,
            outdoor_c=outdoor,
            period_s=gap.minutes * 60.0,
        )
        energy = setback_energy(case)
        cost = setback_cost(case, TwoPrices(cop_hold=1.0, cop_reheat=1.0, price_base=1.0, price_reheat=1.0))
    except (ValueError, ArithmeticError):
        return ()
    store_figure = Figure(
        key="hand.e3",
        title="By one store",
        unit="kWh of heat",
        value=energy.saving_kwh,
        low=None,
        high=None,
        decimals=2,
        formula="E = H·x0·T − (H·xs·thold + P·tr)",
        substituted=(
            sentence(
                "{:.2f} − {:.2f}; lowest {}, reheat {:.0f} min",
                energy.hold_kwh,
                energy.setback_kwh,
                celsius(energy.lowest_c, 1),
                energy.reheat_s / 60,
            )
        ),
        inputs=(),
        method="E3 hold against setback",
    )
    if not is_pump:
        return (store_figure,)
    even = cost.breakeven_cop_reheat
    return (
        store_figure,
        Figure(
            key="hand.e4",
            title="Break-even of the warm-up",
            unit="of the holding efficiency",
            value=even,
            low=None,
            high=None,
            decimals=2,
            formula="COP at reheat over COP at hold, at one price",
            substituted="below this share the setback costs more"
            if even is not None
            else "the setback never costs more",
            inputs=(),
            method="E4 cost of a setback",
        ),
    )
