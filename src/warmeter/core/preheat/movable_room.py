"""A room's day as a plan may move its heat: exact slots of its own network, limits by what people ask (docs/methods I10)."""

from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.heating import cold_over_draw, full_heat_w, heat_over_draw
from warmeter.core.day_plan.planned_room import ReachableRoom, RoomHeat, reachable, with_leeway
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.day_forecast import RoomForecast
from warmeter.core.home.document import Home
from warmeter.core.home.zones import GuardLimits
from warmeter.core.thermal.simulate import NODES
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import J_PER_KWH, MIN_PER_DAY, MIN_PER_H, W_PER_KW

# A room may be warm for a rise of what people ask so long before it [h].
AHEAD_H = 6
# Limits that can only just be kept leave a plan no way but one; nobody feels so much [K].
NOT_FELT_K = 0.01
OUTDOOR, HEATER, GAINS, BESIDE = range(4)


@dataclass(frozen=True, slots=True, kw_only=True)
class MovableRoom:
    """A room in a plan.

    Parameters
    ----------
    forecast : RoomForecast
        Its day as written.
    found : ReachableRoom
        What a plan may do with it.
    habit_kw, per_draw : (slot,) float arrays
        Heat as written, a mean over each slot, cold below zero; heat or cold for each kWh drawn.
    stores : RoomRc
        Its heat stores.
    step_min, beyond_k : int, float
        Length of a slot, and how far beyond what people ask it may go.
    """

    forecast: RoomForecast
    step_min: int
    beyond_k: float
    found: ReachableRoom
    habit_kw: Floats
    per_draw: Floats
    stores: RoomRc

    @property
    def heat(self) -> RoomHeat:
        """What a plan may do with it."""
        return self.found.room

    def left_kwh(self, air_c: float, fabric_c: float) -> float:
        """Return how much more heat is in air and walls at the end than as written [kWh]."""
        more = self.stores.air_j_k * (air_c - float(self.forecast.end_state_c[0]))
        more += self.stores.fabric_j_k * (fabric_c - float(self.forecast.end_state_c[1]))
        return more / J_PER_KWH


def movable_room(
    home: Home, forecast: RoomForecast, guard: GuardLimits, *, step_min: int, beyond_k: float
) -> MovableRoom:
    """Return a room's day in slots of ``step_min``, that divide it.

    Raises
    ------
    NotKnowable
        Where its watts are not known, or it burns a fuel, which has one price.
    """
    if not forecast.is_in_watts:
        raise NotKnowable(
            f"{forecast.room.name}: the watts of its heater are not known.", "Log them, or type the plate's."
        )
    if forecast.costed.fuel:
        raise NotKnowable(
            f"{forecast.room.name} burns {forecast.costed.fuel} at one price: there is nothing to move.",
            "Leave it to its timetable.",
        )
    minutes = forecast.heat_w.size
    slots = minutes // step_min
    habit = forecast.heat_w.reshape(slots, step_min).mean(axis=1) / W_PER_KW
    outdoor = _stretch_outdoor(forecast)[:-1].reshape(slots, step_min).mean(axis=1)
    cools = _cools(forecast, habit, step_min)
    share = _source_share(home, forecast)
    most = np.where(cools, -forecast.model.control.full_cool_w, forecast.model.control.full_heat_w * share) / W_PER_KW
    source = home.source(forecast.heater.source_id)
    cooler = next((h for h in home.heaters_of(forecast.room.id) if h.split is not None), forecast.heater)
    per_draw = np.where(cools, cold_over_draw(cooler, outdoor), heat_over_draw(forecast.heater, source, outdoor))
    low, high = _limits(forecast, guard, cools, step_min, beyond_k)
    state, per_kw, brought = _slots(forecast, step_min)
    unbound = np.full(NODES, np.inf)
    end_low, end_high = -unbound, unbound.copy()
    # The walls hold nearly all of it: they end as they would have, or better.
    (end_high if cools[-1] else end_low)[1] = forecast.end_state_c[1]
    found = reachable(
        RoomHeat(
            key=forecast.room.id,
            name=forecast.room.name,
            state=state,
            per_kw=per_kw,
            brought_c=brought,
            start_c=forecast.begin_state_c,
            most_kw=most,
            per_draw=per_draw,
            low_c=low,
            high_c=high,
            end_low_c=end_low,
            end_high_c=end_high,
            guard_low_c=guard.low_c,
            guard_high_c=guard.high_c,
        )
    )
    found = replace(found, room=with_leeway(found.room, NOT_FELT_K))
    fit = forecast.fit
    stores = fit.fit.rooms[0] if fit is not None and fit.fit.is_fit_for_use else forecast.surveyed
    return MovableRoom(
        forecast=forecast,
        step_min=step_min,
        beyond_k=beyond_k,
        found=found,
        habit_kw=habit,
        per_draw=per_draw,
        stores=stores,
    )


