"""Routes of the signatures: the page, its acts, the cycles as a file."""

import re
from dataclasses import replace
from decimal import Decimal
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.csv_cells import csv_text
from warmeter.core.edits.home_edits import with_appliance
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.tariff_year import mean_price
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.service.homes.editing import edit_home
from warmeter.service.signatures.machines import cost_between, machine_record
from warmeter.service.signatures.meter import meter_stretch
from warmeter.service.signatures.per_load import per_load
from warmeter.service.signatures.standby import home_standby
from warmeter.web.forms import Fields, form_fields
from warmeter.web.page import app_of, back_to, frame_of, is_fragment, person_of, render, strip_width
from warmeter.web.signatures.acts import ACTS
from warmeter.web.signatures.always_on import AlwaysOnView, Wasted, always_on_view
from warmeter.web.signatures.standby_switching import cut_view
from warmeter.web.signatures.view import asked_by, signature_view
from warmeter.web.signatures.water import TYPED as WATER_TYPED
from warmeter.web.signatures.water import water_view
from warmeter.web.signatures.words import KINDS, TELLS
from warmeter.web.survey.acting import perform

router = APIRouter()
WASTE = (("waste_w", 1e6, 0.0), ("waste_h", 24.0, 24.0), ("waste_days", 366.0, 365.0))
KEPT_IN_ADDRESS = (
    "meter_from",
    "meter_to",
    *WATER_TYPED,
    *(name for name, _, _ in WASTE),
    "waste_cost",
    "loads",
    "pane",
    "switch_cost",
    "machine",
    "tells",
    "cycle",
    "from",
    "to",
    "try_w",
    "try_min",
    "hysteresis",
)


def machine_in_view(request: Request, home: Home) -> Appliance | None:
    """Return the machine that the address asks for, else the first; None of none."""
    wanted = request.query_params.get("machine", "")
    return next((a for a in home.appliances if a.id == wanted), home.appliances[0] if home.appliances else None)


def signatures_page(request: Request, home_id: str, changed: dict[str, str] | None = None) -> Response:
    """Return the page or its part; ``changed`` stands instead of what the address says."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in KEPT_IN_ADDRESS and v} | (changed or {})
    asked = asked_by(request)
    if "cycle" in query:
        asked = replace(asked, cycle=query["cycle"])
    machine = next((a for a in home.appliances if a.id == query.get("machine")), machine_in_view(request, home))
    context: dict[str, object] = {
        "frame": frame_of(request, home, revision, "signatures"),
        "home": home,
        "machine": machine,
        "pane": "machine",
        "view": None,
        "why": None,
        "query": query | ({"machine": machine.id} if machine else {}),
        "tells": TELLS,
        "kinds": KINDS,
        "notice": request.query_params.get("notice", ""),
    }
    if query.get("pane") == "always-on":
        context |= {"pane": "always-on", "view": _always_on(request, home, query)}
    elif machine is not None:
        try:
            record = machine_record(app, home, machine.id)
            width = strip_width(request, has_aside=False)
            context["view"] = signature_view(app, record, home, asked, width=width)
            context["water"] = water_view(request, app, home, machine)
            context["cut"] = cut_view(app, home, machine) if asked.tells == "finished" else None
        except NotKnowable as error:
            context["why"] = error
    return render(request, "signatures/_page.html" if is_fragment(request) else "signatures/page.html", context)


def _always_on(request: Request, home: Home, query: dict[str, str]) -> AlwaysOnView:
    """Return the pane of what is always on; what cannot be read in the address is left out."""
    app = app_of(request)
    typed = Fields(query)
    cost, loads = (typed.money(n, default=None) if query.get(n) else None for n in ("switch_cost", "loads"))
    found = home_standby(app, home)
    on = app.clock(home).local(app.as_of_ms(home.id)).date()
    price = mean_price(home, on)
    wasted = None
    if query.get("waste_w") and price is not None:
        numbers = [typed.number(n, 0, most, default=usual) for n, most, usual in WASTE]
        prevent = typed.money("waste_cost", default=Decimal(0))
        if not typed.errors:
            wasted = Wasted(
                power_w=numbers[0], hours=numbers[1], days=numbers[2], cost=max(prevent, Decimal(0)), price=price
            )
    stretch = None
    if query.get("meter_from") and query.get("meter_to") and found.meter is not None:
        days = [typed.day(name) for name in ("meter_from", "meter_to")]
        if days[0] is not None and days[1] is not None:
            stretch = meter_stretch(app, home, days[0], days[1])
    return always_on_view(
        home,
        app.clock(home),
        found,
        per_load(app, home, loads),
        cost=cost,
        loads_per_week=loads,
        wasted=wasted,
        stretch=stretch,
        width=strip_width(request, has_aside=False),
    )


@router.get("/homes/{home_id}/signatures", name="signatures")
def signatures(request: Request, home_id: str) -> Response:
    """Show a machine's cycles and settings."""
    return signatures_page(request, home_id)


