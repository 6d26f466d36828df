"""Routes of the instant that counts as now for a home: set by a person, or that of the log."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response

from warmeter.core.home.part import TimeOfDay
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.page import Page, app_of, back_to, frame_of, here_of_home, render

router = APIRouter()


@dataclass(frozen=True, slots=True, kw_only=True)
class _AsOf:
    """The instant typed, by the home's clock; without a date the log says what counts as now."""

    on: date | None = None
    at: TimeOfDay = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class AsOfPage(Page):
    """What counts as now, and what it could be."""

    on: str
    at: str
    told: str
    climate: str
    last: str
    is_set: bool
    back: str


@router.get("/homes/{home_id}/as-of", name="as_of")
def as_of(request: Request, home_id: str) -> Response:
    """Ask what shall count as now."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    clock, line, now_ms = app.clock(home), app.homes.line(home_id), app.as_of_ms(home_id)
    moments = [
        "" if at_ms is None else show.moment(at_ms, clock, home.country)
        for at_ms in (line.last_climate_ms if line else None, line.last_reading_ms if line else None)
    ]
    view = AsOfPage(
        frame=frame_of(request, home, revision, "survey"),
        on=str(clock.local(now_ms).date()),
        at=f"{clock.local(now_ms):%H:%M}",
        told=show.moment(now_ms, clock, home.country),
        climate=moments[0],
        last=moments[1],
        is_set=line is not None and line.as_of_ms is not None,
        back=here_of_home(request, home_id, request.query_params.get("back", "")),
    )
    return render(request, "homes/as_of.html", view)


@router.post("/homes/{home_id}/as-of", name="set_as_of")
def set_as_of(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Set what counts as now, or leave it to the log."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    typed = read_form(_AsOf, texts)
    app.homes.set_as_of(home_id, None if typed.on is None else app.clock(home).instant(typed.on, typed.at))
    back = here_of_home(request, home_id, texts.get("back", ""))
    return RedirectResponse(back, status_code=303) if back else back_to(request, "survey", home_id)
