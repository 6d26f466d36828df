"""Routes of the days that differ as iCalendar: those of somebody's calendar read in, and those of the home saved."""

from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import Response

from warmeter.core.edits.calendar_commands import AddOccasion
from warmeter.core.errors import HomeError
from warmeter.core.home.occasions import OCCASION_LABEL, OccasionKind
from warmeter.core.timetable.occasion_ical import days_of_ical, occasions_ical
from warmeter.service.homes.homefile import joined
from warmeter.web import format as show
from warmeter.web.page import app_of, back_to, units_of
from warmeter.web.saving import save

router = APIRouter()
# Calendars are laid out from so long before today until so long after it [days].
BACK_DAYS, AHEAD_DAYS = 366, 550


@router.post("/homes/{home_id}/occasions-file", name="occasions_read")
def occasions_from_ical(
    request: Request,
    home_id: str,
    base: Annotated[int, Form()],
    name: Annotated[str, Form()],
    what: Annotated[str, Form()],
    file: Annotated[UploadFile, File()],
    words: Annotated[str, Form()] = "",
    kind_id: Annotated[str, Form()] = "",
) -> Response:
    """Add the days of a calendar's events as days that differ."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    on = app.clock(home).local(app.heard_until_ms(home.id)).date()
    try:
        found = days_of_ical(
            joined(iter(lambda: file.file.read(65_536), b"")),
            home.time_zone,
            on - timedelta(days=BACK_DAYS),
            on + timedelta(days=AHEAD_DAYS),
            words.strip(),
        )
        kind: OccasionKind = next((key for key in OCCASION_LABEL if key == what), "other")
        days = " ".join(map(str, found.dates))
        command = AddOccasion(name=name.strip() or "Calendar", what=kind, dates=days, kind_id=kind_id)
        save(request, home_id, {"base": str(base)}, command)
    except HomeError as error:
        return back_to(request, "timetable", home_id, show.error_words(error, units_of(request))[:400], pane="dates")
    unread = f"; {found.unread} events could not be read" if found.unread else ""
    said = (
        f"{_counted(len(found.dates), 'day')} of {_counted(found.events, 'event')} added{unread}; undo takes them back."
    )
    return back_to(request, "timetable", home_id, said, pane="dates")


@router.get("/homes/{home_id}/days.ics", name="occasions_file")
def occasions_as_ical(request: Request, home_id: str) -> Response:
    """Save the days that differ, of the year before and of that ahead, as iCalendar."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    on: date = app.clock(home).local(app.heard_until_ms(home.id)).date()
    body = occasions_ical(home, on - timedelta(days=BACK_DAYS), on + timedelta(days=AHEAD_DAYS))
    headers = {"Content-Disposition": f'attachment; filename="{home.id}-days.ics"'}
    return Response(body, media_type="text/calendar; charset=utf-8", headers=headers)


def _counted(count: int, word: str) -> str:
    return f"{count} {word}{'s' * (count != 1)}"
