"""Routes of the plan: the page, its commands, its workings, its files."""

from dataclasses import dataclass
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, Depends, File, Form, Request, UploadFile
from fastapi.responses import Response

from warmeter.core.building.room_envelope import envelope_of
from warmeter.core.edits.copy_commands import AddUsualParts, CopyRoom, CopyStorey
from warmeter.core.edits.item_commands import (
    AddNote,
    ChangeDesign,
    ChangeItem,
    FixFinding,
    MoveItem,
    PlaceItem,
    RemoveNote,
    RemovePart,
)
from warmeter.core.edits.opening_commands import AddOpening, ChangeOpening, MoveOpening
from warmeter.core.edits.room_commands import (
    AddRect,
    AddStorey,
    ChangeRect,
    ChangeRoom,
    ChangeStorey,
    DrawDescribedRoom,
    DrawDescribedRooms,
    DrawRoom,
    JoinRooms,
    MoveRoom,
    MoveRoomEdge,
    OverruleFigure,
    RemoveRect,
    RemoveRoom,
    RemoveStorey,
)
from warmeter.core.errors import NotKnowable, ReadingError
from warmeter.core.explain.survey_figures import figure_of_room
from warmeter.core.home.document import Home
from warmeter.core.units import FEET_FACTORS
from warmeter.core.weather.epw import read_epw
from warmeter.service.app import App
from warmeter.service.readings.outdoor_year import coldest_logged
from warmeter.web import format as show
from warmeter.web.floor_plan.draw import FloorPlanPicture, draw_storey
from warmeter.web.floor_plan.file import svg_file
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render, strip_width
from warmeter.web.saving import Commands, save, save_form
from warmeter.web.survey.plan_view import FloorPlanView, plan_view
from warmeter.web.survey.room_lines import rooms_typed
from warmeter.web.typed import parse_quantity
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
MOST_EPW_BYTES = 8_000_000
RIGHT_PX = 448
SHOWN = ("storey", "at", "pane")
ROOM_LINES = "room-lines"
COMMANDS: Commands = {
    "note-add": AddNote,
    "note-remove": RemoveNote,
    "storey-add": AddStorey,
    "storey-set": ChangeStorey,
    "storey-remove": RemoveStorey,
    "room-add": DrawRoom,
    "room-draw": DrawDescribedRoom,
    "rooms-draw": DrawDescribedRooms,
    "room-copy": CopyRoom,
    "storey-copy": CopyStorey,
    "room-parts": AddUsualParts,
    "room-move": MoveRoom,
    "room-edge": MoveRoomEdge,
    "room-join": JoinRooms,
    "room-remove": RemoveRoom,
    "room-set": ChangeRoom,
    "rect-set": ChangeRect,
    "rect-add": AddRect,
    "rect-remove": RemoveRect,
    "overrule": OverruleFigure,
    "opening-add": AddOpening,
    "opening-move": MoveOpening,
    "opening-set": ChangeOpening,
    "item-add": PlaceItem,
    "item-move": MoveItem,
    "item-set": ChangeItem,
    "part-remove": RemovePart,
    "design": ChangeDesign,
    "fix": FixFinding,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ColdestLogged:
    """The coldest day of the home's log, as it can be taken for the design day."""

    mean: str
    told: str
    typed: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FloorPlanPage(Page):
    """A storey drawn, with what is chosen on it."""

    home: Home
    view: FloorPlanView
    query: dict[str, str]
    at: str
    plan: FloorPlanPicture | None
    tab: str
    today: str
    design: dict[str, str]
    coldest: ColdestLogged | None


def _coldest(app: App, home: Home) -> ColdestLogged | None:
    """Return the coldest day that was logged, None where no day was."""
    try:
        found = coldest_logged(app, home)
    except NotKnowable:
        return None
    days = f"the coldest of {found.days} days logged, {show.number(found.winters, 1)} winters' worth of cold months"
    return ColdestLogged(
        mean=f"{show.temperature(found.mean_c, home)} {show.temperature_unit(home)}",
        told=f"{show.day_short(found.on, home.country)}: {days}",
        typed=show.temperature(found.mean_c, home, 1),
    )


def plan_page(request: Request, home_id: str, changed: dict[str, str] | None = None, notice: str = "") -> Response:
    """Return the plan page or its part; ``changed`` overrides what the address says of the part and the storey."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in SHOWN}
    query |= changed or {}
    width = strip_width(request, has_aside=False)
    view = plan_view(
        home,
        app.work.fits(home_id),
        width=max(300, width - RIGHT_PX) if width > 700 else max(300, width),
        storey_id=query.get("storey", ""),
        at=query.get("at", ""),
        pane=query.get("pane", "heat"),
    )
    context = FloorPlanPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        view=view,
        query=query,
        at=query.get("at", ""),
        plan=view.picture,
        tab="plan",
        today=str(app.clock(home).local(app.as_of_ms(home_id)).date()),
        design={
            "outdoor": show.temperature(home.design.outdoor_c, home, 1),
            "annual": show.temperature(home.design.annual_mean_c, home, 1),
            "unit": show.temperature_unit(home),
            "from": home.design.outdoor_from or "assumed, nobody has said",
        },
        coldest=_coldest(app, home),
        notice=notice or request.query_params.get("notice", ""),
    )
    return render(request, "survey/_plan.html" if is_fragment(request) else "survey/plan.html", context)


@router.get("/homes/{home_id}/survey", name="survey")
def survey(request: Request, home_id: str) -> Response:
    """Show the plan."""
    return plan_page(request, home_id)


def _overruled_si(home: Home, texts: Texts) -> str:
    """Return a figure typed over, in the unit in which it is stored; as it was typed where that cannot be read."""
    room = next((r for r in home.rooms if r.id == texts.get("room_id")), None)
    figures = envelope_of(home, room).figures if room is not None else ()
    unit = next((f.unit for f in figures if f.key == texts.get("figure")), "")
    try:
        return f"{parse_quantity(texts['value'], unit, home.units):.6f}" if unit in FEET_FACTORS else texts["value"]
    except ValueError:
        return texts["value"]


@router.post("/homes/{home_id}/plan/{command}", name="plan_edit")
def plan_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on the plan; a part of the page comes back, or the page itself without scripts."""
    if command == "overrule" and texts.get("value", "").strip():
        home, _ = app_of(request).homes.load(home_id)
        texts = {**texts, "value": _overruled_si(home, texts)}
    if command == ROOM_LINES:
        edit = save(request, home_id, texts, lambda home: rooms_typed(texts, home.length_unit))
    else:
        edit = save_form(request, home_id, texts, COMMANDS, command)
    changed = {} if edit.selected is None else {"at": edit.selected}
    if command in ("storey-add", "storey-copy"):
        changed = {"storey": edit.home.storeys[-1].id, "at": ""}
    if is_fragment(request):
        return plan_page(request, home_id, changed)
    query = {k: v for k, v in request.query_params.items() if k in SHOWN} | changed
    where = f"{request.url_for('survey', home_id=home_id).path}?{urlencode(query)}"
    return Response(status_code=303, headers={"Location": where})


@router.post("/homes/{home_id}/design/epw", name="design_of_epw")
def design_of_epw(
    request: Request, home_id: str, base: Annotated[int, Form()], file: Annotated[UploadFile, File()]
) -> Response:
    """Take the design temperature and the year's mean from a weather file."""
    data = file.file.read(MOST_EPW_BYTES + 1)
    if len(data) > MOST_EPW_BYTES:
        raise ReadingError(f"this file is larger than {MOST_EPW_BYTES // 1_000_000} MB; an EPW file of a year is not")
    year = read_epw(data.decode("utf-8", errors="replace").splitlines())
    told = "coldest day" if year.heating_c is None else "heating, 99.6 % of hours warmer"
    values = {
        "outdoor_c": round(year.design_c, 1),
        "annual_mean_c": round(year.mean_c, 1),
        "outdoor_from": f"weather file of {year.place or file.filename}, {told}"[:200],
    }
    save(request, home_id, {"base": str(base)}, lambda _: ChangeDesign(values=values))
    return back_to(request, "survey", home_id)


@router.get("/homes/{home_id}/plan/working/{key}", name="plan_working")
def plan_working(request: Request, home_id: str, key: str) -> Response:
    """Show how a figure of a room was worked out."""
    home, _ = app_of(request).homes.load(home_id)
    return render(request, "_working.html", WorkingPart(working=working_view(figure_of_room(home, key), home)))


@dataclass(frozen=True, slots=True, kw_only=True)
class FloorPlanFile:
    """A storey as a file of its own."""

    plan: FloorPlanPicture


@router.get("/homes/{home_id}/plan.svg", name="plan_svg")
def plan_svg(request: Request, home_id: str) -> Response:
    """Save a storey as SVG, its colours and faces inside."""
    home, _ = app_of(request).homes.load(home_id)
    storey = request.query_params.get("storey", "") or (home.storeys[0].id if home.storeys else "")
    picture = draw_storey(home, _known_storey(home, storey), width=1000, height=700)
    page = render(request, "plan.svg", FloorPlanFile(plan=picture))
    return svg_file(bytes(page.body).decode(), "plan.svg")


def _known_storey(home: Home, storey_id: str) -> str:
    return home.storey(storey_id).id
