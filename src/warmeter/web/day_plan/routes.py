"""Routes of the plan of the day: the page, wants, pins, how the home plans, files out."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Literal

import numpy as np
from annotated_types import Ge, Gt, Le, Len
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.arrays import Floats
from warmeter.core.csv_cells import csv_text
from warmeter.core.day_plan.check import checked, load_of, part_cost
from warmeter.core.day_plan.handed_out import DelayRow, delay_rows, runs_ical
from warmeter.core.day_plan.plan_rules import OtherStart, other_starts
from warmeter.core.day_plan.problem import DayPlan
from warmeter.core.day_plan.wanted import kept_plan, part_watts, price_levels
from warmeter.core.edits.edit import Command
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.plan_commands import (
    PinRun,
    PutWantedCharge,
    PutWantedHours,
    PutWantedRun,
    PutWaterStore,
    RemoveWanted,
    SetPlanPractice,
)
from warmeter.core.errors import HomeError, NotKnowable, TariffError
from warmeter.core.home.day_plans import (
    HomeBattery,
    PlannedDay,
    PlanPractice,
    QuietHours,
    WantedCharge,
    WantedHours,
    WantedRun,
    WaterStore,
)
from warmeter.core.home.document import Home
from warmeter.core.home.machines import CYCLES_BY_ITSELF
from warmeter.core.home.part import Name, TimeOfDay, Unit, Word
from warmeter.core.timegrid import from_ms
from warmeter.service.day_plan.planning import PlanInputs, ask_to_plan, plan_inputs
from warmeter.web import format as show
from warmeter.web.day_plan.plan_lanes import PlanLanes, plan_strip
from warmeter.web.day_plan.plan_view import (
    AgainstRow,
    ChosenRun,
    ConstraintRow,
    against_habit,
    chosen_run,
    clash_words,
    rule_rows,
)
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.page import (
    JobView,
    Page,
    app_of,
    back_to,
    day_in_view,
    frame_of,
    is_fragment,
    job_view,
    person_of,
    render,
    strip_width,
)
from warmeter.web.saving import save
from warmeter.web.strip.draw import DrawnStrip

router = APIRouter()
CHOSEN_PX = 296


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanPage(Page):
    """The plan of a day."""

    home: Home
    tab: str
    query: dict[str, str]
    on: date
    on_text: str
    day_words: str
    strip: DrawnStrip | None
    why_not: str
    planned: PlannedDay | None
    is_stale: bool
    cost: str
    habit: str
    gap: str
    clash: str
    chosen: ChosenRun | None
    rules: list[ConstraintRow]
    against: list[AgainstRow]
    assumed: list[str]
    left_out: list[tuple[str, str]]
    wants: list[tuple[str, str]]
    machines: list[tuple[str, str]]
    runs: list[tuple[str, str]]
    quiet: tuple[str, str, str]
    job: JobView | None


def plan_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the page of a day's plan, or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    on = day_in_view(request, home)
    key = request.query_params.get("at", "") if at is None else at
    inputs, why_not = None, ""
    try:
        inputs = plan_inputs(app, home, on)
    except TariffError as error:
        why_not = f"{str(error)[:1].upper()}{str(error)[1:]}."
    planned = next((each for each in home.planned_days if each.on == on), None)
    plan = None
    if inputs is not None and planned is not None and not planned.is_infeasible:
        plan = kept_plan(planned, inputs.problem)
        plan = None if plan is None else _with_pins(plan, inputs)
    names = {**{part.key: part.name for part in inputs.problem.parts()}, **_names(home)} if inputs else _names(home)
    told = None if plan is None or inputs is None else checked(inputs.problem, plan)
    chosen: ChosenRun | None = None
    starts: Sequence[OtherStart] = ()
    lanes = None
    if inputs is not None:
        lanes = PlanLanes(home, inputs.time, inputs.problem, plan, inputs.habit)
    if plan is not None and inputs is not None and lanes is not None and inputs.problem.runs:
        keys = [run.key for run in inputs.problem.runs]
        key = key if key in keys else keys[0]
        starts = other_starts(inputs.problem, plan, key)
        chosen = chosen_run(key, inputs.problem, plan, inputs.habit, starts, lanes, home.currency)
    is_broken = told is not None and not told.is_kept
    page = PlanPage(
        frame=frame_of(request, home, revision, "tariff", on),
        home=home,
        tab="plan",
        query={k: v for k, v in (("day", request.query_params.get("day", "")), ("at", key)) if v},
        on=on,
        on_text=str(on),
        day_words=show.day_long(on, home.country),
        strip=None if lanes is None or inputs is None else _strip(request, lanes, inputs, plan, key, starts),
        why_not=why_not,
        planned=planned,
        is_stale=planned is not None and not planned.is_infeasible and (plan is None or is_broken),
        cost="" if told is None else show.money(told.cost, home.currency),
        habit="" if inputs is None else show.money(checked(inputs.problem, inputs.habit).cost, home.currency),
        gap="" if planned is None else show.number(100 * planned.gap, 1),
        clash="" if planned is None or not planned.is_infeasible else clash_words(planned, names),
        chosen=chosen,
        rules=[] if planned is None or planned.is_infeasible else rule_rows(planned, names, home.currency),
        against=[]
        if told is None or inputs is None
        else against_habit(inputs.problem, told, checked(inputs.problem, inputs.habit), home.currency),
        assumed=[] if inputs is None else list(inputs.assumed),
        left_out=[] if inputs is None else [(names.get(part, "A run"), why) for part, why in inputs.left_out],
        wants=_wants(home, on, names),
        machines=[(m.id, m.name) for m in home.appliances if m.kind not in CYCLES_BY_ITSELF],
        runs=[(run.id, home.appliance(run.appliance_id).name) for run in home.wanted_runs if run.on == on],
        quiet=_quiet(home),
        job=job_view(app.work.latest(home_id, str(on)), "Plan"),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "day_plan/_plan.html" if is_fragment(request) else "day_plan/plan.html", page)


def _quiet(home: Home) -> tuple[str, str, str]:
    """Return the quiet hours as a form has them: from, to, whose."""
    if not home.plan_practice.quiet:
        return "", "", ""
    hours = home.plan_practice.quiet[0]
    return show.clock_time(hours.from_min), show.clock_time(hours.to_min), hours.room_id or ""


def _names(home: Home) -> dict[str, str]:
    return {circuit.id: circuit.name for circuit in home.circuits}


def _wants(home: Home, on: date, names: Mapping[str, str]) -> list[tuple[str, str]]:
    found = [(r.id, names.get(r.id, home.appliance(r.appliance_id).name)) for r in home.wanted_runs if r.on == on]
    found += [(each.id, each.name) for each in home.wanted_charges if each.on == on]
    found += [(each.id, each.name) for each in home.wanted_hours if each.on == on]
    return found + [(each.id, each.name) for each in home.water_stores]


def _with_pins(plan: DayPlan, inputs: PlanInputs) -> DayPlan:
    """Return a kept plan with what was pinned since then at its pin, so that its price shows at once."""
    pins = {run.key: run.pinned for run in inputs.problem.runs if run.pinned is not None}
    return replace(plan, starts={key: pins.get(key, slot) for key, slot in plan.starts.items()})


def _strip(
    request: Request, lanes: PlanLanes, inputs: PlanInputs, plan: DayPlan | None, key: str, starts: Sequence[OtherStart]
) -> DrawnStrip:
    problem = inputs.problem
    drawn = [lane for lane in (lanes.price(), lanes.sun()) if lane is not None]
    for run in problem.runs:
        cost = "" if plan is None else show.money(part_cost(problem, plan, run.key), lanes.currency)
        drawn.append(lanes.run(run, cost, is_chosen=run.key == key and plan is not None))
        if plan is not None and run.key == key:
            drawn.append(lanes.others(starts))
    watts = {part.key: _watts(inputs, plan, part.key) for part in problem.parts()}
    usual = {part.key: _watts(inputs, inputs.habit, part.key) for part in problem.parts()}
    named = [(each.key, each.name) for each in problem.loads] + [(each.key, each.name) for each in problem.charges]
    drawn += [lanes.power_part(name, watts[part], usual[part]) for part, name in named]
    for store in problem.stores:
        drawn.append(lanes.power_part(store.name, watts[store.key], usual[store.key]))
        if plan is not None:
            drawn.append(lanes.water(store, plan))
    if problem.battery is not None and plan is not None:
        drawn.append(lanes.battery(plan))
    if plan is not None:
        drawn.append(lanes.grid(checked(problem, plan), checked(problem, inputs.habit)))
    home_id = request.path_params["home_id"]
    pin = f"{request.url_for('day_plan_edit', home_id=home_id, command='pin').path}?{request.url.query}"
    width = strip_width(request, has_aside=False)
    return plan_strip(drawn, lanes, width - CHOSEN_PX if width > 700 else width, pin)


def _watts(inputs: PlanInputs, plan: DayPlan | None, key: str) -> Floats:
    if plan is None:
        return np.zeros(inputs.problem.slots)
    return part_watts(inputs.problem, load_of(inputs.problem, plan, key))


@dataclass(frozen=True, slots=True, kw_only=True)
class _RunForm:
    """A run as it is wanted."""

    appliance_id: str
    label: Word = ""
    earliest: TimeOfDay = 0
    latest: TimeOfDay = 1440
    after_id: str = ""
    after_within_min: Annotated[int, Ge(0), Le(1440)] | None = None
    heard: bool = False
    alone: bool = False
    kwh: Annotated[float, Gt(0), Le(100)] | None = None
    minutes: Annotated[int, Ge(1), Le(1440)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _ChargeForm:
    name: Name
    kwh: Annotated[float, Gt(0), Le(300)]
    earliest: TimeOfDay = 0
    latest: TimeOfDay = 1440
    steps: Annotated[str, Len(0, 80)] = "1.4, 2.3, 3.7"


@dataclass(frozen=True, slots=True, kw_only=True)
class _HoursForm:
    name: Name
    power_w: Annotated[float, Gt(0), Le(100_000)]
    hours: Annotated[float, Gt(0), Le(48)]
    least_min: Annotated[int, Ge(1), Le(1440)] = 60
    earliest: TimeOfDay = 0
    latest: TimeOfDay = 1440
    heard: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _StoreForm:
    name: Name
    kind: Literal["tank", "tub"] = "tank"
    litres: Annotated[float, Gt(0), Le(100_000), Unit("L")] = 200.0
    power_w: Annotated[float, Gt(0), Le(100_000)] = 3000.0
    loss_w_k: Annotated[float, Ge(0), Le(2000)] = 1.8
    efficiency: Annotated[float, Ge(0.5), Le(8)] = 1.0
    outdoors: bool = False
    usual_c: Annotated[float, Ge(0), Le(95), Unit("°C")] = 50.0
    low_c: Annotated[float, Ge(1), Le(95), Unit("°C")] = 40.0
    high_c: Annotated[float, Ge(5), Le(95), Unit("°C")] = 65.0
    ready_c: Annotated[float, Ge(1), Le(95), Unit("°C")] = 50.0
    ready_min: TimeOfDay = 390
    drawn_kwh: Annotated[float, Ge(0), Le(100)] = 2.0
    hygiene_c: Annotated[float, Ge(40), Le(90), Unit("°C")] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _PracticeForm:
    step: Literal["5", "15", "30", "60"] = "15"
    days: Literal["1", "2"] = "1"
    main_fuse_a: Annotated[float, Gt(0), Le(630)] | None = None
    main_volts_v: Annotated[float, Ge(12), Le(1000)] = 230.0
    main_phases: Literal["1", "3"] = "1"
    quiet_from: TimeOfDay | None = None
    quiet_to: TimeOfDay | None = None
    quiet_room: str = ""
    battery_kwh: Annotated[float, Gt(0), Le(1000)] | None = None
    battery_kw: Annotated[float, Gt(0), Le(1000)] = 3.0
    round_trip_pct: Annotated[float, Ge(30), Le(100)] = 90.0
    reserve_pct: Annotated[float, Ge(0), Le(100)] = 10.0
    start_pct: Annotated[float, Ge(0), Le(100)] = 50.0


@dataclass(frozen=True, slots=True, kw_only=True)
class _PinForm:
    id: str
    minute: Annotated[int, Ge(0), Le(2880)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Which:
    id: str


def _end(earliest: int, latest: int) -> int:
    """Return a deadline on the plan's time: before its beginning it is of the next day."""
    return latest if latest > earliest else latest + 1440


