"""A zone's planned heat as setpoints and times that its device can hold, found by running the full simulation."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.heating import typed_step_k
from warmeter.core.day_plan.planned_room import room_course_c
from warmeter.core.edits.preheat_edits import with_preheats, without_preheats
from warmeter.core.home.document import Home
from warmeter.core.home.preheats import PreheatBlock, ZoneFigures
from warmeter.core.home.zones import Zone
from warmeter.core.preheat.movable_room import MovableRoom
from warmeter.core.thermal.network import ExactStep
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.calendar import written_on
from warmeter.core.timetable.day import blocks_between
from warmeter.core.units import MIN_PER_H, MS_PER_MIN, W_PER_KW
from warmeter.core.warmup.prediction import HeatingStretch, RoomModel, predict_day

# Heat that a plan gives while the air is no more than this above what is asked is left to the thermostat [K].
HELD_K = 0.1
LEAST_KW = 0.01
# A kelvin hour colder than as written, or a kelvin that one slot lies further off, weighs as so many hours of full power.
COMFORT_H = 20.0
MOST_TRIALS = 120
LEAST_BETTER = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedZone:
    """A zone in a plan: its rooms, prices [currency/kWh] by slot, and where its slots begin [ms UTC]."""

    zone: Zone
    rooms: tuple[MovableRoom, ...]
    price: Floats
    start_ms: int
    step_min: int

    @property
    def slots(self) -> int:
        """How many slots it has."""
        return int(self.price.size)

    def at(self, slot: int) -> int:
        """Return when a slot begins [ms UTC]."""
        return self.start_ms + slot * self.step_min * MS_PER_MIN


def figures(planned: PlannedZone, heat_kw: Mapping[str, Floats], nodes: Mapping[str, Floats]) -> ZoneFigures:
    """Return a zone's figures of heat by slot [kW] and of what its nodes come to.

    ``nodes`` are by room air as a mean over each slot, then air and fabric at the end, shape (slot + 2,) [°C].
    """
    hours = planned.step_min / MIN_PER_H
    cost, drawn_kwh, off = 0.0, 0.0, 0.0
    peak = np.zeros(planned.slots)
    for room in planned.rooms:
        key = room.forecast.room.id
        drawn = np.abs(heat_kw[key]) / room.per_draw
        peak = peak + drawn
        cost += float(drawn @ planned.price) * hours
        drawn_kwh += float(drawn.sum()) * hours
        left = room.left_kwh(float(nodes[key][-2]), float(nodes[key][-1])) * float(np.sign(room.heat.most_kw[-1]))
        # What lacks must be bought at some price; what is left over is worth no more than the cheapest.
        worth = float(planned.price.mean() if left < 0 else min(planned.price.min(), planned.price.mean()))
        cost -= left / float(room.per_draw.mean()) * worth
        off = max(off, float(_off_k(room, nodes[key][:-2], planned.step_min).max()))
    return ZoneFigures(cost=cost, drawn_kwh=drawn_kwh, off_k=off, peak_kw=float(peak.max()))


def _off_k(room: MovableRoom, air_c: Floats, step_min: int) -> Floats:
    """Return how far the mean air of each slot lies off what is asked, in slots in which one thing is asked [K]."""
    asked = room.forecast.wanted_c.reshape(air_c.size, step_min)
    under = np.where(np.ptp(asked, axis=1) < HELD_K, asked[:, 0] - air_c, 0.0)
    if room.forecast.limit_c is None:
        return np.maximum(under, 0.0)
    limit = room.forecast.limit_c.reshape(air_c.size, step_min)
    over = np.where(np.ptp(limit, axis=1) < HELD_K, air_c - limit[:, 0], 0.0)
    return np.maximum(np.maximum(under, over), 0.0)


def promised_figures(planned: PlannedZone, heat_kw: Mapping[str, Floats]) -> ZoneFigures:
    """Return a zone's figures as the plan promises them."""
    nodes = {}
    for room in planned.rooms:
        key = room.forecast.room.id
        course = np.array(room_course_c(room.heat, heat_kw[key]))
        before = np.concatenate([[float(room.heat.start_c[0])], course[:-1, 0]])
        nodes[key] = np.concatenate([(before + course[:, 0]) / 2, course[-1, :2]])
    promised = figures(planned, heat_kw, nodes)
    # A thermostat lets the air swing by half its band to both sides of what the plan holds; what lies off as written may stay.
    swing = max(room.forecast.heater.band_k for room in planned.rooms) / 2
    return replace(promised, off_k=max(promised.off_k + swing, forecast_figures(planned, planned.rooms).off_k))


