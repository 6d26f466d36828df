"""Routes of the signatures: the page, its commands, the cycles as a file."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.csv_cells import csv_text
from warmeter.core.edits.machine_commands import (
    AddCycle,
    AddMachine,
    ChangeMachine,
    ChangeRunWindow,
    CountAnew,
    ForgetCycleLabels,
    ForgetSetting,
    JoinCycles,
    MoveCycleEnd,
    NameCycle,
    NamePhase,
    RejectCycle,
    RetypeCycle,
    SplitCycle,
    UseSetting,
)
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.tariff_year import mean_price
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, Asking, MachineKind
from warmeter.core.home.presets import MACHINE_LABEL, TELLS_LABEL
from warmeter.core.saving.present_value import MOST_YEARS
from warmeter.service.signatures.machines import cost_between, machine_record
from warmeter.service.signatures.meter import meter_stretch
from warmeter.service.signatures.per_load import per_load
from warmeter.service.signatures.standby import home_standby
from warmeter.web.form_reader import FormError, Texts, form_texts, read_form, read_query
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render, strip_width
from warmeter.web.saving import Commands, save, save_form
from warmeter.web.signatures.always_on import AlwaysOnView, Wasted, always_on_view
from warmeter.web.signatures.standby_switching import CutView, cut_view
from warmeter.web.signatures.view import SignatureView, asked_by, signature_view
from warmeter.web.signatures.water import TYPED as WATER_TYPED
from warmeter.web.signatures.water import WaterView, water_view

router = APIRouter()
COMMANDS: Commands = {
    "use": UseSetting,
    "forget": ForgetSetting,
    "bound": MoveCycleEnd,
    "retype": RetypeCycle,
    "add": AddCycle,
    "none": RejectCycle,
    "split": SplitCycle,
    "join": JoinCycles,
    "name": NameCycle,
    "as-found": ForgetCycleLabels,
    "phase": NamePhase,
    "count-anew": CountAnew,
    "change": ChangeMachine,
    "new": AddMachine,
}
KEPT_IN_ADDRESS = (
    "meter_from",
    "meter_to",
    *WATER_TYPED,
    "waste_w",
    "waste_h",
    "waste_days",
    "waste_cost",
    "waste_years",
    "waste_discount",
    "waste_growth",
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


@dataclass(frozen=True, slots=True, kw_only=True)
class SignaturesPage(Page):
    """A machine's log and settings, or what is always on; ``why`` where there is no log yet."""

    home: Home
    machine: Appliance | None
    query: Mapping[str, str]
    tells: Mapping[Asking, str]
    kinds: Mapping[MachineKind, str]
    pane: str = "machine"
    view: SignatureView | AlwaysOnView | None = None
    water: WaterView | None = None
    cut: CutView | None = None
    why: NotKnowable | None = None