def _command(name: str, texts: Texts, home: Home, on: date) -> Command:
    if name == "run":
        form = read_form(_RunForm, texts, home.units)
        run = WantedRun(
            id=new_id(),
            appliance_id=form.appliance_id,
            on=on,
            label=form.label,
            earliest_min=form.earliest,
            latest_end_min=_end(form.earliest, form.latest),
            after_id=form.after_id or None,
            after_within_min=form.after_within_min,
            is_heard=form.heard,
            never_with_others=form.alone,
            kwh=form.kwh,
            minutes=form.minutes,
        )
        return PutWantedRun(run=run)
    if name == "charge":
        return _charge(texts, home, on)
    if name == "hours":
        hours = read_form(_HoursForm, texts, home.units)
        wanted = WantedHours(
            id=new_id(),
            name=hours.name,
            on=on,
            power_w=hours.power_w,
            hours=hours.hours,
            least_min=hours.least_min,
            earliest_min=hours.earliest,
            latest_end_min=_end(hours.earliest, hours.latest),
            is_heard=hours.heard,
        )
        return PutWantedHours(hours=wanted)
    if name == "store":
        return _store(texts, home)
    if name == "practice":
        return SetPlanPractice(practice=_practice(texts, home))
    if name == "pin":
        pinned = read_form(_PinForm, texts, home.units)
        return PinRun(run_id=pinned.id, minute=pinned.minute)
    if name == "remove":
        return RemoveWanted(part_id=read_form(_Which, texts).id)
    raise HomeError("there is no such act")


