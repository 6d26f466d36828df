"""A plan of the day given out: CSV, JSON, calendar, and the sheet of delay buttons."""

import json
from dataclasses import dataclass
from datetime import date

from fastapi import APIRouter, Request
from fastapi.responses import Response

from warmeter.core.csv_cells import csv_text
from warmeter.core.day_plan.check import checked, load_of
from warmeter.core.day_plan.handed_out import DelayRow, delay_rows, runs_ical
from warmeter.core.day_plan.problem import DayPlan
from warmeter.core.day_plan.shedding import shedding
from warmeter.core.day_plan.wanted import kept_plan, price_levels, shed_ranks
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.timegrid import from_ms
from warmeter.service.day_plan.planning import PlanInputs, plan_inputs, with_pins
from warmeter.web import format as show
from warmeter.web.page import Page, app_of, day_in_view, frame_of, render

router = APIRouter()


def _kept(request: Request, home_id: str) -> tuple[Home, PlanInputs, DayPlan, date]:
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    on = day_in_view(request, home)
    planned = next((each for each in home.planned_days if each.on == on), None)
    inputs = plan_inputs(app, home, on)
    plan = None if planned is None or planned.is_infeasible else kept_plan(planned, inputs.problem)
    if plan is None:
        raise NotKnowable("There is no plan of that day as it is wanted now.", "Plan it first.")
    return home, inputs, with_pins(plan, inputs), on


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
    order = shedding(problem, plan, shed_ranks(home))
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
        "left_out_first": None
        if order is None
        else {
            "above_kw": round(order.above_kw, 3),
            "parts": [{"id": p.key, "name": p.name, "kw": round(p.power_kw, 3)} for p in order.parts],
        },
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
