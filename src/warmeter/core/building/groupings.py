"""One zone or several: a week of all rooms together under each grouping, and what the numbers favour."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats, true_runs
from warmeter.core.building.compiled import CompiledHome
from warmeter.core.building.fuel import price_of_drawn
from warmeter.core.errors import HomeError
from warmeter.core.sensing.calibration import CountRule
from warmeter.core.thermal.network import exact_step
from warmeter.core.units import MIN_PER_DAY, W_MIN_PER_KWH

STEP_S = 60.0
RUN_IN_DAYS = 3
RULE_CODE: dict[CountRule, int] = {"mean": 0, "weighted": 0, "one": 0, "occupied": 0, "coldest": 1, "warmest": 2}


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneGroup:
    """A zone of a grouping: its rooms, what it asks [°C by minute], and which rooms' air counts, how."""

    name: str
    rooms: tuple[int, ...]
    setpoint_c: Floats
    weights: tuple[float, ...]
    rule: CountRule = "mean"

    def __post_init__(self) -> None:
        if len(self.weights) != len(self.rooms) or not sum(self.weights) > 0:
            raise HomeError(f"{self.name} needs a weight for each room, one above zero at least")


@dataclass(frozen=True, slots=True, kw_only=True)
class Week:
    """The week that groupings are tried on, by minute: outdoors [°C], sun and people [W a room], price a kWh.

    ``needs_c`` is what each room's people want, shape (room, step), NaN while nobody minds. The first
    ``RUN_IN_DAYS`` days come before the week and are not counted.
    """

    outdoor_c: Floats
    gain_w: Floats
    needs_c: Floats
    price: Floats | None

    @property
    def steps(self) -> int:
        """Minutes with the days before."""
        return int(self.outdoor_c.size)


@dataclass(frozen=True, slots=True, kw_only=True)
class GroupingOutcome:
    """A grouping after its week; energies in kWh, per-room arrays in the home's order.

    ``underheating_kh`` and ``overheating_kh`` are K·h below and above what people want; ``coldest_c`` the least air.
    ``starts`` counts how often a source went from rest to work; ``strained_h`` is the longest stretch [h] in which
    all of a room's heaters gave all they can, or all that their source leaves them, and it stayed under what is asked.
    """

    heat_kwh: float
    drawn_kwh: float
    cost: float | None
    room_heat_kwh: Floats
    underheating_kh: Floats
    overheating_kh: Floats
    mean_c: Floats
    coldest_c: Floats
    warmest_c: Floats
    starts: int
    strained_h: Floats


@njit(cache=True, nogil=True)
def _run(  # type: ignore[no-untyped-def]
    ad, bd, fd, states, outdoor, gain, setpoint, zone_of, weights, rule, full, band, source, most, air, fabric, fired
):
    """Step all rooms a minute at a time: sense, ask, share the source, advance."""
    rooms, steps = air.shape
    heaters = full.size
    zones = setpoint.shape[0]
    wanted = np.zeros(heaters)
    u = np.zeros(1 + rooms)
    for k in range(steps):
        for r in range(rooms):
            air[r, k] = states[3 * r]
            fabric[r, k] = states[3 * r + 1]
        for h in range(heaters):
            z = zone_of[h]
            wanted[h] = 0.0
            if z < 0 or z >= zones:
                continue
            total, sensed = 0.0, 0.0
            low, high = 1e9, -1e9
            for r in range(rooms):
                w = weights[z, r]
                if w > 0:
                    total += w
                    sensed += w * states[3 * r]
                    low = min(low, states[3 * r])
                    high = max(high, states[3 * r])
            sensed = low if rule[z] == 1 else high if rule[z] == 2 else sensed / total
            opening = (setpoint[z, k] + band[h] / 2 - sensed) / band[h]
            wanted[h] = full[h] * min(1.0, max(0.0, opening))
        for s in range(most.size):
            asked = 0.0
            for h in range(heaters):
                if source[h] == s:
                    asked += wanted[h]
            if asked > most[s]:
                for h in range(heaters):
                    if source[h] == s:
                        wanted[h] *= most[s] / asked
        u[0] = outdoor[k]
        for r in range(rooms):
            u[1 + r] = gain[r, k]
        states = ad @ states + bd @ u + fd @ wanted
        for h in range(heaters):
            fired[h, k] = wanted[h]
    return states


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomsRun:
    """All rooms of a home through a stretch: air and fabric at the beginning of each step (room, step) [°C]; heat of
    each heater (heater, step) [W]."""

    air_c: Floats
    fabric_c: Floats
    fired_w: Floats