def _charge(texts: Texts, home: Home, on: date) -> PutWantedCharge:
    form = read_form(_ChargeForm, texts, home.units)
    try:
        steps = tuple(float(part) for part in form.steps.split(",") if part.strip())
    except ValueError as error:
        raise HomeError("write the powers of charging in kW with commas between, such as 1.4, 2.3, 3.7") from error
    charge = WantedCharge(
        id=new_id(),
        name=form.name,
        on=on,
        kwh=form.kwh,
        earliest_min=form.earliest,
        latest_end_min=_end(form.earliest, form.latest),
        steps_kw=steps,
    )
    return PutWantedCharge(charge=charge)


def _store(texts: Texts, home: Home) -> PutWaterStore:
    form = read_form(_StoreForm, texts, home.units)
    return PutWaterStore(
        store=WaterStore(
            id=new_id(),
            name=form.name,
            kind=form.kind,
            litres=form.litres,
            power_w=form.power_w,
            loss_w_k=form.loss_w_k,
            efficiency=form.efficiency,
            surroundings_c=None if form.outdoors else 18.0,
            usual_c=form.usual_c,
            low_c=form.low_c,
            high_c=form.high_c,
            ready_c=form.ready_c,
            ready_min=form.ready_min,
            drawn_kwh=form.drawn_kwh,
            hygiene_c=form.hygiene_c,
        )
    )


