"""Routes of the comparison: asked as a job, shown when it is done."""

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.service.timetable.comparisons import ComparisonRequest, ask_comparison
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.page import app_of
from warmeter.web.timetable.routes import timetable_page

router = APIRouter()


@router.post("/homes/{home_id}/timetable/compare", name="compare")
def compare(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Queue a comparison and show how far it is."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    ask_comparison(app, home, revision, read_form(ComparisonRequest, texts))
    return timetable_page(request, home_id)