def zone_blocks(
    home: Home, clock: LocalClock, planned: PlannedZone, heat_kw: Mapping[str, Floats], most_changes: int
) -> tuple[PreheatBlock, ...]:
    """Return the blocks that bring a zone nearest to a planned heat, at least cost by simulation of its best estimate.

    Parameters
    ----------
    home : Home
        Without pre-heats on the plan's dates.
    heat_kw : mapping of str to (slot,) float array
        The plan's heat by room, cold below zero [kW].
    most_changes : int
        Changes a day that the zone's device holds.

    Notes
    -----
    Where the device holds fewer changes, those are left out first that matter least. A stretch in which the plan heats beyond what is asked becomes a block at the highest temperature that it reaches.
    Edges, temperatures and the blocks themselves are then tried a slot, a step of the device, or none: what costs less
    in the simulation stays, comfort as written counted above money.
    """
    step_k = _step_k(home, planned)
    trial = _Trial(home, clock, planned, most_changes)
    best = _first_blocks(home, planned, heat_kw)
    while best and not trial.fits(best):
        fewer = [tuple(block for block in best if block is not gone) for gone in best]
        best = min(fewer, key=trial.cost)
    worth = trial.worth(best)
    while True:
        for other in _variants(best, planned, step_k):
            if trial.count >= MOST_TRIALS:
                return best
            found = trial.worth(other)
            if found < worth - LEAST_BETTER:
                best, worth = other, found
                break
        else:
            return best


def _step_k(home: Home, planned: PlannedZone) -> float:
    return max(typed_step_k(home, room.forecast.room.id) for room in planned.rooms)


def _first_blocks(home: Home, planned: PlannedZone, heat_kw: Mapping[str, Floats]) -> tuple[PreheatBlock, ...]:
    """Return the stretches in which a plan heats or cools beyond what is asked, at the most that it reaches."""
    step_k = _step_k(home, planned)
    aims = np.full(planned.slots, np.nan)
    cools = np.zeros(planned.slots, dtype=bool)
    for room in planned.rooms:
        key = room.forecast.room.id
        air = np.array(room_course_c(room.heat, heat_kw[key]))[:, 0]
        asked = room.forecast.wanted_c[:: planned.step_min]
        limit = (
            np.full(planned.slots, np.inf)
            if room.forecast.limit_c is None
            else room.forecast.limit_c[:: planned.step_min]
        )
        warms = (heat_kw[key] > LEAST_KW) & (air > asked + HELD_K)
        chills = (heat_kw[key] < -LEAST_KW) & (air < limit - HELD_K)
        aims = np.where(warms, np.fmax(aims, air), np.where(chills, np.fmin(aims, air), aims))
        cools |= chills
    blocks = []
    slot = 0
    while slot < planned.slots:
        if np.isnan(aims[slot]):
            slot += 1
            continue
        end = slot
        while end < planned.slots and not np.isnan(aims[end]) and cools[end] == cools[slot]:
            end += 1
        aim = float(aims[slot:end].min() if cools[slot] else aims[slot:end].max())
        rounded = round(round(aim / step_k) * step_k, 3)
        blocks.append(
            PreheatBlock(
                from_ms=planned.at(slot),
                until_ms=planned.at(end),
                setpoint_c=None if cools[slot] else rounded,
                cooling_c=rounded if cools[slot] else None,
            )
        )
        slot = end
    return tuple(blocks)


