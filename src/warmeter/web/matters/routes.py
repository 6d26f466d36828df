"""Routes of what matters: the page, its commands, workings, and what changed since the last visit."""

import secrets
from dataclasses import dataclass
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.csv_cells import csv_text
from warmeter.core.edits.matter_commands import PutMatterAside, TakeMatterUp
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.put_aside import MatterKey, Reason
from warmeter.core.matters.changes import ListChange
from warmeter.core.matters.line import MatterLine
from warmeter.core.sentence import in_unit
from warmeter.service.matters.home_evidence import matters
from warmeter.service.matters.summary import keep_summary, lines_of
from warmeter.service.matters.visits import since_last_visit
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.matters.view import KIND_WORD, MattersView, matters_view
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, person_of, render
from warmeter.web.saving import save
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
BROWSER, A_YEAR_S = "wm_browser", 31_536_000


@dataclass(frozen=True, slots=True, kw_only=True)
class MattersPage(Page):
    """What matters in a home; ``chosen`` is the line that is about to be put aside."""

    home: Home
    query: dict[str, str]
    view: MattersView
    chosen: MatterLine | None


@dataclass(frozen=True, slots=True, kw_only=True)
class _PutAsideForm:
    """What a person says when a line is put aside."""

    key: MatterKey
    reason: Reason
    until: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SincePart:
    """What changed since this browser was last here."""

    at: str
    is_first: bool
    changes: tuple[ListChange, ...]


def matters_page(request: Request, home_id: str, query: dict[str, str] | None = None) -> Response:
    """Return the page or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    asked = {k: v for k, v in request.query_params.items() if k == "aside" and v} if query is None else query
    found = matters(app, home, revision)
    page = MattersPage(
        frame=frame_of(request, home, revision, "matters", stands=lines_of(home, found)),
        notice=request.query_params.get("notice", ""),
        home=home,
        query=asked,
        view=matters_view(home, found),
        chosen=next((line for line in found.lines if line.key == asked.get("aside")), None),
    )
    return render(request, "matters/_page.html" if is_fragment(request) else "matters/page.html", page)


@router.get("/homes/{home_id}/matters", name="matters")
def show_matters(request: Request, home_id: str) -> Response:
    """Show what matters in a home, worst first."""
    return matters_page(request, home_id)


@router.post("/homes/{home_id}/matters/put-aside", name="put_matter_aside")
def put_aside(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Put a line aside with a reason."""
    app = app_of(request)
    today = app.clock(app.homes.load(home_id)[0]).local(app.as_of_ms(home_id)).date()

    def command(home: Home) -> PutMatterAside:
        said = read_form(_PutAsideForm, texts, home.units)
        by = person_of(request).name
        return PutMatterAside(key=said.key, reason=said.reason, until=said.until, on=today, by=by)

    save(request, home_id, texts, command)
    return matters_page(request, home_id, {}) if is_fragment(request) else back_to(request, "matters", home_id)


@router.post("/homes/{home_id}/matters/take-up", name="take_matter_up")
def take_up(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Take a line up again."""
    save(request, home_id, texts, lambda home: read_form(TakeMatterUp, texts, home.units))
    return matters_page(request, home_id, {}) if is_fragment(request) else back_to(request, "matters", home_id)


@router.post("/homes/{home_id}/matters/seen", name="matters_seen")
def seen(request: Request, home_id: str) -> Response:
    """Tell what changed since this browser was last here, and keep what it sees now."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    browser = request.cookies.get(BROWSER, "")[:32] or secrets.token_urlsafe(18)
    found = matters(app, home, revision)
    keep_summary(app, home, found)
    since = since_last_visit(app, home, browser, found)
    at = "" if since.at_ms is None else show.moment(since.at_ms, app.clock(home), home.country)
    part = SincePart(at=at, is_first=since.at_ms is None, changes=since.changes)
    response = render(request, "matters/_since.html", part)
    response.set_cookie(BROWSER, browser, samesite="strict", httponly=True, max_age=A_YEAR_S)
    return response


@router.get("/homes/{home_id}/matters/working", name="matter_working")
def working(request: Request, home_id: str) -> Response:
    """Show how a line's amount was worked out."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    found, key = matters(app, home, revision), request.query_params.get("key", "")
    line = next((line for line in (*found.lines, *found.aside) if line.key == key), None)
    if line is None or line.figure is None:
        raise NotKnowable("This line is not there any more.", "Look at the list anew.")
    return render(request, "_working.html", WorkingPart(working=working_view(line.figure, home)))


@router.get("/homes/{home_id}/matters.csv", name="matters_csv")
def as_csv(request: Request, home_id: str) -> Response:
    """Save the list as CSV, one line a row, money in the home's currency a year."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    found = matters(app, home, revision)
    rows: list[tuple[object, ...]] = [
        ("rank", "kind", "what", "why", f"{home.currency} a year", "low", "high", "minutes", "key")
    ]
    for place, line in enumerate((*found.lines, *found.aside)):
        amounts = () if line.money is None else (line.money.value, line.money.low, line.money.high)
        rank = place + 1 if place < len(found.lines) else "put aside"
        words = (in_unit(line.sentence, home.units), in_unit(line.why, home.units))
        told = tuple(f"{each:.2f}" for each in amounts) or ("", "", "")
        rows.append((rank, KIND_WORD[line.kind], *words, *told, line.minutes, line.key))
    return Response(
        csv_text(rows),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="what-matters.csv"'},
    )