def signatures_page(request: Request, home_id: str, changed: dict[str, str] | None = None) -> Response:
    """Return the page or its part; ``changed`` stands instead of what the address says."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in KEPT_IN_ADDRESS and v} | (changed or {})
    asked = asked_by(request)
    if "cycle" in query:
        asked = replace(asked, cycle=query["cycle"])
    machine = next((a for a in home.appliances if a.id == query.get("machine")), machine_in_view(request, home))
    page = SignaturesPage(
        frame=frame_of(request, home, revision, "signatures"),
        notice=request.query_params.get("notice", ""),
        home=home,
        machine=machine,
        query=query | ({"machine": machine.id} if machine else {}),
        tells=TELLS_LABEL,
        kinds=MACHINE_LABEL,
    )
    if query.get("pane") == "always-on":
        page = replace(page, pane="always-on", view=_always_on(request, home, query))
    elif machine is not None:
        try:
            record = machine_record(app, home, machine.id)
            width = strip_width(request, has_aside=False)
            page = replace(
                page,
                view=signature_view(app, record, home, asked, width=width),
                water=water_view(request, app, home, machine),
                cut=cut_view(app, home, machine) if asked.tells == "finished" else None,
            )
        except NotKnowable as error:
            page = replace(page, why=error)
    return render(request, "signatures/_page.html" if is_fragment(request) else "signatures/page.html", page)


Money = Annotated[Decimal, Ge(0), Le(100)]


@dataclass(frozen=True, slots=True)
class _Standby:
    """What the pane of what is always on is asked."""

    switch_cost: Annotated[Decimal, Ge(-100), Le(100)] | None = None
    loads: Annotated[Decimal, Ge(-100), Le(100)] | None = None
    waste_w: Annotated[float, Ge(0), Le(1e6)] | None = None
    waste_h: Annotated[float, Ge(0), Le(24)] = 24.0
    waste_days: Annotated[float, Ge(0), Le(366)] = 365.0
    waste_cost: Money = Decimal(0)
    waste_years: Annotated[int, Ge(1), Le(MOST_YEARS)] = 10
    waste_discount: Annotated[Decimal, Ge(-50), Le(100)] = Decimal(3)
    waste_growth: Annotated[Decimal, Ge(-50), Le(100)] = Decimal(0)
    meter_from: date | None = None
    meter_to: date | None = None


def _always_on(request: Request, home: Home, query: dict[str, str]) -> AlwaysOnView:
    """Return the pane of what is always on; what cannot be read in the address is left out."""
    app = app_of(request)
    typed = read_query(_Standby, query)
    on = app.clock(home).local(app.heard_until_ms(home.id)).date()
    price, found, wasted = mean_price(home, on), home_standby(app, home), None
    if typed.waste_w is not None and price is not None:
        wasted = Wasted(
            power_w=typed.waste_w,
            hours=typed.waste_h,
            days=typed.waste_days,
            cost=typed.waste_cost,
            price=price,
            years=typed.waste_years,
            discount_pct=typed.waste_discount,
            growth_pct=typed.waste_growth,
        )
    stretch = None
    if typed.meter_from is not None and typed.meter_to is not None and found.meter is not None:
        stretch = meter_stretch(app, home, typed.meter_from, typed.meter_to)
    return always_on_view(
        home,
        app.clock(home),
        found,
        per_load(app, home, typed.loads),
        cost=typed.switch_cost,
        loads_per_week=typed.loads,
        wasted=wasted,
        stretch=stretch,
        width=strip_width(request, has_aside=False),
    )


@router.get("/homes/{home_id}/signatures", name="signatures")
def signatures(request: Request, home_id: str) -> Response:
    """Show a machine's cycles and settings."""
    return signatures_page(request, home_id)


@router.post("/homes/{home_id}/signatures/{command}", name="signature_edit")
def signature_edit(
    request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]
) -> Response:
    """Do one command on a machine, its cycles or its settings."""
    selected = save_form(request, home_id, texts, COMMANDS, command).selected
    changed = {} if selected is None else {"machine" if command == "new" else "cycle": selected}
    if is_fragment(request):
        return signatures_page(request, home_id, changed)
    return back_to(request, "signatures", home_id, **({"machine": texts.get("machine_id", "")} | changed))


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
    name = re.sub(r"[^a-z0-9]+", "-", f"{record.appliance.name.lower()}-runs").strip("-") + ".csv"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(csv_text(rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/homes/{home_id}/appliances/{appliance_id}", name="edit_appliance")
def edit_appliance(
    request: Request, home_id: str, appliance_id: str, texts: Annotated[Texts, Depends(form_texts)]
) -> Response:
    """Set the window in which a machine may run."""
    try:
        save(request, home_id, texts, lambda _: read_form(ChangeRunWindow, {**texts, "machine_id": appliance_id}))
    except FormError as error:
        return back_to(
            request, "signatures", home_id, f"{error}. Nothing was changed.", machine=appliance_id, refused="1"
        )
    return back_to(request, "signatures", home_id, machine=appliance_id)
