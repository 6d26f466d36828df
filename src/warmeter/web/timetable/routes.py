"""Routes of the timetable: the page, its edits, its workings."""

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response

from warmeter.core.errors import NotKnowable, WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.units import celsius_from
from warmeter.service import editing
from warmeter.service.figures import figure_of_day
from warmeter.service.machines import MachineRecord, RunPlan, machine_record, run_plan
from warmeter.service.outlook import DayOutlook, TypedWeather, day_outlook
from warmeter.web import format as show
from warmeter.web.page import bench_of, day_in_view, frame_of, is_fragment, person_of, render, strip_width
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


def _edit(
    request: Request, home_id: str, base: int, summary: Callable[[Home], str], change: Callable[[Home], Home], fold: str
) -> Response:
    home, _ = bench_of(request).homes.load(home_id)
    editing.edit_home(bench_of(request), home_id, base, person_of(request), summary(home), change, fold)
    return _page(request, home_id)


@router.post("/homes/{home_id}/timetable/start", name="move_start")
def move_start(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    zone_id: Annotated[str, Form()],
    index: Annotated[int, Form()],
    start: Annotated[str, Form()],
) -> Response:
    """Move a block's start to a typed time of day."""
    minute = _clock(start)
    return _edit(
        request,
        home_id,
        base,
        lambda h: f"{h.zone_of_id(zone_id).name}: block starts {show.clock_time(minute)}",
        lambda h: editing.moved_start(h, zone_id, index, minute),
        f"start-{zone_id}-{index}",
    )


def _clock(text: str) -> int:
    try:
        return show.parse_clock(text)
    except ValueError as error:
        raise WarmeterError(f"{text!r} is no time of day; write it as 06:45") from error


@router.post("/homes/{home_id}/timetable/minute", name="move_start_minute")
def move_start_minute(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    zone_id: Annotated[str, Form()],
    index: Annotated[int, Form()],
    minute: Annotated[int, Form()],
) -> Response:
    """Move a block's start to a real minute of the day in view, as dragged on the strip."""
    bench = bench_of(request)
    home, _ = bench.homes.load(home_id)
    clock = bench.clock(home)
    day = clock.day(day_in_view(request, home))
    local = clock.local(day.start_ms + max(0, minute) * 60_000)
    wall = local.hour * 60 + local.minute
    return _edit(
        request,
        home_id,
        base,
        lambda h: f"{h.zone_of_id(zone_id).name}: block starts {show.clock_time(wall)}",
        lambda h: editing.moved_start(h, zone_id, index, wall),
        f"start-{zone_id}-{index}",
    )


@router.post("/homes/{home_id}/timetable/setpoint", name="set_setpoint")
def set_setpoint(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    zone_id: Annotated[str, Form()],
    index: Annotated[int, Form()],
    setpoint: Annotated[str, Form()],
    unit: Annotated[str, Form()] = "home",
) -> Response:
    """Give a block a setpoint of its own, in the home's unit, or in °C as dragged."""
    home, _ = bench_of(request).homes.load(home_id)
    try:
        value = show.parse_number(setpoint)
    except ValueError as error:
        raise WarmeterError(f"{setpoint!r} is no temperature; write a number such as 20.5") from error
    value_c = value if unit == "C" else celsius_from(value, home.temperature_unit)
    if not 4.0 <= value_c <= 32.0:
        raise WarmeterError(
            f"a setpoint lies between {show.temperature(4, home, 0)} and {show.temperature(32, home, 0)}"
        )
    return _edit(
        request,
        home_id,
        base,
        lambda h: (
            f"{h.zone_of_id(zone_id).name}: own setpoint {show.temperature(value_c, h)} {show.temperature_unit(h)}"
        ),
        lambda h: editing.own_setpoint(h, zone_id, index, value_c),
        f"top-{zone_id}-{index}",
    )


@router.post("/homes/{home_id}/timetable/level", name="set_level")
def set_level(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    zone_id: Annotated[str, Form()],
    index: Annotated[int, Form()],
    level_id: Annotated[str, Form()],
) -> Response:
    """Give a block a level and the level's own number."""
    return _edit(
        request,
        home_id,
        base,
        lambda h: f"{h.zone_of_id(zone_id).name}: block is {h.level(level_id).name}",
        lambda h: editing.set_level(h, zone_id, index, level_id, None),
        f"level-{zone_id}-{index}",
    )


@router.post("/homes/{home_id}/timetable/split", name="split_block")
def split_block(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    zone_id: Annotated[str, Form()],
    index: Annotated[int, Form()],
    at: Annotated[int | None, Form()] = None,
) -> Response:
    """Split a block, in its middle unless told where."""
    home, _ = bench_of(request).homes.load(home_id)
    day = home.zone_of_id(zone_id).day
    if not 0 <= index < len(day):
        raise WarmeterError("there is no such block")
    end = day[index + 1].start_min if index + 1 < len(day) else 1440
    minute = at if at is not None else (day[index].start_min + end) // 10 * 5
    return _edit(
        request,
        home_id,
        base,
        lambda h: f"{h.zone_of_id(zone_id).name}: block split at {show.clock_time(minute)}",
        lambda h: editing.split(h, zone_id, index, minute),
        "",
    )


@router.post("/homes/{home_id}/timetable/merge", name="merge_block")
def merge_block(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    zone_id: Annotated[str, Form()],
    index: Annotated[int, Form()],
) -> Response:
    """Merge a block with the one before it."""
    return _edit(
        request,
        home_id,
        base,
        lambda h: f"{h.zone_of_id(zone_id).name}: block merged with the one before",
        lambda h: editing.merged(h, zone_id, index),
        "",
    )


@router.post("/homes/{home_id}/timetable/run", name="move_run")
def move_run(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    appliance_id: Annotated[str, Form()],
    minute: Annotated[int, Form()],
) -> Response:
    """Plan a machine's run at a minute of the day."""
    from_ms = max(0, min(minute, 1439))
    return _edit(
        request,
        home_id,
        base,
        lambda h: f"{h.appliance(appliance_id).name}: run planned {show.clock_time(from_ms)}",
        lambda h: editing.planned_run(h, appliance_id, from_ms),
        f"run-{appliance_id}",
    )


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
