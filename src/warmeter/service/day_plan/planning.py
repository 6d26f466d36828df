"""A home's plan of the day: the problem made of its wants, prices and logs; solved by a job; kept as a revision."""

import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.dry_air import dry_air
from warmeter.core.day_plan.optimum import FoundPlan, cheapest_plan
from warmeter.core.day_plan.plan_rules import clash, rule_costs
from warmeter.core.day_plan.problem import DayPlan, PlanProblem
from warmeter.core.day_plan.wanted import (
    PlanTime,
    battery_of,
    charge_of,
    circuit_limits,
    habit_plan,
    import_cap_kwh,
    load_of_hours,
    plan_time,
    planned_parts,
    quiet_slots,
    run_of,
    store_of,
)
from warmeter.core.edits.plan_commands import KeepPlan
from warmeter.core.errors import NotKnowable, TariffError
from warmeter.core.home.day_plans import PlannedDay, PlannedRule
from warmeter.core.home.document import Home
from warmeter.core.units import MS_PER_MIN
from warmeter.service.app import App, Person
from warmeter.service.cache import Cache
from warmeter.service.day_plan.expectations import (
    export_price,
    outdoor_by_slot,
    peak_price,
    sun_by_slot,
    what_else_runs,
)
from warmeter.service.day_plan.preheat import PlannedRooms, planned_preheats, planned_rooms
from warmeter.service.homes.editing import edit_home
from warmeter.service.signatures.machines import machine_record
from warmeter.service.tariffs.pricing import prices_for
from warmeter.store.work import Job

SOLVE_S, RULE_S = 30.0, 6.0
# With more slots than two days of quarters of an hour no proof comes in time: the search is cut short, and its runs moved about.
MANY_SLOTS, SHORT_S = 200, 6.0
MOST_RULES = 14
_INPUTS: Cache["PlanInputs"] = Cache(30)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanInputs:
    """A plan's problem, its slots, what the home would do by habit, and what was assumed, in sentences.

    ``elsewhere`` are keys of rooms and stores that the home's meter cannot have counted.
    """

    time: PlanTime
    problem: PlanProblem
    habit: DayPlan
    assumed: tuple[str, ...]
    left_out: tuple[tuple[str, str], ...]
    rooms: PlannedRooms
    elsewhere: tuple[str, ...] = ()


def plan_inputs(app: App, home: Home, on: date) -> PlanInputs:
    """Return what the plan of a date is made from.

    Raises
    ------
    TariffError
        Where a slot has no price.
    """
    key = (str(app.engine.url), home, on, app.readings.import_stamp(home.id))
    return _INPUTS.get(key, lambda: _plan_inputs(app, home, on))


def _plan_inputs(app: App, home: Home, on: date) -> PlanInputs:
    clock, practice = app.clock(home), home.plan_practice
    time = plan_time(clock, on, practice)
    assumed: list[str] = []
    left_out: list[tuple[str, str]] = []
    step_ms = time.step_min * MS_PER_MIN
    minutes = np.arange(time.start_ms[0], time.start_ms[-1] + step_ms, MS_PER_MIN, dtype=np.int64)
    price = prices_for(app, home, minutes).by_step.reshape(time.slots, time.step_min).mean(axis=1)
    last = on + timedelta(days=practice.days - 1)
    wanted = [run for run in home.wanted_runs if on <= run.on <= last]
    quiet = quiet_slots(practice.quiet, time)
    runs, machines, starts = [], {}, {}
    for run in wanted:
        machine = home.appliance(run.appliance_id)
        label = f"{machine.name}, {run.label}" if run.label else machine.name
        try:
            runs.append(run_of(run, label, _profile(app, home, run.appliance_id), time, quiet))
            machines[run.id] = machine.id
            starts[run.id] = time.slot_until(machine.start_min)
        except NotKnowable as error:
            left_out.append((run.id, str(error)))
    there = {run.key for run in runs}
    runs = [run for run in runs if not run.after or run.after in there]
    charges = []
    for charge in home.wanted_charges:
        if on <= charge.on <= last:
            try:
                charges.append(charge_of(charge, time))
            except NotKnowable as error:
                left_out.append((charge.id, str(error)))
    loads = []
    for hours in home.wanted_hours:
        if on <= hours.on <= last:
            try:
                loads.append(load_of_hours(hours, time, quiet))
            except NotKnowable as error:
                left_out.append((hours.id, str(error)))
    outdoor = outdoor_by_slot(app, home, time, assumed) if home.water_stores else np.zeros(time.slots)
    stores = (
        *(store_of(store, time, outdoor, None) for store in home.water_stores),
        *(dry_air(band, time.slots, time.step_min) for band in home.humidity_bands),
    )
    rooms = planned_rooms(app, home, time, price)
    left_out += rooms.left_out
    tariff = home.tariff_on(on)
    problem = PlanProblem(
        step_min=time.step_min,
        import_price=price,
        export_price=export_price(app, home, tariff, time),
        base_kwh=np.zeros(time.slots),
        sun_kwh=sun_by_slot(app, home, time, on, assumed),
        runs=tuple(runs),
        loads=tuple(loads),
        charges=tuple(charges),
        stores=stores,
        rooms=tuple(room.heat for room in rooms.rooms),
        battery=None if practice.battery is None else battery_of(practice.battery),
        limits=circuit_limits(home, machines),
        peak=None if tariff is None else peak_price(app, home, tariff, time),
        import_cap_kwh=import_cap_kwh(practice),
    )
    habit = habit_plan(problem, starts, {room.heat.key: room.habit_kw for room in rooms.rooms})
    other = what_else_runs(app, home, time, on, tuple(machines.values()), problem, habit, assumed)
    return PlanInputs(
        time=time,
        problem=replace(problem, base_kwh=other.kwh),
        habit=habit,
        elsewhere=other.elsewhere,
        assumed=tuple(assumed),
        left_out=tuple(left_out),
        rooms=rooms,
    )