def run_rooms(
    home: CompiledHome,
    week: Week,
    zones: tuple[ZoneGroup, ...],
    *,
    start_c: Floats | None = None,
    step_s: float = STEP_S,
) -> RoomsRun:
    """Simulate all rooms together under their zones.

    ``start_c`` is each room's air and fabric at the start, shape (room, 2) [°C]; 17 and 16 °C if left out.

    A heater's valve or thermostat is proportional over its band around the setpoint, so that energy is that
    of an on/off heater whose cycles are short; a source that cannot give all shares what it can. Heaters
    whose room is in no zone stay off. Exact steps, of a minute if not said otherwise, inputs held.
    """
    rooms, heaters = len(home.room_ids), len(home.heater_ids)
    step = exact_step(home.a, np.hstack([home.b, home.fire]), step_s)
    held = step.held
    zone_of_room = np.full(rooms, -1, dtype=np.int64)
    weights = np.zeros((len(zones), rooms))
    for z, zone in enumerate(zones):
        for room, weight in zip(zone.rooms, zone.weights, strict=True):
            zone_of_room[room] = z
            weights[z, room] = weight
    air, fabric = np.empty((rooms, week.steps)), np.empty((rooms, week.steps))
    fired = np.empty((heaters, week.steps))
    first = np.tile([17.0, 16.0], (rooms, 1)) if start_c is None else start_c
    states = np.hstack([first, np.zeros((rooms, 1))]).ravel()
    _run(
        np.ascontiguousarray(step.state),
        np.ascontiguousarray(held[:, : 1 + rooms]),
        np.ascontiguousarray(held[:, 1 + rooms :]),
        states,
        week.outdoor_c,
        week.gain_w,
        np.array([z.setpoint_c for z in zones]),
        zone_of_room[home.heater_room],
        weights,
        np.array([RULE_CODE[z.rule] for z in zones], dtype=np.int64),
        home.full_w,
        home.band_k,
        home.heater_source,
        home.most_w,
        air,
        fabric,
        fired,
    )
    return RoomsRun(air_c=air, fabric_c=fabric, fired_w=fired)


def judged(home: CompiledHome, week: Week, air: Floats, fired: Floats) -> GroupingOutcome:
    """Return energy, cost and comfort of a run, the days before left out."""
    count = slice(RUN_IN_DAYS * MIN_PER_DAY, None)
    heat = fired[:, count] / W_MIN_PER_KWH
    electric = heat / home.efficiency(week.outdoor_c[count]) if heat.size else heat
    room_heat = np.zeros(len(home.room_ids))
    np.add.at(room_heat, home.heater_room, heat.sum(axis=1))
    inside, needs = air[:, count], week.needs_c[:, count]
    known = ~np.isnan(needs)
    short = np.where(known, np.maximum(0.0, needs - inside), 0.0).sum(axis=1) / 60
    over = np.where(known, np.maximum(0.0, inside - needs), 0.0).sum(axis=1) / 60
    starts = 0
    for s in range(len(home.source_ids)):
        asked = heat[home.heater_source == s].sum(axis=0) > 1e-9
        starts += int((asked[1:] & ~asked[:-1]).sum())
    return GroupingOutcome(
        heat_kwh=float(heat.sum()),
        drawn_kwh=float(electric.sum()),
        cost=_cost(home, electric, None if week.price is None else week.price[count]),
        room_heat_kwh=room_heat,
        underheating_kh=short,
        overheating_kh=over,
        mean_c=inside.mean(axis=1),
        coldest_c=inside.min(axis=1),
        warmest_c=inside.max(axis=1),
        starts=starts,
        strained_h=_strained_h(home, fired[:, count], inside, needs),
    )


def _strained_h(home: CompiledHome, fired_w: Floats, air_c: Floats, needs_c: Floats) -> Floats:
    """Return each room's longest stretch at all the heat it can have and still short, shape (room,) [h]."""
    drained = np.zeros(fired_w.shape, dtype=bool)
    for s, most in enumerate(home.most_w):
        mine = home.heater_source == s
        drained[mine] = fired_w[mine].sum(axis=0) >= 0.999 * most
    spent = (fired_w >= 0.999 * home.full_w[:, None]) | drained
    found = np.zeros(len(home.room_ids))
    for room in range(found.size):
        mine = home.heater_room == room
        band = home.band_k[mine].max() if mine.any() else 0.0
        lacking = spent[mine].all(axis=0) & (air_c[room] < np.nan_to_num(needs_c[room], nan=-np.inf) - band / 2)
        begin, past = true_runs(lacking)
        found[room] = float((past - begin).max(initial=0)) / 60 if mine.any() else 0.0
    return found


def _cost(home: CompiledHome, drawn_kwh: Floats, electricity: Floats | None) -> float | None:
    """Return what is paid for what heaters draw, (heater, step); None where one of them has no price."""
    cost = 0.0
    for (heater, source), kwh in zip(home.plates, drawn_kwh, strict=True):
        price = price_of_drawn(heater, source, electricity, kwh.size)
        if price is None:
            return None
        cost += float(kwh @ price)
    return cost


def tried(home: CompiledHome, week: Week, zones: tuple[ZoneGroup, ...]) -> GroupingOutcome:
    """Return a grouping's week."""
    run = run_rooms(home, week, zones)
    return judged(home, week, run.air_c, run.fired_w)