def _practice(texts: Texts, home: Home) -> PlanPractice:
    form = read_form(_PracticeForm, texts, home.units)
    quiet: tuple[QuietHours, ...] = ()
    if form.quiet_from is not None and form.quiet_to is not None:
        quiet = (QuietHours(from_min=form.quiet_from, to_min=form.quiet_to, room_id=form.quiet_room or None),)
    battery = None
    if form.battery_kwh is not None:
        battery = HomeBattery(
            capacity_kwh=form.battery_kwh,
            charge_kw=form.battery_kw,
            discharge_kw=form.battery_kw,
            round_trip=form.round_trip_pct / 100,
            reserve_pct=form.reserve_pct,
            start_pct=form.start_pct,
        )
    return PlanPractice(
        step_min={"5": 5, "15": 15, "30": 30, "60": 60}[form.step],  # type: ignore[arg-type]
        days=2 if form.days == "2" else 1,
        main_fuse_a=form.main_fuse_a,
        main_volts_v=form.main_volts_v,
        main_phases=3 if form.main_phases == "3" else 1,
        quiet=quiet,
        battery=battery,
    )


@router.get("/homes/{home_id}/day-plan", name="day_plan")
def day_plan(request: Request, home_id: str) -> Response:
    """Show the plan of a day."""
    return plan_page(request, home_id)


@router.post("/homes/{home_id}/day-plan/make", name="day_plan_make")
def plan_make(request: Request, home_id: str) -> Response:
    """Queue the making of a day's plan."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    on = day_in_view(request, home)
    plan_inputs(app, home, on)  # what is missing is said at once
    ask_to_plan(app, home_id, revision, on, person_of(request))
    return back_to(request, "day_plan", home_id, day=str(on))


@router.post("/homes/{home_id}/day-plan/{command}", name="day_plan_edit")
def plan_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on what is wanted."""
    home, _ = app_of(request).homes.load(home_id)
    on = day_in_view(request, home)
    edit = save(request, home_id, texts, lambda now: _command(command, texts, now, on))
    if is_fragment(request):
        return plan_page(request, home_id, edit.selected)
    return back_to(request, "day_plan", home_id, day=str(on), **({"at": edit.selected} if edit.selected else {}))


