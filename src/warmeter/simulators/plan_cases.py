"""Made-up plans of the day: random problems, the best of a small one by trying everything, and plans spoilt on purpose."""

import itertools
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from warmeter.core.day_plan.check import BreachKind, checked
from warmeter.core.day_plan.planned_room import RoomHeat, reachable, with_leeway
from warmeter.core.day_plan.problem import (
    Battery,
    Charge,
    DayPlan,
    HeatStore,
    PeakPrice,
    PlannedRun,
    PlanProblem,
    PowerLimit,
    SlotLoad,
)
from warmeter.core.preheat.movable_room import NOT_FELT_K


def small_problem(rng: np.random.Generator) -> PlanProblem:
    """Return a problem so small that everything can be tried: up to three runs, a slot load or a charge; some have no plan."""
    slots = int(rng.integers(6, 10))
    runs = tuple(_run(rng, f"r{k}", slots, most=3) for k in range(int(rng.integers(1, 4))))
    if len(runs) > 1 and rng.random() < 0.4:
        within = int(rng.integers(0, 3)) if rng.random() < 0.5 else None
        runs = (runs[0], replace(runs[1], after="r0", after_within=within), *runs[2:])
    if len(runs) > 1 and rng.random() < 0.3:
        runs = tuple(replace(run, apart=("noisy",)) for run in runs)
    loads = (_load(rng, slots),) if rng.random() < 0.4 else ()
    charges = (_charge(rng, slots, few=True),) if not loads and rng.random() < 0.4 else ()
    return _with_grid(rng, slots, runs, loads, charges)


def some_problem(rng: np.random.Generator) -> PlanProblem:
    """Return a problem of a day with runs, loads, charges, a store, a battery and the sun, any of them."""
    slots = int(rng.integers(24, 49))
    runs = tuple(_run(rng, f"r{k}", slots, most=6) for k in range(int(rng.integers(1, 6))))
    if len(runs) > 1 and rng.random() < 0.4:
        runs = (runs[0], replace(runs[1], after="r0", after_within=int(rng.integers(0, 8))), *runs[2:])
    loads = (_load(rng, slots),) if rng.random() < 0.5 else ()
    charges = (_charge(rng, slots, few=False),) if rng.random() < 0.5 else ()
    problem = _with_grid(rng, slots, runs, loads, charges)
    if rng.random() < 0.5:
        problem = replace(problem, stores=(_store(rng, slots),))
    if rng.random() < 0.5:
        problem = replace(problem, rooms=(some_room(rng, slots),))
    if rng.random() < 0.5:
        capacity = float(rng.uniform(2, 10))
        problem = replace(
            problem,
            battery=Battery(
                capacity_kwh=capacity,
                charge_kw=float(rng.uniform(1, 4)),
                discharge_kw=float(rng.uniform(1, 4)),
                efficiency_in=float(rng.uniform(0.85, 1)),
                efficiency_out=float(rng.uniform(0.85, 1)),
                start_kwh=capacity / 2,
                end_kwh=capacity / 4,
                reserve_kwh=capacity / 10,
            ),
        )
    return problem


