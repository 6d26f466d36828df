"""A plan held against everything that it must keep, and what it costs; it knows nothing of how the plan was found.

Each rule is walked slot by slot in plain sums, so that an error of the optimiser cannot hide in shared arithmetic.
"""

from dataclasses import dataclass
from math import exp
from typing import Literal

from warmeter.core.day_plan.planned_room import RoomHeat, room_course_c
from warmeter.core.day_plan.problem import DayPlan, HeatStore, PlannedRun, PlanProblem

# The solver takes what is a millionth from whole as whole: that times a car's kWh a slot, or a circuit's watts.
NEAR_KWH, NEAR_W = 1e-5, 0.1
# Levels carry the leeway of the solver's rows from slot to slot, up to two days of 5 min: temperatures and humidity
# [K, %], and a battery [kWh].
NEAR_LEVEL, NEAR_BATTERY_KWH = 1e-4, 1e-4
BreachKind = Literal[
    "missing",
    "window",
    "quiet",
    "pinned",
    "after",
    "apart",
    "circuit",
    "main fuse",
    "amount",
    "power step",
    "slots",
    "minimum run",
    "too cold",
    "too hot",
    "hygiene",
    "battery",
    "emptied",
]


@dataclass(frozen=True, slots=True)
class Breach:
    """A rule that a plan breaks: which kind, of which part, and in which slot (None: of the whole plan)."""

    kind: BreachKind
    key: str
    slot: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckedPlan:
    """What a plan breaks, what it costs, and what it takes from and gives to the grid in each slot [kWh]."""

    breaches: tuple[Breach, ...]
    cost: float
    imported_kwh: tuple[float, ...]
    exported_kwh: tuple[float, ...]
    peak_kw: float

    @property
    def is_kept(self) -> bool:
        """Whether it breaks nothing."""
        return not self.breaches


def checked(problem: PlanProblem, plan: DayPlan) -> CheckedPlan:
    """Return what a plan breaks and costs."""
    breaches: list[Breach] = []
    for run in problem.runs:
        breaches += _run_breaches(problem, plan, run)
    breaches += _apart_breaches(problem, plan)
    breaches += _load_breaches(problem, plan)
    breaches += _charge_breaches(problem, plan)
    for store in problem.stores:
        breaches += _store_breaches(problem, plan, store)
    for room in problem.rooms:
        breaches += _room_breaches(plan, room)
    breaches += _battery_breaches(problem, plan)
    breaches += _circuit_breaches(problem, plan)
    imported, exported = _grid(problem, plan)
    for slot, amount in enumerate(imported):
        if problem.import_cap_kwh is not None and amount > problem.import_cap_kwh + NEAR_KWH:
            breaches.append(Breach("main fuse", "", slot))
    peak = 0.0
    cost = 0.0
    for slot in range(problem.slots):
        cost += imported[slot] * float(problem.import_price[slot])
        cost -= exported[slot] * float(problem.export_price[slot])
        if problem.peak is not None and problem.peak.counted[slot]:
            peak = max(peak, imported[slot] / problem.hours)
    if problem.peak is not None:
        cost += problem.peak.price_per_kw * max(0.0, peak - problem.peak.so_far_kw)
    return CheckedPlan(
        breaches=tuple(breaches), cost=cost, imported_kwh=tuple(imported), exported_kwh=tuple(exported), peak_kw=peak
    )


def load_of(problem: PlanProblem, plan: DayPlan, key: str) -> list[float]:
    """Return what one part of a plan draws in each slot [kWh]."""
    drawn = [0.0] * problem.slots
    for run in problem.runs:
        if run.key == key and key in plan.starts:
            for k in range(run.slots):
                if 0 <= plan.starts[key] + k < problem.slots:
                    drawn[plan.starts[key] + k] += float(run.profile_kwh[k])
    for load in problem.loads:
        if load.key == key and key in plan.on:
            for slot in range(problem.slots):
                drawn[slot] += load.slot_kwh if plan.on[key][slot] else 0.0
    for power in (plan.charge_kw.get(key), plan.store_kw.get(key)):
        if power is not None:
            for slot in range(problem.slots):
                drawn[slot] += float(power[slot]) * problem.hours
    for room in problem.rooms:
        if room.key == key and key in plan.room_kw:
            for slot in range(problem.slots):
                drawn[slot] += abs(float(plan.room_kw[key][slot])) / float(room.per_draw[slot]) * problem.hours
    return drawn


def part_cost(problem: PlanProblem, plan: DayPlan, key: str) -> float:
    """Return what a part's energy costs at the prices of its slots, sun and battery left out [currency]."""
    drawn = load_of(problem, plan, key)
    return sum(kwh * float(price) for kwh, price in zip(drawn, problem.import_price, strict=True))


