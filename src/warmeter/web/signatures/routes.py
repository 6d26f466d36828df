"""Routes of the signatures."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.errors import NotKnowable
from warmeter.service.editing import edit_home, with_appliance
from warmeter.service.machines import machine_record
from warmeter.web.forms import Fields, form_fields
from warmeter.web.page import back_to, bench_of, frame_of, person_of, render, strip_width
from warmeter.web.signatures.view import signature_view

router = APIRouter()


@router.get("/homes/{home_id}/signatures", name="signatures")
def signatures(request: Request, home_id: str) -> Response:
    """Show a machine's runs and settings."""
    bench = bench_of(request)
    home, revision = bench.homes.load(home_id)
    wanted = request.query_params.get("machine", "")
    machine = next((a for a in home.appliances if a.id == wanted), home.appliances[0] if home.appliances else None)
    view: dict[str, object] = {
        "frame": frame_of(request, home, revision, "signatures"),
        "home": home,
        "machine": machine,
        "view": None,
        "why": None,
        "notice": request.query_params.get("notice", ""),
    }
    if machine is not None:
        try:
            record = machine_record(bench, home, machine.id)
            run = request.query_params.get("run", "")
            view["view"] = signature_view(
                record,
                home,
                bench.clock(home),
                shown=int(run) if run.isdigit() else -1,
                width=strip_width(request, has_aside=False),
            )
        except NotKnowable as error:
            view["why"] = error
    return render(request, "signatures/machine.html", view)


@router.post("/homes/{home_id}/appliances/{appliance_id}", name="edit_appliance")
def edit_appliance(
    request: Request, home_id: str, appliance_id: str, fields: Annotated[Fields, Depends(form_fields)]
) -> Response:
    """Set a machine's finish setting and its window."""
    home, _ = bench_of(request).homes.load(home_id)
    before = home.appliance(appliance_id)
    threshold = fields.number("threshold_w", 0, 5000, "W", default=before.threshold_w)
    wait = fields.number("wait_min", 0, 240, "min", default=before.wait_min)
    after = replace(
        before,
        threshold_w=threshold,
        wait_min=wait,
        earliest_min=fields.clock("earliest", before.earliest_min),
        latest_end_min=fields.clock("latest", before.latest_end_min),
        start_step_min=fields.whole("start_step", 1, 120, before.start_step_min),
    )
    base = fields.whole("base", 0, 10**9)
    if fields.errors:
        sentence = "; ".join(f"{name}: {why}" for name, why in fields.errors.items())
        return back_to(request, "signatures", home_id, f"{sentence}. Nothing was changed.", machine=appliance_id)
    edit_home(
        bench_of(request),
        home_id,
        base,
        person_of(request),
        f"{after.name}: finished below {threshold:g} W for {wait:g} min",
        lambda h: with_appliance(h, after),
    )
    return back_to(request, "signatures", home_id, machine=appliance_id)
