"""A problem made of what a home wants, and plans turned into what a home keeps and back."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from math import ceil, sqrt

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.day_plan.problem import (
    Battery,
    Charge,
    DayPlan,
    HeatStore,
    PlannedRun,
    PlanProblem,
    PowerLimit,
    SlotLoad,
)
from warmeter.core.errors import NotKnowable
from warmeter.core.home.day_plans import (
    HomeBattery,
    HumidityBand,
    PlannedDay,
    PlannedPart,
    PlanPractice,
    QuietHours,
    WantedCharge,
    WantedHours,
    WantedRun,
    WaterStore,
)
from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH, MIN_PER_DAY, MIN_PER_H, MS_PER_MIN, W_PER_KW

J_PER_KG_K, KG_PER_L = 4186.0, 0.998
KWH_PER_L_K = J_PER_KG_K * KG_PER_L / J_PER_KWH
APART = "never with others"
HOT_ENOUGH_K = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanTime:
    """The slots of a plan on the home's clock: where they begin [ms UTC], and their length [min]."""

    on: date
    start_ms: Ints
    step_min: int
    clock: LocalClock

    @property
    def slots(self) -> int:
        """How many."""
        return int(self.start_ms.size)

    def slot_from(self, minute: int) -> int:
        """Return the first slot that begins at a minute of the plan or later (beyond 1440 is the next day)."""
        return min(self.slots, ceil(self._since(minute) / self.step_min))

    def slot_until(self, minute: int) -> int:
        """Return how many slots have ended by a minute of the plan."""
        return min(self.slots, int(self._since(minute) // self.step_min))

    def _since(self, minute: int) -> float:
        days, rest = divmod(minute, MIN_PER_DAY)
        if rest == 0 and days:
            days, rest = days - 1, MIN_PER_DAY
        at = self.clock.instant(self.on + timedelta(days=days), rest)
        return (at - int(self.start_ms[0])) / MS_PER_MIN


def plan_time(clock: LocalClock, on: date, practice: PlanPractice) -> PlanTime:
    """Return the slots of a plan from the beginning of a local date on."""
    begin, end = clock.instant(on, 0), clock.instant(on + timedelta(days=practice.days), 0)
    step = practice.step_min * MS_PER_MIN
    return PlanTime(
        on=on, start_ms=np.arange(begin, end, step, dtype=np.int64), step_min=practice.step_min, clock=clock
    )


def quiet_slots(quiet: tuple[QuietHours, ...], time: PlanTime) -> Flags:
    """Return which slots of a plan touch quiet hours."""
    return quiet_at(quiet, time.clock, time.start_ms, time.step_min)


def quiet_at(quiet: tuple[QuietHours, ...], clock: LocalClock, start_ms: Ints, step_min: int) -> Flags:
    """Return which slots that begin at instants [ms UTC] touch quiet hours."""
    found = np.zeros(start_ms.size, dtype=bool)
    for offset in range(0, step_min, 5):
        _, minute = clock.local_minutes(start_ms + offset * MS_PER_MIN)
        for hours in quiet:
            if hours.from_min < hours.to_min:
                found |= (minute >= hours.from_min) & (minute < hours.to_min)
            else:
                found |= (minute >= hours.from_min) | (minute < hours.to_min)
    return found


def run_of(wanted: WantedRun, name: str, by_minute_kwh: Floats, time: PlanTime, quiet: Flags) -> PlannedRun:
    """Return a wanted run with its energy by slot.

    Raises
    ------
    NotKnowable
        Without a learnt run and without typed energy and length, or where it does not fit between its two times.
    """
    minutes = by_minute_kwh
    if wanted.kwh is not None and wanted.minutes is not None:
        minutes = np.full(wanted.minutes, wanted.kwh / wanted.minutes)
    if not minutes.size:
        raise NotKnowable(f"{name} has no learnt run.", "Record one from start to end, or type its energy and length.")
    slots = ceil(minutes.size / time.step_min)
    padded = np.zeros(slots * time.step_min)
    padded[: minutes.size] = minutes
    by_slot = padded.reshape(slots, time.step_min)
    earliest, latest = time.slot_from(wanted.earliest_min), time.slot_until(wanted.latest_end_min)
    if latest - earliest < slots:
        raise NotKnowable(
            f"{name} runs {minutes.size} min, which does not fit between its earliest start and its deadline.",
            "Widen the time.",
        )
    return PlannedRun(
        key=wanted.id,
        name=name,
        profile_kwh=by_slot.sum(axis=1),
        peak_w=by_slot.max(axis=1) * 1000.0 * MIN_PER_H,
        earliest=earliest,
        latest_end=latest,
        quiet=quiet if wanted.is_heard and quiet.any() else None,
        pinned=None if wanted.pinned_min is None else time.slot_until(wanted.pinned_min),
        after=wanted.after_id or "",
        after_within=None if wanted.after_within_min is None else wanted.after_within_min // time.step_min,
        apart=(APART,) if wanted.never_with_others else (),
    )


def charge_of(wanted: WantedCharge, time: PlanTime) -> Charge:
    """Return a wanted charge; ``NotKnowable`` where even its highest power does not do it in time."""
    earliest, latest = time.slot_from(wanted.earliest_min), time.slot_until(wanted.latest_end_min)
    most = max(wanted.steps_kw) * max(0, latest - earliest) * time.step_min / MIN_PER_H
    if most < wanted.kwh:
        raise NotKnowable(
            f"{wanted.name} can take {most:.1f} kWh between its two times, not {wanted.kwh:g}.",
            "Give it longer, or more power.",
        )
    return Charge(
        key=wanted.id,
        name=wanted.name,
        amount_kwh=wanted.kwh,
        steps_kw=wanted.steps_kw,
        earliest=earliest,
        latest_end=latest,
    )


def load_of_hours(wanted: WantedHours, time: PlanTime, quiet: Flags) -> SlotLoad:
    """Return wanted hours as slots; ``NotKnowable`` where they do not fit between their two times."""
    earliest, latest = time.slot_from(wanted.earliest_min), time.slot_until(wanted.latest_end_min)
    slots = ceil(wanted.hours * MIN_PER_H / time.step_min)
    if latest - earliest < slots:
        raise NotKnowable(f"{wanted.name} wants more hours than lie between its two times.", "Widen the time.")
    return SlotLoad(
        key=wanted.id,
        name=wanted.name,
        slot_kwh=wanted.power_w / 1000 * time.step_min / MIN_PER_H,
        slots=slots,
        min_run=min(slots, ceil(wanted.least_min / time.step_min)),
        earliest=earliest,
        latest_end=latest,
        quiet=quiet if wanted.is_heard and quiet.any() else None,
    )


def store_of(wanted: WaterStore, time: PlanTime, outdoor_c: Floats, start_c: float | None) -> HeatStore:
    """Return a store over the slots: ready once a day at its time, from then on people draw for half an hour.

    A store that begins colder than its lowest limit is held to it from when full power can have reached it.
    """
    hours = time.step_min / MIN_PER_H
    capacity, loss_kw = wanted.litres * KWH_PER_L_K, wanted.loss_w_k / 1000.0
    around = outdoor_c if wanted.surroundings_c is None else np.full(time.slots, wanted.surroundings_c)
    low = np.full(time.slots, wanted.low_c)
    drawn = np.zeros(time.slots)
    _, minute = time.clock.local_minutes(time.start_ms)
    for slot in range(time.slots):
        if minute[slot] <= wanted.ready_min < minute[slot] + time.step_min:
            low[max(0, slot - 1)] = wanted.ready_c
            several = max(1, round(0.5 / hours))
            drawn[slot : slot + several] += wanted.drawn_kwh / several
    begin = wanted.usual_c if start_c is None else start_c
    # It ends no colder than it began: heat taken from the store is no saving.
    low[-1] = max(float(low[-1]), min(begin, wanted.high_c))
    water = begin
    for slot in range(time.slots):
        water += (wanted.power_w / 1000 * wanted.efficiency - loss_kw * (water - around[slot])) * hours / capacity
        water = min(water, wanted.high_c)
        if begin < wanted.low_c:
            low[slot] = min(low[slot], water - 0.5)
    return HeatStore(
        key=wanted.id,
        name=wanted.name,
        kwh_per_k=capacity,
        loss_kw_k=loss_kw,
        surroundings_c=around,
        power_kw=wanted.power_w / 1000,
        efficiency=wanted.efficiency,
        start_c=begin,
        low_c=low,
        high_c=np.full(time.slots, max(wanted.high_c, begin)),
        drawn_kwh=drawn,
        hygiene_c=wanted.hygiene_c,
    )


def battery_of(battery: HomeBattery) -> Battery:
    """Return a home's battery; it ends as full as it began."""
    start = battery.capacity_kwh * max(battery.start_pct, battery.reserve_pct) / 100
    return Battery(
        capacity_kwh=battery.capacity_kwh,
        charge_kw=battery.charge_kw,
        discharge_kw=battery.discharge_kw,
        efficiency_in=sqrt(battery.round_trip),
        efficiency_out=sqrt(battery.round_trip),
        start_kwh=start,
        end_kwh=start,
        reserve_kwh=battery.capacity_kwh * battery.reserve_pct / 100,
    )


def circuit_limits(home: Home, machines: Mapping[str, str]) -> tuple[PowerLimit, ...]:
    """Return the limits of circuits on which wanted runs hang; ``machines`` are runs' keys with their machines."""
    found = []
    for circuit in home.circuits:
        members = tuple(key for key, machine in machines.items() if machine in circuit.appliance_ids)
        if members:
            phases = 1.0 if circuit.phases == 1 else sqrt(3.0)
            watts = circuit.rating_a * circuit.volts_v * phases * circuit.power_factor - circuit.other_w
            found.append(PowerLimit(key=circuit.id, name=circuit.name, limit_w=max(0.0, watts), members=members))
    return tuple(found)


def shed_ranks(home: Home) -> dict[str, int]:
    """Return the rank of each wanted part that may be left out where power must be saved, by its id."""
    ranked: tuple[WantedCharge | WantedHours | WaterStore | HumidityBand, ...]
    ranked = (*home.wanted_charges, *home.wanted_hours, *home.water_stores, *home.humidity_bands)
    return {part.id: part.shed_rank for part in ranked if part.shed_rank is not None}


def import_cap_kwh(practice: PlanPractice) -> float | None:
    """Return what the main fuse lets through in a slot; None where nobody said what it is."""
    if practice.main_fuse_a is None:
        return None
    phases = 1.0 if practice.main_phases == 1 else 3.0
    return practice.main_fuse_a * practice.main_volts_v * phases / 1000 * practice.step_min / MIN_PER_H


def habit_plan(problem: PlanProblem, starts: Mapping[str, int], rooms: Mapping[str, Floats]) -> DayPlan:
    """Return what the home does by habit: runs at their usual slots, charging at once, stores held ready, no battery.

    ``rooms`` is the heat of each room as its timetable is written [kW], cold below zero.
    """
    charging = {}
    for charge in problem.charges:
        power, left, most = np.zeros(problem.slots), charge.amount_kwh, max(charge.steps_kw)
        for slot in range(charge.earliest, charge.latest_end):
            if left > 0:
                power[slot], left = most, left - most * problem.hours
        charging[charge.key] = power
    return DayPlan(
        starts={run.key: min(starts.get(run.key, run.earliest), problem.slots - run.slots) for run in problem.runs},
        on={load.key: _from_the_first(problem, load) for load in problem.loads},
        charge_kw=charging,
        store_kw={store.key: _held(problem, store) for store in problem.stores},
        room_kw={room.key: rooms[room.key] for room in problem.rooms},
        battery_in_kwh=np.zeros(problem.slots),
        battery_out_kwh=np.zeros(problem.slots),
    )


def _from_the_first(problem: PlanProblem, load: SlotLoad) -> Flags:
    slots = np.arange(problem.slots)
    return (slots >= load.earliest) & (slots < load.earliest + load.slots)


def _held(problem: PlanProblem, store: HeatStore) -> Floats:
    """Return the power that holds a store as warm as it began, ready in time, heated for hygiene at once where it is."""
    power, water, is_hot = np.zeros(problem.slots), store.start_c, store.hygiene_c is None
    for slot in range(problem.slots):
        aim = max(store.start_c, float(store.low_c[slot]), 0.0 if is_hot else store.hygiene_c or 0.0)
        lost = (
            store.loss_kw_k * (water - float(store.surroundings_c[slot])) + float(store.drawn_kwh[slot]) / problem.hours
        )
        wanted = ((aim - water) * store.kwh_per_k / problem.hours + lost) / store.efficiency
        power[slot] = min(max(wanted, 0.0), store.power_kw)
        water += (power[slot] * store.efficiency - lost) * problem.hours / store.kwh_per_k
        is_hot = is_hot or (store.hygiene_c is not None and water >= store.hygiene_c - HOT_ENOUGH_K)
    return power


def planned_parts(plan: DayPlan) -> tuple[PlannedPart, ...]:
    """Return a plan as it is kept."""
    runs = [PlannedPart(part_id=key, slot=slot) for key, slot in plan.starts.items()]
    on = {key: np.where(is_on, 1.0, 0.0) for key, is_on in plan.on.items()}
    powers = {**plan.charge_kw, **plan.store_kw, **plan.room_kw, **on}
    return (
        *runs,
        *(PlannedPart(part_id=key, power_w=tuple(np.round(kw * 1000, 3).tolist())) for key, kw in powers.items()),
    )


def kept_plan(planned: PlannedDay, problem: PlanProblem) -> DayPlan | None:
    """Return a kept plan for a problem; None where it was made of other wants or other slots."""
    parts = {part.part_id: part for part in planned.parts}
    if set(parts) != {part.key for part in problem.parts()} or len(planned.battery_in_wh) != problem.slots:
        return None
    starts = {run.key: parts[run.key].slot for run in problem.runs}
    if any(slot is None for slot in starts.values()):
        return None
    power = {key: np.array(part.power_w) / 1000 for key, part in parts.items() if part.slot is None}
    if any(kw.size != problem.slots for kw in power.values()):
        return None
    return DayPlan(
        starts={key: slot for key, slot in starts.items() if slot is not None},
        on={load.key: power[load.key] > 0 for load in problem.loads},
        charge_kw={charge.key: power[charge.key] for charge in problem.charges},
        store_kw={store.key: power[store.key] for store in problem.stores},
        room_kw={room.key: power[room.key] for room in problem.rooms},
        battery_in_kwh=np.array(planned.battery_in_wh) / 1000,
        battery_out_kwh=np.array(planned.battery_out_wh) / 1000,
    )


def price_levels(price: Floats) -> list[int]:
    """Return each slot's price as a level for rules: 0 among the cheapest third of the plan's slots, 1, 2 among the dearest."""
    low, high = np.quantile(price, [1 / 3, 2 / 3])
    return [0 if each <= low else 2 if each > high else 1 for each in price.tolist()]


def part_watts(problem: PlanProblem, kwh: list[float]) -> Floats:
    """Return energies by slot as mean powers [W]."""
    return np.array(kwh) * W_PER_KW / problem.hours