def _profile(app: App, home: Home, machine_id: str) -> Floats:
    """Return a machine's learnt run by minute [kWh]; empty where nothing was learnt."""
    try:
        return machine_record(app, home, machine_id).profile_kwh()
    except NotKnowable:
        return np.zeros(0)


def with_pins(plan: DayPlan, inputs: PlanInputs) -> DayPlan:
    """Return a kept plan with what was pinned since then at its pin, so that its price shows at once."""
    pins = {run.key: run.pinned for run in inputs.problem.runs if run.pinned is not None}
    return replace(plan, starts={key: pins.get(key, slot) for key, slot in plan.starts.items()})


def ask_to_plan(app: App, home_id: str, revision: int, on: date, person: Person) -> int:
    """Queue the making of a date's plan and return the job's id."""
    request = json.dumps({"author": person.name})
    job_id = app.work.enqueue(home_id, "plan", str(on), revision, app.now_ms(), request)
    app.jobs.submit(job_id)
    return job_id


def run_plan(app: App, job: Job, progress: Callable[[float, str], None]) -> str:
    """Make a queued plan, keep it as a revision, and return what came of it."""
    home, _ = app.homes.load(job.home_id)
    on = date.fromisoformat(job.subject)
    progress(0.05, "Gathering prices and what else runs")
    inputs = plan_inputs(app, home, on)
    if not any(True for _ in inputs.problem.parts()):
        raise NotKnowable("Nothing is wanted on that day.", "Add a run, a charge, hours or a store.")
    progress(0.1, "Looking for the least cost")
    seconds = SOLVE_S if inputs.problem.slots <= MANY_SLOTS else SHORT_S
    found = cheapest_plan(inputs.problem, seconds=seconds)
    if found.plan is None and not found.is_infeasible and seconds < SOLVE_S:
        progress(0.3, "Nothing found yet: looking longer")
        found = cheapest_plan(inputs.problem, seconds=SOLVE_S)
    if found.is_infeasible:
        # That nothing fits is said only where two ways of search agree.
        found = cheapest_plan(inputs.problem, seconds=SOLVE_S, is_presolved=False)
    planned = _planned(app, home, inputs, found, progress)
    author = json.loads(app.work.request(job.id))["author"]
    _, base = app.homes.load(job.home_id)
    edit, _ = edit_home(app, job.home_id, base, Person(author), KeepPlan(planned=planned))
    return edit.summary


def _planned(
    app: App, home: Home, inputs: PlanInputs, found: FoundPlan, progress: Callable[[float, str], None]
) -> PlannedDay:
    problem, practice, plan = inputs.problem, home.plan_practice, found.plan
    empty = PlannedDay(on=inputs.time.on, days=practice.days, step_min=practice.step_min, made_ms=app.now_ms())
    if plan is None:
        if not found.is_infeasible:
            raise NotKnowable(f"No plan was found in {SOLVE_S:g} s.", "Take longer slots, or want less.")
        progress(0.5, "Nothing fits: looking for what cannot be kept together")
        rules = tuple(PlannedRule(kind=rule.kind, key=rule.key) for rule in clash(problem))
        return replace(empty, rules=rules, is_infeasible=True)
    told = checked(problem, plan)
    if not told.is_kept:
        raise TariffError("the plan that was found breaks a rule, so it is not kept; nothing was changed")
    progress(0.6, "What each constraint costs")
    costs = rule_costs(problem, told.cost, seconds=RULE_S)[:MOST_RULES]
    progress(0.8, "Rooms as their devices can hold it, run through the simulation")
    preheats = planned_preheats(app, inputs.rooms, inputs.time.on, plan.room_kw)
    return replace(
        empty,
        parts=planned_parts(plan),
        battery_in_wh=tuple(np.round(plan.battery_in_kwh * 1000, 6).tolist()),
        battery_out_wh=tuple(np.round(plan.battery_out_kwh * 1000, 6).tolist()),
        cost=told.cost,
        habit_cost=checked(problem, inputs.habit).cost,
        gap=found.gap,
        preheats=preheats,
        rules=tuple(PlannedRule(kind=each.rule.kind, key=each.rule.key, saves=each.saves) for each in costs),
    )
