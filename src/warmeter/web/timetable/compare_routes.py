"""Routes of the comparison: asked as a job, shown when it is done."""

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.errors import HomeError
from warmeter.service.timetable.comparisons import ComparisonRequest, ask_comparison
from warmeter.web.forms import Fields, form_fields
from warmeter.web.page import app_of
from warmeter.web.survey.acting import done_or_refuse
from warmeter.web.timetable.routes import timetable_page

router = APIRouter()


@router.post("/homes/{home_id}/timetable/compare", name="compare")
def compare(request: Request, home_id: str, fields: Annotated[Fields, Depends(form_fields)]) -> Response:
    """Queue a comparison and show how far it is."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    first, last = fields.day("first"), fields.day("last")
    done_or_refuse(fields)
    if first is None or last is None:
        raise HomeError("type the first and the last date of the stretch, such as 2026-01-06")
    chosen = tuple(name.removeprefix("v_") for name in fields.texts if name.startswith("v_"))
    ask_comparison(app, home, revision, ComparisonRequest(variants=chosen, first=first, last=last))
    return timetable_page(request, home_id)
