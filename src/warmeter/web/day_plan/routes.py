"""Routes of the plan of the day: the page, wants, pins, how the home plans, files out."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.arrays import Floats
from warmeter.core.day_plan.check import checked, load_of, part_cost
from warmeter.core.day_plan.plan_rules import OtherStart, other_starts
from warmeter.core.day_plan.problem import DayPlan
from warmeter.core.day_plan.shedding import shedding
from warmeter.core.day_plan.wanted import kept_plan, part_watts, shed_ranks
from warmeter.core.errors import NotKnowable, TariffError
from warmeter.core.home.day_plans import PlannedDay
from warmeter.core.home.document import Home
from warmeter.core.home.machines import CYCLES_BY_ITSELF
from warmeter.service.day_plan.day_after import day_after_of, has_passed
from warmeter.service.day_plan.planning import PlanInputs, ask_to_plan, plan_inputs, with_pins
from warmeter.web import format as show
from warmeter.web.day_plan.day_after_view import DayAfterView, day_after_view
from warmeter.web.day_plan.plan_forms import plan_command
from warmeter.web.day_plan.plan_lanes import PlanLanes, plan_strip
from warmeter.web.day_plan.plan_view import (
    AgainstRow,
    ChosenRun,
    ConstraintRow,
    ShedRow,
    against_habit,
    chosen_run,
    clash_words,
    rule_rows,
    shed_rows,
)
from warmeter.web.day_plan.preheat_view import PreheatView, ZoneChoice, is_taken, preheat_views, zone_choices
from warmeter.web.form_reader import Texts, form_texts
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
    shed: list[ShedRow]
    shed_above: str
    against: list[AgainstRow]
    after: DayAfterView | None
    after_why: str
    assumed: list[str]
    left_out: list[tuple[str, str]]
    preheats: list[PreheatView]
    is_taken: bool
    zones: list[ZoneChoice]
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
        plan = None if plan is None else with_pins(plan, inputs)
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
    # A later forecast moves what a room comes to: that alone does not make a plan stale.
    rooms = {room.key for room in inputs.problem.rooms} if inputs else set()
    is_broken = told is not None and any(breach.key not in rooms for breach in told.breaches)
    after, after_why = (None, "") if inputs is None or plan is None else _after(request, home, inputs, plan, planned)
    order = None if plan is None or inputs is None else shedding(inputs.problem, plan, shed_ranks(home))
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
        shed=[] if order is None else shed_rows(order),
        shed_above="" if order is None else show.number(order.above_kw, 1),
        against=[]
        if told is None or inputs is None
        else against_habit(inputs.problem, told, checked(inputs.problem, inputs.habit), home.currency),
        after=after,
        after_why=after_why,
        assumed=[] if inputs is None else list(inputs.assumed),
        left_out=[] if inputs is None else [(names.get(part, "A run"), why) for part, why in inputs.left_out],
        preheats=preheat_views(home, planned),
        is_taken=is_taken(home, planned),
        zones=zone_choices(home),
        wants=_wants(home, on, names),
        machines=[(m.id, m.name) for m in home.appliances if m.kind not in CYCLES_BY_ITSELF],
        runs=[(run.id, home.appliance(run.appliance_id).name) for run in home.wanted_runs if run.on == on],
        quiet=_quiet(home),
        job=job_view(app.work.latest(home_id, str(on)), "Plan"),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "day_plan/_plan.html" if is_fragment(request) else "day_plan/plan.html", page)


def _after(
    request: Request, home: Home, inputs: PlanInputs, plan: DayPlan, planned: PlannedDay | None
) -> tuple[DayAfterView | None, str]:
    """Return a plan whose day has passed against what was, or why that is not known."""
    app = app_of(request)
    if planned is None or not has_passed(app, home, inputs):
        return None, ""
    try:
        found = day_after_of(app, home, inputs, plan)
    except NotKnowable as error:
        return None, str(error)
    return day_after_view(found, planned, inputs.time, home.currency), ""


def _quiet(home: Home) -> tuple[str, str, str]:
    """Return the quiet hours as a form has them: from, to, whose."""
    if not home.plan_practice.quiet:
        return "", "", ""
    hours = home.plan_practice.quiet[0]
    return show.clock_time(hours.from_min), show.clock_time(hours.to_min), hours.room_id or ""


def _names(home: Home) -> dict[str, str]:
    return {**{circuit.id: circuit.name for circuit in home.circuits}, **{zone.id: zone.name for zone in home.zones}}


def _wants(home: Home, on: date, names: Mapping[str, str]) -> list[tuple[str, str]]:
    found = [(r.id, names.get(r.id, home.appliance(r.appliance_id).name)) for r in home.wanted_runs if r.on == on]
    found += [(each.id, each.name) for each in home.wanted_charges if each.on == on]
    found += [(each.id, each.name) for each in home.wanted_hours if each.on == on]
    found += [(each.id, each.name) for each in home.water_stores]
    return found + [(each.id, each.name) for each in home.humidity_bands]


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
            drawn.append(lanes.water(store, plan) if store.holds == "water" else lanes.humidity(store, plan))
    for room in problem.rooms:
        drawn.append(lanes.power_part(room.name, watts[room.key], usual[room.key]))
        if plan is not None:
            drawn.append(lanes.room(room, plan))
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
    edit = save(request, home_id, texts, lambda now: plan_command(command, texts, now, on))
    if is_fragment(request):
        return plan_page(request, home_id, edit.selected)
    return back_to(request, "day_plan", home_id, day=str(on), **({"at": edit.selected} if edit.selected else {}))