def _grid(problem: PlanProblem, plan: DayPlan) -> tuple[list[float], list[float]]:
    """Return what is taken from and given to the grid in each slot: netted within the slot (docs/methods I6)."""
    needs = [float(problem.base_kwh[s]) - float(problem.sun_kwh[s]) for s in range(problem.slots)]
    for part in problem.parts():
        for slot, amount in enumerate(load_of(problem, plan, part.key)):
            needs[slot] += amount
    for slot in range(problem.slots):
        needs[slot] += float(plan.battery_in_kwh[slot]) - float(plan.battery_out_kwh[slot])
    return [max(0.0, need) for need in needs], [max(0.0, -need) for need in needs]


def _run_breaches(problem: PlanProblem, plan: DayPlan, run: PlannedRun) -> list[Breach]:
    if run.key not in plan.starts:
        return [Breach("missing", run.key)]
    start = plan.starts[run.key]
    end = start + run.slots
    found = []
    if start < run.earliest or end > run.latest_end:
        found.append(Breach("window", run.key, start))
    if run.quiet is not None:
        found += [Breach("quiet", run.key, s) for s in range(max(0, start), min(end, problem.slots)) if run.quiet[s]]
    if run.pinned is not None and start != run.pinned:
        found.append(Breach("pinned", run.key, start))
    if run.after and run.after in plan.starts:
        gap = start - (plan.starts[run.after] + problem.run(run.after).slots)
        if gap < 0 or (run.after_within is not None and gap > run.after_within):
            found.append(Breach("after", run.key, start))
    return found


def _apart_breaches(problem: PlanProblem, plan: DayPlan) -> list[Breach]:
    found = []
    for group in dict.fromkeys(name for run in problem.runs for name in run.apart):
        taken: dict[int, str] = {}
        for run in problem.runs:
            if group in run.apart and run.key in plan.starts:
                for slot in range(plan.starts[run.key], plan.starts[run.key] + run.slots):
                    if slot in taken:
                        found.append(Breach("apart", run.key, slot))
                    taken[slot] = run.key
    return found


def _load_breaches(problem: PlanProblem, plan: DayPlan) -> list[Breach]:
    found = []
    for load in problem.loads:
        on = plan.on.get(load.key)
        if on is None:
            found.append(Breach("missing", load.key))
            continue
        if sum(bool(each) for each in on) != load.slots:
            found.append(Breach("slots", load.key))
        length = 0
        for slot in range(problem.slots + 1):
            is_on = slot < problem.slots and bool(on[slot])
            if is_on and not load.earliest <= slot < load.latest_end:
                found.append(Breach("window", load.key, slot))
            if is_on and load.quiet is not None and load.quiet[slot]:
                found.append(Breach("quiet", load.key, slot))
            if is_on:
                length += 1
            elif length:
                if length < load.min_run:
                    found.append(Breach("minimum run", load.key, slot))
                length = 0
    return found


def _charge_breaches(problem: PlanProblem, plan: DayPlan) -> list[Breach]:
    found = []
    for charge in problem.charges:
        power = plan.charge_kw.get(charge.key)
        if power is None:
            found.append(Breach("missing", charge.key))
            continue
        total = 0.0
        for slot in range(problem.slots):
            kw = float(power[slot])
            if kw > NEAR_KWH and not charge.earliest <= slot < charge.latest_end:
                found.append(Breach("window", charge.key, slot))
            if kw > NEAR_KWH and min(abs(kw - step) for step in charge.steps_kw) > NEAR_KWH:
                found.append(Breach("power step", charge.key, slot))
            total += kw * problem.hours
        if total < charge.amount_kwh - NEAR_KWH:
            found.append(Breach("amount", charge.key))
    return found


def store_course_c(problem: PlanProblem, plan: DayPlan, store: HeatStore) -> list[float]:
    """Return a store's temperature at the end of each slot: one body with a loss, exact for power that holds a slot."""
    course = []
    water = store.start_c
    for slot in range(problem.slots):
        heat_kw = float(plan.store_kw[store.key][slot]) * store.efficiency
        heat_kw -= float(store.drawn_kwh[slot]) / problem.hours
        outside = float(store.surroundings_c[slot])
        if store.loss_kw_k > 0:
            decay = exp(-store.loss_kw_k * problem.hours / store.kwh_per_k)
            settled = outside + heat_kw / store.loss_kw_k
            water = settled + (water - settled) * decay
        else:
            water += heat_kw * problem.hours / store.kwh_per_k
        course.append(water)
    return course


