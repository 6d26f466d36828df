"""Routes of carrying over: timetables as files out and in, looked at before they are taken."""

import json
from dataclasses import dataclass
from datetime import date
from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import Response

from warmeter.core.home.document import Home
from warmeter.core.timetable.compare import Difference
from warmeter.core.timetable.draft import FileFinding
from warmeter.service.homes.homefile import joined
from warmeter.service.readings.logs import keep_upload, upload_bytes
from warmeter.service.timetable.timetable_files import (
    FILE_ADAPTER,
    looked_at,
    take_file,
    timetable_csv,
    timetable_ical,
    timetable_json,
)
from warmeter.web.page import Page, app_of, back_to, day_in_view, frame_of, person_of, render
from warmeter.web.revisions.routes import difference_rows

router = APIRouter()
KINDS = {"json": "application/json", "csv": "text/csv; charset=utf-8", "ics": "text/calendar; charset=utf-8"}


@router.get("/homes/{home_id}/timetable.{kind}", name="timetable_file")
def timetable_out(request: Request, home_id: str, kind: str) -> Response:
    """Save the timetables as JSON, CSV or iCalendar."""
    home, _ = app_of(request).homes.load(home_id)
    if kind not in KINDS:
        return Response(status_code=404)
    on = day_in_view(request, home)
    body = {
        "json": lambda: timetable_json(home),
        "csv": lambda: timetable_csv(home).encode(),
        "ics": lambda: timetable_ical(home, on),
    }[kind]()
    name = f'attachment; filename="timetable.{kind}"'
    return Response(body, media_type=KINDS[kind], headers={"Content-Disposition": name})


@router.get("/formats/warmeter-timetable-1.schema.json", name="timetable_schema")
def schema() -> Response:
    """Save the JSON Schema of timetable files."""
    return Response(json.dumps(FILE_ADAPTER.json_schema(), indent=1), media_type="application/schema+json")


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetableFilePage(Page):
    """A timetable's file as it would be taken."""

    home: Home
    day: date
    name: str
    token: str
    findings: tuple[FileFinding, ...]
    zones: int
    rows: list[Difference]


@router.post("/homes/{home_id}/timetable-file", name="look_at_timetable")
def look_at(request: Request, home_id: str, file: Annotated[UploadFile, File()]) -> Response:
    """Look at a file: what is doubtful in it, and what it would change."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    on = day_in_view(request, home)
    data = joined(iter(lambda: file.file.read(65_536), b""))
    name = file.filename or "a file"
    taken = looked_at(home, data, name, on)
    upload = keep_upload(app, name, [data])
    view = TimetableFilePage(
        frame=frame_of(request, home, revision, "timetable", on),
        home=home,
        day=on,
        name=name,
        token=upload.token,
        findings=taken.findings,
        zones=taken.zones,
        rows=difference_rows(home, taken.home) if taken.home != home else [],
    )
    return render(request, "timetable/look.html", view)


@router.post("/homes/{home_id}/timetable-take", name="take_timetable")
def take_timetable(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    token: Annotated[str, Form()],
    name: Annotated[str, Form()] = "a file",
) -> Response:
    """Take a file that was looked at as one revision."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    on = day_in_view(request, home)
    take_file(app, home_id, base, upload_bytes(app, token), name, on, person_of(request))
    return back_to(request, "timetable", home_id, f"Timetables of {name} taken; undo takes them back.", day=str(on))