def _variants(
    blocks: tuple[PreheatBlock, ...], planned: PlannedZone, step_k: float
) -> Iterator[tuple[PreheatBlock, ...]]:
    """Yield blocks with one of them moved at its edges, by steps of its temperature, or, last, left out."""
    slot_ms = planned.step_min * MS_PER_MIN
    for place, block in enumerate(blocks):
        before = blocks[place - 1].until_ms if place else planned.at(0)
        after = blocks[place + 1].from_ms if place + 1 < len(blocks) else planned.at(planned.slots)
        rest = blocks[:place], blocks[place + 1 :]
        for begin, end in ((-2, 0), (-1, 0), (1, 0), (2, 0), (0, -1), (0, 1), (-1, -1), (1, 1)):
            from_ms, until_ms = block.from_ms + begin * slot_ms, block.until_ms + end * slot_ms
            if before <= from_ms < until_ms <= after:
                yield (*rest[0], replace(block, from_ms=from_ms, until_ms=until_ms), *rest[1])
        for by_k in (-step_k, step_k, -2 * step_k, 2 * step_k):
            if block.setpoint_c is not None:
                yield (*rest[0], replace(block, setpoint_c=round(block.setpoint_c + by_k, 3)), *rest[1])
            elif block.cooling_c is not None:
                yield (*rest[0], replace(block, cooling_c=round(block.cooling_c + by_k, 3)), *rest[1])
    for place in range(len(blocks)):
        yield (*blocks[:place], *blocks[place + 1 :])


class _Trial:
    """Runs of a zone's rooms under blocks."""

    def __init__(self, home: Home, clock: LocalClock, planned: PlannedZone, most_changes: int) -> None:
        self.home, self.clock, self.planned = home, clock, planned
        self.most_changes, self.count = most_changes, 0
        self._costs: dict[tuple[PreheatBlock, ...], float] = {}
        self._alone = [_alone(room) for room in planned.rooms]
        full = sum(float(room.heat.most_draw_kw.max()) for room in planned.rooms)
        self._per_kh = COMFORT_H * full * float(np.abs(planned.price).mean()) + LEAST_BETTER
        runs = [self._run(self.home, place) for place in range(len(planned.rooms))]
        self._written = [short for _, _, short in runs]
        keys = [room.forecast.room.id for room in planned.rooms]
        written = figures(
            planned,
            {key: heat for key, (heat, _, _) in zip(keys, runs, strict=True)},
            {key: nodes for key, (_, nodes, _) in zip(keys, runs, strict=True)},
        )
        self._off_k = max(written.off_k, max(room.forecast.heater.band_k for room in planned.rooms) / 2) + HELD_K

    def worth(self, blocks: tuple[PreheatBlock, ...]) -> float:
        """Return what blocks cost in simulation, comfort lost counted in; infinite where the device does not hold them."""
        return self.cost(blocks) if self.fits(blocks) else np.inf

    def cost(self, blocks: tuple[PreheatBlock, ...]) -> float:
        """Return that whether or not the device holds them."""
        if blocks not in self._costs:
            self._costs[blocks] = self._cost(blocks)
        return self._costs[blocks]

    def fits(self, blocks: tuple[PreheatBlock, ...]) -> bool:
        """Return whether the zone's device holds the changes of each date with these blocks."""
        planned = self.planned
        home = with_preheats(self.home, planned.zone.id, self.clock, blocks)
        held = home.zone_of_id(planned.zone.id)
        dates = [day.date for day in self.clock.days(planned.at(0), planned.at(planned.slots))]
        return all(len(written_on(home, held, on).points) <= self.most_changes for on in dates)

    def _cost(self, blocks: tuple[PreheatBlock, ...]) -> float:
        planned, zone = self.planned, self.planned.zone
        home = with_preheats(self.home, zone.id, self.clock, blocks)
        self.count += 1
        heat, nodes, short = {}, {}, 0.0
        for place, room in enumerate(planned.rooms):
            key = room.forecast.room.id
            heat[key], nodes[key], kh = self._run(home, place)
            short += max(0.0, kh - self._written[place])
        found = figures(planned, heat, nodes)
        return found.cost + self._per_kh * (short + max(0.0, found.off_k - self._off_k))

    def _run(self, home: Home, place: int) -> tuple[Floats, Floats, float]:
        """Return heat by slot [kW], mean air by slot with air and fabric at the end, and K h lost."""
        planned, room = self.planned, self.planned.rooms[place]
        model, stretch = self._alone[place]
        zone = home.zone_of_id(planned.zone.id)
        end_ms = planned.at(planned.slots)
        blocks = blocks_between(home, zone, self.clock, planned.at(0), end_ms)
        day = predict_day(home, zone, model, stretch, blocks, others=room.forecast.by_hand)
        size = planned.slots * planned.step_min
        heat = day.run.heat_w[0, :size].reshape(planned.slots, planned.step_min).mean(axis=1) / W_PER_KW
        air = day.run.air_c[0, :size].reshape(planned.slots, planned.step_min).mean(axis=1)
        # The thermostat's own swing is nothing that is lost, nor may it be saved up in one hour and spent in another.
        off = np.maximum(_off_k(room, air, planned.step_min) - model.control.band_k / 2, 0.0)
        beyond = np.where(room.heat.most_kw >= 0, air - room.heat.high_c, room.heat.low_c - air)
        off += np.maximum(beyond - HELD_K, 0.0)
        lost_kh = float(off.sum()) * planned.step_min / MIN_PER_H
        return heat, np.concatenate([air, day.run.states_c[0, size, :2]]), lost_kh


