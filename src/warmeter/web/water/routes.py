"""Routes of water: points, what shuts and what senses them, tests of alarm paths, where the next sensor goes."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.edits.item_commands import RemovePart
from warmeter.core.edits.water_commands import (
    AddWaterPoint,
    ChangeWaterPoint,
    ChangeWaterPractice,
    ReachSensor,
    RemoveSelfTest,
    ShutPoint,
    WriteSelfTest,
)
from warmeter.core.explain.home_water import HomeWater, PointWater, home_water
from warmeter.core.explain.water_figures import water_figure
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.water import WaterPoint, WaterPointKind
from warmeter.core.water.usual_points import USUAL_POINT
from warmeter.service.readings.water_flow import usual_long_flows
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render
from warmeter.web.saving import Commands, save_form
from warmeter.web.survey.plan_view import FindingRow, finding_rows
from warmeter.web.water.drawing import WaterPicture, water_picture
from warmeter.web.water.view import (
    CaseRow,
    PathView,
    PlaceRow,
    SensorRow,
    WayRow,
    case_rows,
    drip_words,
    false_alarm_words,
    pair_note,
    path_views,
    place_rows,
    point_words,
    sensor_rows,
    way_rows,
)
from warmeter.web.work.checklist_view import CHECKLIST_COMMANDS
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
COMMANDS: Commands = {
    "add": AddWaterPoint,
    "set": ChangeWaterPoint,
    "remove": RemovePart,
    "shut": ShutPoint,
    "reach": ReachSensor,
    "test": WriteSelfTest,
    "test-remove": RemoveSelfTest,
    "practice": ChangeWaterPractice,
    **CHECKLIST_COMMANDS,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class PointRow:
    """A point of water in the list."""

    id: str
    name: str
    words: str
    room: str
    shut_by: str
    sensed_by: str
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenPoint:
    """The chosen point: its cases, ways of noticing it, and what can be said of it."""

    point: WaterPoint
    words: str
    leaks: str
    cases: list[CaseRow]
    ways: list[WayRow]
    valves: list[Device]
    free_valves: list[Device]
    sensors: list[tuple[Device, str]]
    free_sensors: list[Device]


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterPage(Page):
    """The water of a home, one point open."""

    home: Home
    tab: str
    query: dict[str, str]
    picture: WaterPicture | None
    points: list[PointRow]
    chosen: ChosenPoint | None
    places: list[PlaceRow]
    pair: str
    sensors: list[SensorRow]
    paths: list[PathView]
    findings: list[FindingRow]
    drip: str
    false_alarms: str
    kinds: Mapping[WaterPointKind, str]
    today: str


def water_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the page of water or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    key = request.query_params.get("at", "") if at is None else at
    point = next((p for p in home.water_points if p.id == key), home.water_points[0] if home.water_points else None)
    today = app.clock(home).local(app.as_of_ms(home_id)).date()
    found = home_water(home)
    own = {p.id for p in home.water_points} | {c.id for c in home.safety_chains if c.kind == "leak"}
    page = WaterPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="water",
        query={"at": "" if point is None else point.id},
        picture=_picture(home, found, point),
        points=[_point_row(home, each, each.point is point) for each in found.points.values()],
        chosen=None if point is None else _chosen(home, found.points[point.id]),
        places=place_rows(home, found),
        pair=pair_note(home, found),
        sensors=sensor_rows(home, found),
        paths=path_views(home, found, today, app.photos.lines(home_id)),
        findings=[row for row in finding_rows(home, findings_of(home)) if row.place in own],
        drip=drip_words(home),
        false_alarms=false_alarm_words(home, usual_long_flows(app, home)),
        kinds={kind: usual.word for kind, usual in USUAL_POINT.items()},
        today=str(today),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "water/_water.html" if is_fragment(request) else "water/water.html", page)


def _picture(home: Home, found: HomeWater, point: WaterPoint | None) -> WaterPicture | None:
    """Return the picture of the storey of a point, else of the first one with rooms."""
    rooms = {room.id: room for room in home.rooms if room.rects}
    room = rooms.get(point.room_id or "") if point is not None else None
    room = room or next(iter(rooms.values()), None)
    if room is None or room.storey_id is None or not home.water_points:
        return None
    return water_picture(home, found, room.storey_id, "" if point is None else point.id)


def _point_row(home: Home, own: PointWater, is_on: bool) -> PointRow:
    point = own.point
    return PointRow(
        id=point.id,
        name=point.name,
        words=point_words(home, own),
        room="" if point.room_id is None else home.room(point.room_id).name,
        shut_by=", ".join(home.device(key).name for key in point.valve_ids),
        sensed_by=", ".join(home.device(reach.device_id).name for reach in point.reaches),
        is_on=is_on,
    )


def _chosen(home: Home, own: PointWater) -> ChosenPoint:
    point = own.point
    reached = {reach.device_id: reach for reach in point.reaches}
    usable = [d for d in home.devices if d.is_in_service]
    return ChosenPoint(
        point=point,
        words=point_words(home, own),
        leaks=f"{own.leaks_year:g}",
        cases=case_rows(home, own),
        ways=way_rows(home, own),
        valves=[home.device(key) for key in point.valve_ids],
        free_valves=[d for d in usable if d.kind == "water_valve" and d.id not in point.valve_ids],
        sensors=[
            (home.device(key), "as usual" if reach.wet_s is None else f"{reach.wet_s:g} s")
            for key, reach in reached.items()
        ],
        free_sensors=[d for d in usable if d.kind == "leak_sensor" and d.id not in reached],
    )


@router.get("/homes/{home_id}/water", name="water")
def water(request: Request, home_id: str) -> Response:
    """Show the water."""
    return water_page(request, home_id)


@router.post("/homes/{home_id}/water/{command}", name="water_edit")
def water_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on water."""
    edit = save_form(request, home_id, texts, COMMANDS, command)
    at = edit.selected if edit.selected is not None else request.query_params.get("at", "")
    if is_fragment(request):
        return water_page(request, home_id, at)
    return back_to(request, "water", home_id, at=at)


@router.get("/homes/{home_id}/water/working/{key}", name="water_working")
def water_working(request: Request, home_id: str, key: str) -> Response:
    """Show how a figure of water was worked out."""
    home, _ = app_of(request).homes.load(home_id)
    return render(request, "_working.html", WorkingPart(working=working_view(water_figure(home, key), home)))
