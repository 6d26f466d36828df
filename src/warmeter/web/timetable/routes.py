"""Routes of the timetable: the page, its edits, its workings."""

from typing import Annotated

from fastapi import APIRouter, Depends, Form, Request
from fastapi.responses import Response

from warmeter.core.errors import NotKnowable, WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.units import celsius_from
from warmeter.service import editing
from warmeter.service.figures import figure_of_day
from warmeter.service.machines import MachineRecord, RunPlan, machine_record, run_plan
from warmeter.service.outlook import DayOutlook, TypedWeather, day_outlook
from warmeter.web import format as show
from warmeter.web.forms import Fields, form_fields
from warmeter.web.page import bench_of, day_in_view, frame_of, is_fragment, person_of, render, strip_width
from warmeter.web.survey.acting import perform
from warmeter.web.timetable.acts import ACTS
from warmeter.web.timetable.view import day_view
from warmeter.web.working import working_view

router = APIRouter()


def typed_weather(request: Request, home: Home) -> TypedWeather | None:
    """Return the day's temperatures typed in the address, None if they are not both numbers."""
    try:
        low, high = (show.parse_number(request.query_params.get(name, "")) for name in ("low", "high"))
    except ValueError:
        return None
    low_c, high_c = (celsius_from(value, home.temperature_unit) for value in (low, high))
    return TypedWeather(low_c, high_c) if -60 <= low_c <= high_c <= 60 else None


def runs_of(request: Request, outlook: DayOutlook) -> list[tuple[MachineRecord, RunPlan]]:
    """Return the day's machine runs that can be priced."""
    found = []
    for appliance in outlook.home.appliances:
        try:
            record = machine_record(bench_of(request), outlook.home, appliance.id)
            found.append((record, run_plan(bench_of(request), outlook.home, record, outlook.day.date)))
        except WarmeterError:
            continue
    return found


def _page(request: Request, home_id: str, notice: str = "") -> Response:
    bench = bench_of(request)
    home, revision = bench.homes.load(home_id)
    on = day_in_view(request, home)
    frame = frame_of(request, home, revision, "timetable", on)
    zone = request.query_params.get("zone", "")
    query = {k: v for k, v in request.query_params.items() if k in ("low", "high", "zone")} | {"day": str(on)}
    context: dict[str, object] = {
        "frame": frame,
        "day": on,
        "notice": notice or request.query_params.get("notice", ""),
        "query": query,
    }
    try:
        outlook = day_outlook(bench, home, revision, on, typed_weather(request, home))
    except NotKnowable as error:
        return render(request, "timetable/empty.html", context | {"why": error.why, "record": error.record})
    if not outlook.rooms:
        why = "No room of this home has a heater yet, so there is nothing to time."
        return render(request, "timetable/empty.html", context | {"why": why, "record": "Add one under Survey."})
    notes = [f.room.name for f in outlook.rooms if f.fit is None or not f.fit.fit.is_fit_for_use]
    view = day_view(outlook, runs_of(request, outlook), zone_id=zone, available=strip_width(request), notes=notes)
    return render(
        request, "timetable/_day.html" if is_fragment(request) else "timetable/day.html", context | {"view": view}
    )


@router.get("/homes/{home_id}/timetable", name="timetable")
def timetable(request: Request, home_id: str) -> Response:
    """Show a day."""
    return _page(request, home_id)


@router.post("/homes/{home_id}/timetable/{act}", name="timetable_act")
def timetable_act(
    request: Request, home_id: str, act: str, fields: Annotated[Fields, Depends(form_fields)]
) -> Response:
    """Do one act on the timetable, of the day in view unless the form names another."""
    home, _ = bench_of(request).homes.load(home_id)
    view = {"day": str(day_in_view(request, home)), "scope": request.query_params.get("scope", "plan")}
    perform(request, home_id, Fields({**view, **fields.texts}), ACTS, act)
    return _page(request, home_id)


@router.post("/homes/{home_id}/undo", name="undo")
def undo(request: Request, home_id: str, base: Annotated[int, Form()]) -> Response:
    """Undo the newest change; answers with a reload of where one was."""
    editing.undo(bench_of(request), home_id, base, person_of(request))
    if is_fragment(request):
        return Response(status_code=204, headers={"HX-Refresh": "true"})
    return Response(status_code=303, headers={"Location": request.headers.get("referer", "/")})


@router.get("/homes/{home_id}/timetable/working/{key}", name="day_working")
def day_working(request: Request, home_id: str, key: str) -> Response:
    """Show how a figure of the day was worked out."""
    bench = bench_of(request)
    home, revision = bench.homes.load(home_id)
    outlook = day_outlook(bench, home, revision, day_in_view(request, home), typed_weather(request, home))
    figure = figure_of_day(outlook, runs_of(request, outlook), key)
    return render(request, "_working.html", {"working": working_view(figure, home)})