def _store_breaches(problem: PlanProblem, plan: DayPlan, store: HeatStore) -> list[Breach]:
    if store.key not in plan.store_kw:
        return [Breach("missing", store.key)]
    found = []
    course = store_course_c(problem, plan, store)
    is_hot = False
    for slot, water in enumerate(course):
        power = float(plan.store_kw[store.key][slot])
        if power < -NEAR_KWH or power > store.power_kw + NEAR_KWH:
            found.append(Breach("power step", store.key, slot))
        if water < float(store.low_c[slot]) - NEAR_LEVEL:
            found.append(Breach("too cold", store.key, slot))
        if water > float(store.high_c[slot]) + NEAR_LEVEL:
            found.append(Breach("too hot", store.key, slot))
        last = problem.slots - 1 if store.hygiene_by is None else store.hygiene_by
        if store.hygiene_c is not None and slot <= last and water >= store.hygiene_c - NEAR_LEVEL:
            is_hot = True
    if store.hygiene_c is not None and not is_hot:
        found.append(Breach("hygiene", store.key))
    return found


def _room_breaches(plan: DayPlan, room: RoomHeat) -> list[Breach]:
    heat = plan.room_kw.get(room.key)
    if heat is None:
        return [Breach("missing", room.key)]
    found = []
    course = room_course_c(room, heat)
    for slot, nodes in enumerate(course):
        kw, most = float(heat[slot]), float(room.most_kw[slot])
        if not min(0.0, most) - NEAR_KWH <= kw <= max(0.0, most) + NEAR_KWH:
            found.append(Breach("power step", room.key, slot))
        if nodes[0] < float(room.low_c[slot]) - NEAR_LEVEL:
            found.append(Breach("too cold", room.key, slot))
        if nodes[0] > float(room.high_c[slot]) + NEAR_LEVEL:
            found.append(Breach("too hot", room.key, slot))
    for node, least, most in zip(course[-1], room.end_low_c.tolist(), room.end_high_c.tolist(), strict=True):
        if least - NEAR_LEVEL <= node <= most + NEAR_LEVEL:
            continue
        found.append(Breach("emptied", room.key, len(course) - 1))
    return found


def _battery_breaches(problem: PlanProblem, plan: DayPlan) -> list[Breach]:
    battery = problem.battery
    found = []
    level = battery.start_kwh if battery is not None else 0.0
    for slot in range(problem.slots):
        put, taken = float(plan.battery_in_kwh[slot]), float(plan.battery_out_kwh[slot])
        if battery is None:
            if put > NEAR_BATTERY_KWH or taken > NEAR_BATTERY_KWH:
                found.append(Breach("battery", "", slot))
            continue
        if put < -NEAR_BATTERY_KWH or put > battery.charge_kw * problem.hours + NEAR_BATTERY_KWH:
            found.append(Breach("battery", "", slot))
        if taken < -NEAR_BATTERY_KWH or taken > battery.discharge_kw * problem.hours + NEAR_BATTERY_KWH:
            found.append(Breach("battery", "", slot))
        if put > NEAR_BATTERY_KWH and taken > NEAR_BATTERY_KWH:
            found.append(Breach("battery", "", slot))
        level += put * battery.efficiency_in - taken / battery.efficiency_out
        if level < battery.reserve_kwh - NEAR_BATTERY_KWH or level > battery.capacity_kwh + NEAR_BATTERY_KWH:
            found.append(Breach("battery", "", slot))
    if battery is not None and level < battery.end_kwh - NEAR_BATTERY_KWH:
        found.append(Breach("battery", "", problem.slots - 1))
    return found


def _circuit_breaches(problem: PlanProblem, plan: DayPlan) -> list[Breach]:
    found = []
    for limit in problem.limits:
        for slot in range(problem.slots):
            if sum(_watts(problem, plan, key, slot) for key in limit.members) > limit.limit_w + NEAR_W:
                found.append(Breach("circuit", limit.key, slot))
    return found


def _watts(problem: PlanProblem, plan: DayPlan, key: str, slot: int) -> float:
    """Return the highest power of a part within a slot [W]."""
    for run in problem.runs:
        if run.key == key and key in plan.starts and 0 <= slot - plan.starts[key] < run.slots:
            return float(run.peak_w[slot - plan.starts[key]])
    for load in problem.loads:
        if load.key == key and key in plan.on and plan.on[key][slot]:
            return 1000.0 * load.slot_kwh / problem.hours
    for power in (plan.charge_kw.get(key), plan.store_kw.get(key)):
        if power is not None:
            return 1000.0 * float(power[slot])
    for room in problem.rooms:
        if room.key == key and key in plan.room_kw:
            return 1000.0 * abs(float(plan.room_kw[key][slot])) / float(room.per_draw[slot])
    return 0.0