def _alone(room: MovableRoom) -> tuple[RoomModel, HeatingStretch]:
    """Return a room's best estimate and its stretch from the beginning of the plan on."""
    forecast = room.forecast
    model, stretch, begin = forecast.model, forecast.stretch, forecast.begin
    step = ExactStep(*(np.ascontiguousarray(each[:1]) for each in (model.step.state, model.step.now, model.step.then)))
    one = RoomModel(step=step, gain_w=model.gain_w[:1], sun_m2=model.sun_m2[:1], control=model.control)
    end = begin + forecast.heat_w.size
    return one, replace(
        stretch,
        start_ms=stretch.start_ms + begin * MS_PER_MIN,
        outdoor_c=stretch.outdoor_c[begin : end + 1],
        offsets_k=stretch.offsets_k[:1],
        certain=max(0, stretch.certain - begin),
        clear_sky_w_m2=stretch.clear_sky_w_m2[begin:end],
        beside_c=None if stretch.beside_c is None else stretch.beside_c[begin:end],
        start_c=np.ascontiguousarray(forecast.begin_state_c[None, :]),
    )


def forecast_figures(planned: PlannedZone, rooms: Sequence[MovableRoom]) -> ZoneFigures:
    """Return a zone's figures as forecasts of its rooms have them, against what was asked as written."""
    heat, nodes = {}, {}
    for before, room in zip(planned.rooms, rooms, strict=True):
        key = before.forecast.room.id
        heat[key] = room.habit_kw
        air = room.forecast.predicted_c.reshape(planned.slots, planned.step_min).mean(axis=1)
        nodes[key] = np.concatenate([air, room.forecast.end_state_c[:2]])
    return figures(planned, heat, nodes)


def without_planned(home: Home, clock: LocalClock, zone_ids: Sequence[str], start_ms: int, end_ms: int) -> Home:
    """Return a home whose zones have no pre-heat on the dates of a stretch."""
    for zone_id in zone_ids:
        for day in clock.days(start_ms, end_ms):
            home = without_preheats(home, zone_id, day.date)
    return home
