"""Routes of revisions: undo and redo, the list, naming, comparing, restoring."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from warmeter.core.building.replacing import differences
from warmeter.core.home.document import Home
from warmeter.core.timetable.compare import Difference, written_differences
from warmeter.service.homes import editing
from warmeter.store.homes import Revision
from warmeter.web import format as show
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, person_of, render

router = APIRouter()
MOST_SHOWN = 200


@router.post("/homes/{home_id}/undo", name="undo")
def undo(request: Request, home_id: str, base: Annotated[int, Form()]) -> Response:
    """Undo the newest change; answers with a reload of where one was, or asks first where readings would go."""
    app = app_of(request)
    import_id = editing.next_undone(app, home_id).import_id
    if import_id is not None:
        ask = str(request.url_for("ask_take_back", home_id=home_id, import_id=import_id).path)
        return (
            Response(status_code=204, headers={"HX-Redirect": ask})
            if is_fragment(request)
            else RedirectResponse(ask, 303)
        )
    editing.undo(app, home_id, base, person_of(request))
    return _reload(request, base + 1)


@router.post("/homes/{home_id}/redo", name="redo")
def redo(request: Request, home_id: str, base: Annotated[int, Form()]) -> Response:
    """Bring back what was undone last; answers with a reload of where one was."""
    editing.redo(app_of(request), home_id, base, person_of(request))
    return _reload(request, base + 1)


def _reload(request: Request, revision: int) -> Response:
    """Answer with the revision that was saved: a page that undoes once more goes on from it."""
    if is_fragment(request):
        return Response(status_code=204, headers={"X-Revision": str(revision)})
    return Response(status_code=303, headers={"Location": request.headers.get("referer", "/")})


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionRow:
    """One revision in the list."""

    number: int
    when: str
    author: str
    summary: str
    name: str
    is_newest: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ComparedRevisions:
    """What two revisions differ in."""

    old: int
    new: int
    rows: list[Difference]


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionsPage(Page):
    """A home's revisions, and two of them compared."""

    home: Home
    rows: list[RevisionRow]
    more: int
    compared: ComparedRevisions | None


@router.get("/homes/{home_id}/revisions", name="revisions")
def revisions(request: Request, home_id: str) -> Response:
    """Show a home's revisions, and what one of them differs in from another or from now."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    found = app.homes.revisions(home_id)
    old = _asked(request, "old", found)
    new = _asked(request, "new", found)
    compared = None
    if old is not None:
        before, _ = app.homes.load(home_id, old)
        after, _ = app.homes.load(home_id, new or revision)
        compared = ComparedRevisions(old=old, new=new or revision, rows=difference_rows(before, after))
    view = RevisionsPage(
        frame=frame_of(request, home, revision, ""),
        home=home,
        rows=[_row(request, home, each, revision) for each in found[:MOST_SHOWN]],
        more=max(0, len(found) - MOST_SHOWN),
        compared=compared,
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "revisions/list.html", view)


def _asked(request: Request, name: str, found: list[Revision]) -> int | None:
    text = request.query_params.get(name, "")
    return int(text) if text.isdecimal() and int(text) in {r.number for r in found} else None


def _row(request: Request, home: Home, revision: Revision, newest: int) -> RevisionRow:
    return RevisionRow(
        number=revision.number,
        when=show.moment(revision.at_ms, app_of(request).clock(home), home.country),
        author=revision.author,
        summary=revision.summary,
        name=revision.name,
        is_newest=revision.number == newest,
    )


def difference_rows(before: Home, after: Home) -> list[Difference]:
    """Return every place that differs between two homes, in the home's units."""
    wired = [Difference(row.place, row.before, row.after) for row in differences(before, after)]
    rows = [*written_differences(before, after), *wired]
    if not rows and before != after:
        rows = [Difference("Survey", "drawing, heaters or figures", "changed")]
    return rows


@router.post("/homes/{home_id}/revisions/name", name="name_revision")
def name_revision(
    request: Request, home_id: str, number: Annotated[int, Form()], name: Annotated[str, Form()] = ""
) -> Response:
    """Name a revision; the newest named one is what the timetable is compared with."""
    app_of(request).homes.set_name(home_id, number, name.strip()[:80])
    word = (
        f"Revision {number} is kept as “{name.strip()[:80]}”" if name.strip() else f"Revision {number} has no name now"
    )
    return back_to(request, "revisions", home_id, word)


@router.post("/homes/{home_id}/revisions/restore", name="restore_revision")
def restore_revision(
    request: Request, home_id: str, base: Annotated[int, Form()], number: Annotated[int, Form()]
) -> Response:
    """Go back to an earlier revision, as a change that can be undone."""
    editing.restore(app_of(request), home_id, base, number, person_of(request))
    return back_to(request, "revisions", home_id, f"Revision {number} is restored; undo takes it back")
