"""Routes of photos: added to a part or a step, shown, removed from sight and brought back."""

from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from warmeter.core.errors import HomeError
from warmeter.service.photos.taking import take_photo
from warmeter.web.links import link
from warmeter.web.page import app_of, person_of

router = APIRouter()


def _back(home_id: str, back: str) -> RedirectResponse:
    """Return to the page that a form names, if it is one of the home."""
    own = link("survey", home_id).rpartition("/")[0]
    where = back if back.startswith(f"{own}/") else link("survey", home_id)
    return RedirectResponse(where, status_code=303)


@router.post("/homes/{home_id}/photos", name="photo_add")
def photo_add(
    request: Request,
    home_id: str,
    about: Annotated[str, Form(max_length=24)],
    photo: Annotated[UploadFile, File()],
    step: Annotated[str, Form(max_length=80)] = "",
    back: Annotated[str, Form(max_length=2000)] = "",
) -> Response:
    """Take a photo of a part, or of a step of a checklist."""
    take_photo(app_of(request), home_id, about, step, photo.file.read(), person_of(request))
    return _back(home_id, back)


@router.get("/homes/{home_id}/photos/{number}", name="photo")
def photo(request: Request, home_id: str, number: int) -> Response:
    """Show a photo."""
    found = app_of(request).photos.picture(home_id, number)
    if found is None:
        raise HomeError("this photo is not here")
    return Response(found, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400, immutable"})


@router.post("/homes/{home_id}/photos/{number}", name="photo_mark")
def photo_mark(
    request: Request,
    home_id: str,
    number: int,
    act: Annotated[str, Form(max_length=10)],
    back: Annotated[str, Form(max_length=2000)] = "",
) -> Response:
    """Remove a photo from sight, or bring it back."""
    app = app_of(request)
    if not app.photos.mark(home_id, number, app.now_ms() if act == "remove" else None):
        raise HomeError("this photo is not here")
    return _back(home_id, back)