@router.post("/homes/{home_id}/signatures/{act}", name="signature_act")
def signature_act(
    request: Request, home_id: str, act: str, fields: Annotated[Fields, Depends(form_fields)]
) -> Response:
    """Do one act on a machine, its cycles or its settings."""
    done = perform(request, home_id, fields, ACTS, act)
    changed = {} if done.at is None else ({"machine": done.at} if act == "new" else {"cycle": done.at})
    if is_fragment(request):
        return signatures_page(request, home_id, changed)
    machine = changed.get("machine") or fields.texts.get("machine", "")
    return back_to(
        request, "signatures", home_id, machine=machine, **{k: v for k, v in changed.items() if k != "machine"}
    )


@router.get("/homes/{home_id}/signatures/{machine_id}/cycles.csv", name="cycles_csv")
def cycles_csv(request: Request, home_id: str, machine_id: str) -> Response:
    """Save a machine's cycles as CSV; times are ISO 8601 with offset."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    record, clock = machine_record(app, home, machine_id), app.clock(home)
    rows: list[tuple[str, ...]] = [
        (
            "start",
            "end",
            "programme",
            "energy_kwh",
            "mean_w",
            "peak_w",
            "longest_pause_s",
            f"cost_{home.currency}",
            "whole",
            "origin",
        )
    ]
    for cycle in record.found.cycles:
        f = record.features(cycle)
        cost = cost_between(app, home, record, cycle.start, cycle.end)
        ends = (clock.local(record.at_ms(step)).isoformat() for step in (cycle.start, cycle.end))
        numbers = (f"{f.energy_kwh:.6f}", f"{f.mean_w:.2f}", f"{f.peak_w:.2f}", f"{cycle.longest_pause_s:g}")
        money = "" if cost is None else f"{cost:.6f}"
        rows.append((*ends, cycle.programme, *numbers, money, "yes" if cycle.is_whole else "no", cycle.origin))
    name = re.sub(r"[^a-z0-9]+", "-", f"{record.appliance.name.lower()}-cycles").strip("-") + ".csv"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(csv_text(rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/homes/{home_id}/appliances/{appliance_id}", name="edit_appliance")
def edit_appliance(
    request: Request, home_id: str, appliance_id: str, fields: Annotated[Fields, Depends(form_fields)]
) -> Response:
    """Set the window in which a machine may run."""
    home, _ = app_of(request).homes.load(home_id)
    before = home.appliance(appliance_id)
    after = replace(
        before,
        earliest_min=fields.clock("earliest", before.earliest_min),
        latest_end_min=fields.clock("latest", before.latest_end_min),
        start_step_min=fields.whole("start_step", 1, 120, before.start_step_min),
    )
    base = fields.whole("base", 0, 10**9)
    if fields.errors:
        sentence = "; ".join(f"{name}: {why}" for name, why in fields.errors.items())
        return back_to(request, "signatures", home_id, f"{sentence}. Nothing was changed.", machine=appliance_id)
    edit_home(
        app_of(request),
        home_id,
        base,
        person_of(request),
        f"{after.name}: runs from {fields.texts.get('earliest', '')} on",
        lambda h: with_appliance(h, after),
    )
    return back_to(request, "signatures", home_id, machine=appliance_id)