def _kept(request: Request, home_id: str) -> tuple[Home, PlanInputs, DayPlan, date]:
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    on = day_in_view(request, home)
    planned = next((each for each in home.planned_days if each.on == on), None)
    inputs = plan_inputs(app, home, on)
    plan = None if planned is None or planned.is_infeasible else kept_plan(planned, inputs.problem)
    if plan is None:
        raise NotKnowable("There is no plan of that day as it is wanted now.", "Plan it first.")
    return home, inputs, _with_pins(plan, inputs), on


@router.get("/homes/{home_id}/day-plan.csv", name="day_plan_csv")
def plan_csv(request: Request, home_id: str) -> Response:
    """Save a plan as CSV: each slot with its price, and what each part draws."""
    home, inputs, plan, on = _kept(request, home_id)
    problem = inputs.problem
    parts = list(problem.parts())
    loads = [load_of(problem, plan, part.key) for part in parts]
    told = checked(problem, plan)
    rows = [["time", f"price {home.currency}/kWh", *(f"{p.name} kWh" for p in parts), "from grid kWh", "sold kWh"]]
    for slot, at in enumerate(inputs.time.start_ms.tolist()):
        drawn = [f"{load[slot]:.6f}" for load in loads]
        price = f"{problem.import_price[slot]:.6f}"
        grid = [f"{told.imported_kwh[slot]:.6f}", f"{told.exported_kwh[slot]:.6f}"]
        rows.append([f"{from_ms(at):%Y-%m-%dT%H:%M:%SZ}", price, *drawn, *grid])
    headers = {"Content-Disposition": f'attachment; filename="{home.id}-plan-{on}.csv"'}
    return Response(csv_text(rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/homes/{home_id}/day-plan.json", name="day_plan_json")
def plan_json(request: Request, home_id: str) -> Response:
    """Save a plan as JSON: starts and powers by part, the price as a level for rules."""
    home, inputs, plan, on = _kept(request, home_id)
    problem, told = inputs.problem, checked(inputs.problem, plan)
    answer = {
        "on": str(on),
        "step_min": inputs.time.step_min,
        "begins": f"{from_ms(int(inputs.time.start_ms[0])):%Y-%m-%dT%H:%M:%SZ}",
        "currency": home.currency,
        "cost": round(told.cost, 4),
        "price": [round(float(p), 6) for p in problem.import_price],
        "price_level": price_levels(problem.import_price),
        "parts": [
            {"id": part.key, "name": part.name, "kwh": [round(k, 6) for k in load_of(problem, plan, part.key)]}
            for part in problem.parts()
        ],
        "starts": {
            run.name: f"{inputs.time.clock.local(int(inputs.time.start_ms[plan.starts[run.key]])):%Y-%m-%dT%H:%M%z}"
            for run in problem.runs
        },
    }
    headers = {"Content-Disposition": f'attachment; filename="{home.id}-plan-{on}.json"'}
    return Response(json.dumps(answer, indent=1, ensure_ascii=False), media_type="application/json", headers=headers)


@router.get("/homes/{home_id}/day-plan.ics", name="day_plan_ical")
def plan_ical(request: Request, home_id: str) -> Response:
    """Save the runs of a plan as iCalendar."""
    home, inputs, plan, on = _kept(request, home_id)
    body = runs_ical(home.id, inputs.problem, plan, inputs.time)
    headers = {"Content-Disposition": f'attachment; filename="{home.id}-plan-{on}.ics"'}
    return Response(body, media_type="text/calendar; charset=utf-8", headers=headers)


@dataclass(frozen=True, slots=True, kw_only=True)
class DelaySheet(Page):
    """What to press on each machine, and when."""

    home: Home
    day_words: str
    rows: list[DelayRow]


@router.get("/homes/{home_id}/day-plan/delays", name="delay_sheet")
def delay_sheet(request: Request, home_id: str) -> Response:
    """Show the sheet of delay buttons: how many hours to press for, from when on."""
    home, inputs, plan, on = _kept(request, home_id)
    _, revision = app_of(request).homes.load(home_id)
    machines = {run.id: home.appliance(run.appliance_id) for run in home.wanted_runs}
    page = DelaySheet(
        frame=frame_of(request, home, revision, "tariff", on),
        home=home,
        day_words=show.day_long(on, home.country),
        rows=delay_rows(inputs.problem, plan, inputs.time, {key: m.start_step_min for key, m in machines.items()}),
    )
    return render(request, "day_plan/delays.html", page)
