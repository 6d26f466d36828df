"""Routes of files: a home as JSON, its rooms as CSV and its archive, in and out."""

from collections.abc import Iterator
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import FileResponse, RedirectResponse, Response
from starlette.background import BackgroundTask

from warmeter.core.building.rooms_csv import rooms_to_csv
from warmeter.service.homes.archiving import bring_in_archive, written_archive
from warmeter.service.homes.homefile import bring_in, joined, put_in_place, take_rooms
from warmeter.web.page import app_of, back_to, person_of

router = APIRouter()


ZIP = b"PK\x03\x04"


def _parts(file: UploadFile) -> Iterator[bytes]:
    return iter(lambda: file.file.read(65_536), b"")


def _data(file: UploadFile) -> bytes:
    return joined(_parts(file))


@router.get("/homes/{home_id}/rooms.csv", name="rooms_csv")
def rooms_csv(request: Request, home_id: str) -> Response:
    """Save the rooms as CSV."""
    home, _ = app_of(request).homes.load(home_id)
    return Response(
        rooms_to_csv(home),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="rooms.csv"'},
    )


@router.post("/homes/{home_id}/rooms.csv", name="take_rooms_csv")
def take_rooms_csv(
    request: Request, home_id: str, base: Annotated[int, Form()], file: Annotated[UploadFile, File()]
) -> Response:
    """Take rooms from a CSV table as one revision."""
    name = file.filename or "a table"
    take_rooms(app_of(request), home_id, base, _data(file), person_of(request), name)
    return back_to(request, "survey", home_id, f"Rooms of {name} taken; undo takes them back.")


@router.post("/homes/{home_id}/home.json", name="take_home_json")
def take_home_json(
    request: Request, home_id: str, base: Annotated[int, Form()], file: Annotated[UploadFile, File()]
) -> Response:
    """Take a home's file as one revision."""
    name = file.filename or "a file"
    put_in_place(app_of(request), home_id, base, _data(file), person_of(request), name)
    return back_to(request, "survey", home_id, f"The home of {name} taken; undo takes it back.")


@router.post("/homes/bring-in", name="bring_in_home")
def bring_in_home(request: Request, file: Annotated[UploadFile, File()]) -> Response:
    """Take a home's file, or its archive, as a new home."""
    app, told = app_of(request), "Imported."
    if file.file.read(len(ZIP)) == ZIP:
        file.file.seek(0)
        home_id, name = bring_in_archive(app, _parts(file))
        told = f"{name} is imported with its revisions, readings and results."
    else:
        file.file.seek(0)
        home_id = bring_in(app, _data(file), person_of(request), file.filename or "a file")
    path = request.url_for("survey", home_id=home_id).path
    return RedirectResponse(f"{path}?notice={quote(told)}", status_code=303)


@router.get("/homes/{home_id}/archive.zip", name="archive")
def archive(request: Request, home_id: str) -> Response:
    """Save a home with its revisions, readings, events and results."""
    path = written_archive(app_of(request), home_id)
    return FileResponse(path, filename=f"{home_id}.zip", background=BackgroundTask(path.unlink, missing_ok=True))