def _run(rng: np.random.Generator, key: str, slots: int, *, most: int) -> PlannedRun:
    length = int(rng.integers(1, most + 1))
    profile = rng.integers(1, 12, length) / 10
    earliest = int(rng.integers(0, max(1, slots // 3)))
    latest = int(rng.integers(min(slots, earliest + length), slots + 1))
    quiet = rng.random(slots) < 0.15 if rng.random() < 0.4 else None
    return PlannedRun(
        key=key,
        name=key,
        profile_kwh=profile,
        peak_w=profile * 1500,
        earliest=earliest,
        latest_end=max(latest, earliest + 1),
        quiet=quiet,
    )


def _load(rng: np.random.Generator, slots: int) -> SlotLoad:
    return SlotLoad(
        key="dry",
        name="dry",
        slot_kwh=float(rng.integers(2, 9)) / 10,
        slots=int(rng.integers(1, 5)),
        min_run=int(rng.integers(1, 3)),
        earliest=int(rng.integers(0, 3)),
        latest_end=slots,
    )


def _charge(rng: np.random.Generator, slots: int, *, few: bool) -> Charge:
    steps = (1.4,) if few else (1.4, 2.3, 3.7)
    return Charge(
        key="car",
        name="car",
        amount_kwh=float(rng.uniform(0.5, 2.5 if few else 8)),
        steps_kw=steps,
        earliest=int(rng.integers(0, 3)),
        latest_end=int(rng.integers(slots - 2, slots + 1)),
    )


def _store(rng: np.random.Generator, slots: int) -> HeatStore:
    low = np.full(slots, 40.0)
    low[slots // 2] = 48.0
    return HeatStore(
        key="tank",
        name="tank",
        kwh_per_k=0.2,
        loss_kw_k=float(rng.uniform(0, 0.004)),
        surroundings_c=np.full(slots, 18.0),
        power_kw=float(rng.uniform(1.5, 3.5)),
        efficiency=float(rng.choice([1.0, 2.6])),
        start_c=float(rng.uniform(42, 55)),
        low_c=low,
        high_c=np.full(slots, 68.0),
        drawn_kwh=np.where(rng.random(slots) < 0.15, 0.4, 0.0),
        hygiene_c=60.0 if rng.random() < 0.5 else None,
    )


def some_room(rng: np.random.Generator, slots: int, *, key: str = "room", hours: float = 0.5) -> RoomHeat:
    """Return a room of one or two nodes through days with a setback, its limits moved to what it can keep."""
    nodes = int(rng.integers(1, 3))
    loss, coupling = float(rng.uniform(0.03, 0.12)), float(rng.uniform(0.1, 0.4))
    store = np.array([1.5] if nodes == 1 else [0.4, 3.0])
    rates = np.array([[-loss]]) if nodes == 1 else np.array([[-loss - coupling, coupling], [coupling, -coupling]])
    steps = 40
    small = np.eye(nodes) + rates / store[:, None] * hours / steps
    state, added = np.eye(nodes), np.zeros(nodes)
    warmed = np.eye(nodes)[0] / store * hours / steps
    for _ in range(steps):
        added = small @ added + warmed
        state = small @ state
    outdoor = rng.uniform(-8, 12) + 4 * np.sin(np.arange(slots) / slots * 2 * np.pi)
    wanted = np.where((np.arange(slots) % 24 > 8) & (np.arange(slots) % 24 < 20), 20.0, 16.0)
    room = RoomHeat(
        key=key,
        name=key,
        state=state,
        per_kw=added,
        brought_c=added[None, :] * loss * outdoor[:, None],
        start_c=np.full(nodes, 18.0),
        most_kw=np.full(slots, float(rng.uniform(0.8, 3.0))),
        per_draw=np.full(slots, float(rng.choice([1.0, 3.1]))),
        low_c=wanted,
        high_c=np.full(slots, 22.5),
        end_low_c=np.full(nodes, 17.0),
        end_high_c=np.full(nodes, np.inf),
    )
    return with_leeway(reachable(room).room, NOT_FELT_K)


def _with_grid(
    rng: np.random.Generator,
    slots: int,
    runs: tuple[PlannedRun, ...],
    loads: tuple[SlotLoad, ...],
    charges: tuple[Charge, ...],
) -> PlanProblem:
    price = np.round(rng.uniform(-0.05, 0.5, slots), 3)
    sun = np.clip(rng.normal(0.2, 0.5, slots), 0, None) if rng.random() < 0.4 else np.zeros(slots)
    movable: tuple[PlannedRun | SlotLoad | Charge, ...] = (*runs, *loads, *charges)
    keys = tuple(part.key for part in movable)
    limits = (PowerLimit(key="wet", name="wet", limit_w=2500.0, members=keys),) if rng.random() < 0.4 else ()
    peak = None
    if rng.random() < 0.3:
        peak = PeakPrice(price_per_kw=0.4, so_far_kw=1.0, counted=rng.random(slots) < 0.6)
    return PlanProblem(
        step_min=30,
        import_price=price,
        export_price=np.round(rng.uniform(-0.02, 0.12, slots), 3),
        base_kwh=np.round(rng.uniform(0.05, 0.4, slots), 2),
        sun_kwh=sun,
        runs=runs,
        loads=loads,
        charges=charges,
        limits=limits,
        peak=peak,
        import_cap_kwh=float(rng.uniform(1.2, 4.0)) if rng.random() < 0.5 else None,
    )


def best_by_trying(problem: PlanProblem) -> tuple[float, DayPlan | None]:
    """Return the least cost of all plans that keep everything, and one of them; None where none does."""
    best, found = np.inf, None
    for plan in _every_plan(problem):
        told = checked(problem, plan)
        if told.is_kept and told.cost < best:
            best, found = told.cost, plan
    return float(best), found


def _every_plan(problem: PlanProblem) -> Iterator[DayPlan]:
    slots, none = problem.slots, np.zeros(problem.slots)
    starts = [range(run.earliest, slots - run.slots + 1) for run in problem.runs]
    on = [
        [np.isin(np.arange(slots), chosen) for chosen in itertools.combinations(range(slots), load.slots)]
        for load in problem.loads
    ]
    powers = [
        [np.array(each) for each in itertools.product((0.0, *charge.steps_kw), repeat=slots)]
        for charge in problem.charges
    ]
    for chosen, slot_sets, charging in itertools.product(
        itertools.product(*starts), itertools.product(*on), itertools.product(*powers)
    ):
        yield DayPlan(
            starts={run.key: start for run, start in zip(problem.runs, chosen, strict=True)},
            on={load.key: each for load, each in zip(problem.loads, slot_sets, strict=True)},
            charge_kw={charge.key: each for charge, each in zip(problem.charges, charging, strict=True)},
            store_kw={},
            room_kw={},
            battery_in_kwh=none,
            battery_out_kwh=none,
        )


def rich_problem() -> PlanProblem:
    """Return a problem that has every kind of rule, so that a plan of it can be spoilt in every way."""
    slots = 48
    quiet = np.zeros(slots, dtype=bool)
    quiet[:12] = quiet[44:] = True
    price = np.where(
        (np.arange(slots) >= 32) & (np.arange(slots) < 40), 0.45, np.where(np.arange(slots) < 12, 0.14, 0.27)
    )
    profile = np.array([0.3, 0.6, 0.2, 0.2])
    washer = PlannedRun(
        key="washer",
        name="Washer",
        profile_kwh=profile,
        peak_w=profile * 3000,
        earliest=12,
        latest_end=42,
        quiet=quiet,
        apart=("wet",),
    )
    dryer = replace(washer, key="dryer", name="Dryer", after="washer", after_within=3)
    pump = SlotLoad(key="pump", name="Pump", slot_kwh=0.2, slots=6, min_run=3, earliest=0, latest_end=48)
    car = Charge(key="car", name="Car", amount_kwh=6.0, steps_kw=(1.4, 3.7), earliest=4, latest_end=40)
    room = RoomHeat(
        key="room",
        name="Room",
        state=np.array([[0.97]]),
        per_kw=np.array([0.6]),
        brought_c=np.full((slots, 1), 0.03 * 4.0),
        start_c=np.array([19.0]),
        most_kw=np.full(slots, 2.0),
        per_draw=np.ones(slots),
        low_c=np.full(slots, 17.5),
        high_c=np.full(slots, 23.0),
        end_low_c=np.array([19.0]),
        end_high_c=np.full(1, np.inf),
    )
    low = np.full(slots, 40.0)
    low[24] = 50.0
    tank = HeatStore(
        key="tank",
        name="Tank",
        kwh_per_k=0.23,
        loss_kw_k=0.0018,
        surroundings_c=np.full(slots, 18.0),
        power_kw=2.5,
        start_c=45.0,
        low_c=low,
        high_c=np.full(slots, 65.0),
        drawn_kwh=np.where(np.isin(np.arange(slots), (14, 15, 40)), 1.0, 0.0),
        hygiene_c=60.0,
    )
    return PlanProblem(
        step_min=30,
        import_price=price,
        export_price=np.full(slots, 0.06),
        base_kwh=np.full(slots, 0.15),
        sun_kwh=np.clip(np.sin((np.arange(slots) - 16) / 16 * np.pi), 0, None) * 0.8,
        runs=(washer, dryer),
        loads=(pump,),
        charges=(car,),
        stores=(tank,),
        rooms=(room,),
        battery=Battery(capacity_kwh=5.0, charge_kw=2.0, discharge_kw=2.0, start_kwh=1.0, end_kwh=1.0, reserve_kwh=0.5),
        limits=(
            PowerLimit(key="wet circuit", name="Wet circuit", limit_w=2500.0, members=("washer", "dryer", "pump")),
        ),
        import_cap_kwh=5.0,
    )


def spoilt(problem: PlanProblem, plan: DayPlan) -> Iterator[tuple[BreachKind, PlanProblem, DayPlan]]:
    """Yield a plan of ``rich_problem`` spoilt in each of nineteen ways, with the kind of breach that must be found."""
    at = plan.starts
    slots = problem.slots
    yield "missing", problem, replace(plan, starts={"dryer": at["dryer"]})
    yield "window", problem, replace(plan, starts={**at, "washer": 41})
    yield "quiet", problem, replace(plan, starts={**at, "washer": 11})
    pinned = tuple(replace(r, pinned=at["washer"] + 1) if r.key == "washer" else r for r in problem.runs)
    yield "pinned", replace(problem, runs=pinned), plan
    yield "after", problem, replace(plan, starts={**at, "dryer": at["washer"] - 4})
    yield "apart", problem, replace(plan, starts={**at, "dryer": at["washer"] + 1})
    tight = tuple(replace(limit, limit_w=1500.0) for limit in problem.limits)
    yield "circuit", replace(problem, limits=tight), plan
    yield "main fuse", replace(problem, import_cap_kwh=0.2), plan
    yield "amount", problem, replace(plan, charge_kw={"car": np.zeros(slots)})
    yield "power step", problem, replace(plan, charge_kw={"car": np.where(plan.charge_kw["car"] > 0, 2.0, 0.0)})
    fewer = plan.on["pump"].copy()
    fewer[np.argmax(fewer)] = False
    yield "slots", problem, replace(plan, on={"pump": fewer})
    scattered = np.zeros(slots, dtype=bool)
    scattered[0:12:2] = True
    yield "minimum run", problem, replace(plan, on={"pump": scattered})
    yield "too cold", problem, replace(plan, store_kw={"tank": np.zeros(slots)})
    yield "too hot", problem, replace(plan, store_kw={"tank": np.full(slots, 2.5)})
    lukewarm = tuple(replace(store, hygiene_c=64.9) for store in problem.stores)
    yield "hygiene", replace(problem, stores=lukewarm), plan
    drained = plan.battery_out_kwh.copy()
    drained[0] += 0.9
    yield "battery", problem, replace(plan, battery_out_kwh=drained)
    yield "emptied", problem, replace(plan, room_kw={"room": np.zeros(slots)})
    yield "too hot", problem, replace(plan, room_kw={"room": np.full(slots, 2.0)})
    yield "power step", problem, replace(plan, room_kw={"room": plan.room_kw["room"] + 2.1})
