"""Routes of homes that cannot be read, are taken away, or come back."""

from dataclasses import dataclass
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Depends, Form, Request
from fastapi.responses import RedirectResponse, Response
from zstandard import ZstdError

from warmeter.core.errors import HomeError
from warmeter.core.timegrid import LocalClock
from warmeter.service.homes import keeping
from warmeter.store.codec import unpack
from warmeter.store.homes import HomeUnreadable
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import app_of, back_to, person_of, render

router = APIRouter()
UTC_CLOCK = LocalClock("UTC")  # the home that would have a clock cannot be read


@dataclass(frozen=True, slots=True, kw_only=True)
class UnreadableHomePage:
    """What can be done with a home that cannot be read."""

    home_id: str
    name: str
    number: int
    why: str
    revisions: list[tuple[int, str, str, str]]


def unreadable_page(request: Request, home_id: str, number: int, why: str, status: int = 422) -> Response:
    """Return what can be done with a home whose document cannot be read."""
    app = app_of(request)
    line = app.homes.line(home_id)
    view = UnreadableHomePage(
        home_id=home_id,
        name=line.name if line else home_id,
        number=number,
        why=why,
        revisions=[
            (r.number, show.moment(r.at_ms, UTC_CLOCK, ""), r.author, r.summary)
            for r in keeping.readable_revisions(app, home_id)
        ],
    )
    return render(request, "homes/unreadable.html", view, status)


@router.get("/homes/{home_id}/unreadable", name="unreadable_home")
def unreadable_home(request: Request, home_id: str) -> Response:
    """Show what can be done with a home that cannot be read; one that can goes to its survey."""
    try:
        app_of(request).homes.load(home_id)
    except HomeUnreadable as error:
        return unreadable_page(request, home_id, error.number, error.why, 200)
    return back_to(request, "survey", home_id)


@router.get("/homes/{home_id}/stored", name="stored_home")
def stored_home(request: Request, home_id: str) -> Response:
    """Save a home's newest document just as it is stored, readable or not."""
    data, number = app_of(request).homes.stored(home_id)
    try:
        content, name = unpack(data), f"home-revision-{number}.json"
    except ZstdError:
        content, name = data, f"home-revision-{number}.json.zst"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, media_type="application/octet-stream", headers=headers)


@router.post("/homes/{home_id}/go-back", name="go_back")
def go_back(request: Request, home_id: str, number: Annotated[int, Form()]) -> Response:
    """Make an earlier revision the newest of a home that cannot be read."""
    keeping.go_back(app_of(request), home_id, number, person_of(request))
    return back_to(request, "survey", home_id, f"Back at revision {number}; what came after it is kept.")


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeAwayPage:
    """The question before a home is taken away."""

    home_id: str
    name: str
    days: int
    error: str


@router.get("/homes/{home_id}/take-away", name="ask_take_away")
def ask_take_away(request: Request, home_id: str) -> Response:
    """Ask for the name of a home before it is taken away."""
    line = app_of(request).homes.line(home_id)
    if line is None:
        raise HomeError("this home is not here any more; look at the list of homes")
    view = TakeAwayPage(home_id=home_id, name=line.name, days=keeping.KEPT_DAYS, error="")
    return render(request, "homes/take_away.html", view)


@router.post("/homes/{home_id}/take-away", name="take_away")
def take_away(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Take a home away, if its name was typed."""
    try:
        line = keeping.take_away(app_of(request), home_id, texts.get("name", ""))
    except HomeError as error:
        found = app_of(request).homes.line(home_id)
        view = TakeAwayPage(
            home_id=home_id, name=found.name if found else home_id, days=keeping.KEPT_DAYS, error=str(error)
        )
        return render(request, "homes/take_away.html", view, 422)
    notice = f"{line.name} is removed, and gone for good in {keeping.KEPT_DAYS} days."
    return RedirectResponse(f"/?notice={quote(notice)}", status_code=303)


@router.post("/homes/{home_id}/bring-back", name="bring_back")
def bring_back(request: Request, home_id: str) -> Response:
    """Bring a home back that was taken away."""
    app_of(request).homes.take_away(home_id, None)
    return RedirectResponse("/", status_code=303)
