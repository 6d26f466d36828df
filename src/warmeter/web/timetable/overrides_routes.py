"""Routes of changes by hand, which are events: laid, ended, forgotten, and taken into the timetable."""

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.timetable.manual_overrides import HandEnd
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.service.homes.editing import edit_home
from warmeter.service.timetable import manual_overrides
from warmeter.web import format as show
from warmeter.web.forms import Fields, form_fields
from warmeter.web.page import app_of, day_in_view, person_of
from warmeter.web.survey.acting import done_or_refuse
from warmeter.web.timetable.acts import setpoint_typed
from warmeter.web.timetable.overrides_view import ENDS, habit_key
from warmeter.web.timetable.routes import timetable_page

router = APIRouter()


def _at_ms(request: Request, home: Home, fields: Fields, name: str) -> int | None:
    """Return a typed time of the day in view, None if none was typed."""
    if not fields.texts.get(name, "").strip():
        return None
    minute = fields.clock(name)
    done_or_refuse(fields)
    return app_of(request).clock(home).instant(day_in_view(request, home), minute)


def _minutes(fields: Fields) -> int:
    minutes = fields.number("length", 0.1, 31 * 24, "h", default=1.0) * 60
    done_or_refuse(fields)
    return round(minutes)


def _end(request: Request, home: Home, fields: Fields, at_ms: int) -> HandEnd:
    kind = fields.choice("end", ENDS)
    done_or_refuse(fields)
    if kind == "until":
        until = _at_ms(request, home, fields, "until")
        if until is None:
            raise HomeError("type the time at which it shall end")
        return HandEnd(kind="until", at_ms=until if until > at_ms else until + MS_PER_DAY)
    if kind == "for":
        return HandEnd(kind="for", minutes=_minutes(fields))
    return HandEnd(kind="empty", minutes=_minutes(fields)) if kind == "empty" else HandEnd(kind="next")


@router.post("/homes/{home_id}/timetable/hand/{act}", name="hand_act")
def hand_act(request: Request, home_id: str, act: str, fields: Annotated[Fields, Depends(form_fields)]) -> Response:
    """Do one act by hand; the document is only touched where a habit is taken into the timetable."""
    app, person = app_of(request), person_of(request)
    home, revision = app.homes.load(home_id)
    zone_id = fields.texts.get("zone_id", "")
    if act == "lay":
        at_ms = _at_ms(request, home, fields, "at")
        at_ms = app.as_of_ms(home_id) if at_ms is None else at_ms
        steps = fields.whole("steps", -20, 20, default=0)
        typed = fields.texts.get("setpoint", "").strip()
        value_c = setpoint_typed(home, fields, "setpoint") if typed else None
        if value_c is None and not steps:
            raise HomeError("type a setpoint, or choose so many steps warmer or cooler")
        end = _end(request, home, fields, at_ms)
        reason = fields.text("reason", most=200)
        done_or_refuse(fields)
        change = manual_overrides.lay_by_hand(
            app, home, revision, zone_id, person, at_ms=at_ms, end=end, value_c=value_c, steps=steps, reason=reason
        )
        asked = f"{show.temperature(change.value_c, home)} {show.temperature_unit(home)}"
        until = show.moment(change.until_ms or at_ms, app.clock(home), home.country)
        return timetable_page(request, home_id, f"{home.zone_of_id(zone_id).name}: {asked} by hand until {until}")
    if act == "end":
        at_ms = fields.whole("at_ms", 0, 10**14, default=app.as_of_ms(home_id))
        done_or_refuse(fields)
        manual_overrides.end_by_hand(app, home, revision, zone_id, person, at_ms // MS_PER_MIN * MS_PER_MIN)
        return timetable_page(request, home_id, f"{home.zone_of_id(zone_id).name}: the change by hand is ended")
    if act == "forget":
        manual_overrides.forget_by_hand(app, home_id, fields.whole("number", 0, 10**12))
        return timetable_page(request, home_id, "The change by hand is forgotten")
    if act == "habit":
        return _habit(request, home, fields)
    raise HomeError("there is no such act")


def _habit(request: Request, home: Home, fields: Fields) -> Response:
    app, base = app_of(request), fields.whole("base", 0, 10**9)
    key = fields.texts.get("habit", "")
    habit = next(
        (h for h in manual_overrides.proposals(app, home) if habit_key(h.zone_id, h.kind_id, h.start_min) == key), None
    )
    if habit is None:
        raise HomeError("this is not proposed any more")
    words = f"{home.zone_of_id(habit.zone_id).name}: by hand again and again from {show.clock_time(habit.start_min)}"
    edit_home(
        app,
        home.id,
        base,
        person_of(request),
        f"{words}, now in the timetable",
        lambda h: manual_overrides.with_habit(h, habit),
    )
    return timetable_page(request, home.id, f"{words}: now in the timetable")