def _stretch_outdoor(forecast: RoomForecast) -> Floats:
    """Return outdoors by minute of the plan, its end included [°C]."""
    begin = forecast.begin
    return forecast.stretch.outdoor_c[begin : begin + forecast.heat_w.size + 1]


def _cools(forecast: RoomForecast, habit_kw: Floats, step_min: int) -> "np.ndarray[tuple[int], np.dtype[np.bool_]]":
    """Return which slots lie on days on which the room is cooled rather than heated."""
    day = np.arange(habit_kw.size) * step_min // MIN_PER_DAY
    heated = np.array([habit_kw[day == each].sum() >= 0 for each in day])
    return ~heated & (forecast.model.control.full_cool_w > 0)


def _source_share(home: Home, forecast: RoomForecast) -> float:
    """Return which part of its full heat a room has for certain when all of its source's rooms heat at once."""
    source = home.source(forecast.heater.source_id)
    if source.most_w is None or forecast.heater.kind == "split_unit":
        return 1.0
    rooms = {heater.room_id for heater in home.heaters if heater.source_id == source.id and heater.kind != "split_unit"}
    return min(1.0, source.most_w / max(1.0, sum(full_heat_w(home, room) for room in rooms)))


def _limits(
    forecast: RoomForecast,
    guard: GuardLimits,
    cools: "np.ndarray[tuple[int], np.dtype[np.bool_]]",
    step_min: int,
    beyond_k: float,
) -> tuple[Floats, Floats]:
    """Return the lowest and the highest air at the end of each slot [°C]."""
    asked, slots = forecast.wanted_c, cools.size
    limit = np.full(asked.size, guard.high_c) if forecast.limit_c is None else forecast.limit_c
    last = (np.arange(slots) + 1) * step_min - 1
    after = np.minimum(last + 1, asked.size - 1)
    low = np.maximum(np.maximum(asked[last], asked[after]), guard.low_c)
    high = np.minimum(np.minimum(limit[last], limit[after]), guard.high_c)
    ahead = AHEAD_H * MIN_PER_H
    for slot in range(slots):
        span = slice(slot * step_min, (slot + 1) * step_min + ahead)
        if cools[slot]:
            low[slot] = max(low[slot], float(limit[span].min()) - beyond_k)
        else:
            high[slot] = min(high[slot], float(asked[span].max()) + beyond_k)
    return low, np.maximum(high, low)


def _slots(forecast: RoomForecast, step_min: int) -> tuple[Floats, Floats, Floats]:
    """Return the best estimate's exact step over a slot: its state, what a kW adds, and what the rest adds by slot."""
    step, stretch, begin = forecast.model.step, forecast.stretch, forecast.begin
    minutes = forecast.heat_w.size
    slots = minutes // step_min
    state, now, then = step.state[0], step.now[0], step.then[0]
    outdoor = _stretch_outdoor(forecast)
    inside = slice(begin, begin + minutes)
    gain = forecast.model.gain_w[0] + forecast.model.sun_m2[0] * stretch.clear_sky_w_m2[inside]
    beside = np.zeros(minutes) if stretch.beside_c is None else stretch.beside_c[inside]
    held = now + then
    by_minute = (
        outdoor[:-1, None] * now[:, OUTDOOR]
        + outdoor[1:, None] * then[:, OUTDOOR]
        + gain[:, None] * held[:, GAINS]
        + beside[:, None] * held[:, BESIDE]
    ).reshape(slots, step_min, NODES)
    brought, per_kw = np.zeros((slots, NODES)), np.zeros(NODES)
    for minute in range(step_min):
        brought = brought @ state.T + by_minute[:, minute]
        per_kw = state @ per_kw + held[:, HEATER] * W_PER_KW
    return np.linalg.matrix_power(state, step_min), per_kw, brought
