"""The route of the sheet."""

from dataclasses import dataclass, field, replace

from fastapi import APIRouter, Request
from fastapi.responses import Response

from warmeter.core.errors import NotKnowable, WarmeterError
from warmeter.core.explain.settings_sheet import sheet_of
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.web.danger_words import dangers_of, too_small_of
from warmeter.web.page import Page, app_of, day_in_view, frame_of, render, strip_width
from warmeter.web.sheet.view import SheetView, sheet_view
from warmeter.web.strip.draw import DrawnStrip
from warmeter.web.timetable.lanes import strip_of
from warmeter.web.timetable.routes import runs_of, typed_weather

router = APIRouter()


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetPage(Page):
    """The settings to type for a day, or why there are none."""

    sheet: SheetView | None = None
    dangers: list[str] = field(default_factory=list)
    too_small: list[str] = field(default_factory=list)
    why: NotKnowable | None = None


@router.get("/homes/{home_id}/sheet", name="sheet")
def sheet(request: Request, home_id: str) -> Response:
    """Show the settings to type for a day."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    on = day_in_view(request, home)
    view = SheetPage(frame=frame_of(request, home, revision, "sheet", on))
    try:
        forecast = day_forecast(app, home, revision, on, typed_weather(request, home))
        view = replace(
            view,
            dangers=dangers_of(forecast),
            too_small=too_small_of(forecast),
            sheet=sheet_view(sheet_of(forecast, runs_of(request, forecast)), forecast),
        )
    except NotKnowable as error:
        view = replace(view, why=error)
    return render(request, "sheet/settings.html", view)


@router.get("/homes/{home_id}/strip.svg", name="strip_svg")
def strip_svg(request: Request, home_id: str) -> Response:
    """Save a day's strip as SVG, colours and patterns resolved inside."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    forecast = day_forecast(app, home, revision, day_in_view(request, home), typed_weather(request, home))
    if not forecast.rooms:
        raise WarmeterError("there is no strip to save yet: no room has a heater")
    strip = strip_of(forecast, runs_of(request, forecast), strip_width(request))
    return render_svg(request, strip)


@dataclass(frozen=True, slots=True, kw_only=True)
class StripFile:
    """A strip as a file of its own."""

    strip: DrawnStrip


def render_svg(request: Request, strip: DrawnStrip) -> Response:
    """Return a strip as a file of its own."""
    response = render(request, "strip.svg", StripFile(strip=strip))
    response.headers["content-type"] = "image/svg+xml"
    response.headers["content-disposition"] = 'attachment; filename="strip.svg"'
    return response
