"""Routes of sun and blinds: windows on a day, one room's curve, what its blinds spare on its log's own days."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.edits.opening_commands import ChangeOpening
from warmeter.core.errors import NotKnowable
from warmeter.core.explain.sun_figures import is_day_of_sun, sun_figure
from warmeter.core.home.document import Home
from warmeter.core.home.part import Word
from warmeter.core.home.rooms import BlindPlace
from warmeter.service.shading.blind_outcome import blind_outcome, position_now
from warmeter.web.form_reader import Texts, form_texts, read_query
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render, strip_width, units_of
from warmeter.web.saving import Commands, save_form
from warmeter.web.sun.view import PLACE_WORDS, SparedView, SunDay, WindowRow, spared_view, sun_day, window_rows
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
# The column at the right is wider here than beside a strip.
WIDER_ASIDE_PX, LEAST_DAY_PX = 168, 480
COMMANDS: Commands = {"window": ChangeOpening}


@dataclass(frozen=True, slots=True, kw_only=True)
class _Asked:
    """What an address asks: a room, and a date."""

    at: Word = ""
    on: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SunPage(Page):
    """The sun on a home's windows, one room open; ``unknown`` says what its log lacks."""

    home: Home
    tab: str
    query: dict[str, str]
    rows: list[WindowRow]
    room_id: str
    room: str
    day: SunDay | None
    spared: SparedView | None
    unknown: str
    on: str
    places: Mapping[BlindPlace, str]
    has_motor: bool


def sun_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the page of the sun or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    asked = read_query(_Asked, {k: v for k, v in request.query_params.items() if k in ("at", "on")}, units_of(request))
    today = app.clock(home).local(app.as_of_ms(home_id)).date()
    on = asked.on if asked.on is not None and is_day_of_sun(asked.on) else today
    key = asked.at if at is None else at
    positions = {o.id: position_now(app, home, o) for o in home.openings if o.blind != "none"}
    rows = window_rows(home, on, positions)
    with_sun = list(dict.fromkeys(row.room_id for row in rows))
    first = next((row.room_id for row in rows if row.opening.blind != "none"), with_sun[0] if with_sun else "")
    room_id = key if key in with_sun else first
    spared, unknown = None, ""
    if room_id:
        try:
            spared = spared_view(home, home.room(room_id), blind_outcome(app, home, home.room(room_id)))
        except NotKnowable as error:
            unknown = str(error)
    page = SunPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="sun",
        query={"at": room_id, "on": str(on)},
        rows=rows,
        room_id=room_id,
        room=home.room(room_id).name if room_id else "",
        day=sun_day(home, home.room(room_id), on, max(LEAST_DAY_PX, strip_width(request) - WIDER_ASIDE_PX))
        if room_id
        else None,
        spared=spared,
        unknown=unknown,
        on=str(on),
        places=PLACE_WORDS,
        has_motor=any(d.kind == "blind_motor" and d.is_in_service for d in home.devices),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "sun/_sun.html" if is_fragment(request) else "sun/sun.html", page)


@router.get("/homes/{home_id}/sun", name="sun")
def sun(request: Request, home_id: str) -> Response:
    """Show the sun on windows."""
    return sun_page(request, home_id)


@router.post("/homes/{home_id}/sun/{command}", name="sun_edit")
def sun_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on a window."""
    save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return sun_page(request, home_id)
    return back_to(request, "sun", home_id, at=request.query_params.get("at", ""))


@router.get("/homes/{home_id}/sun/working/{key}", name="sun_working")
def sun_working(request: Request, home_id: str, key: str) -> Response:
    """Show how a figure of the sun was worked out."""
    home, _ = app_of(request).homes.load(home_id)
    return render(request, "_working.html", WorkingPart(working=working_view(sun_figure(home, key), home)))
