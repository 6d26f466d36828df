"""Routes of changes by hand, which are events: laid, ended, forgotten, and taken into the timetable."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Le, Len
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.edits.block_commands import BlockC
from warmeter.core.edits.edit import Apply
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import InstantMs, TimeOfDay, Unit
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.manual_overrides import HandEnd
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.service.timetable import manual_overrides
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.page import app_of, day_in_view, person_of
from warmeter.web.saving import save
from warmeter.web.timetable.overrides_view import habit_key
from warmeter.web.timetable.routes import timetable_page

router = APIRouter()


_HOURS = Annotated[float, Ge(0.1), Le(31 * 24), Unit("h")]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Override:
    """A change by hand as it is typed: a setpoint or so many steps, from when, and what ends it."""

    zone_id: str
    at: TimeOfDay | None = None
    setpoint_c: BlockC | None = None
    steps: Annotated[int, Ge(-20), Le(20)] = 0
    end: Literal["until", "for", "empty", "next"]
    until: TimeOfDay | None = None
    length: _HOURS = 1.0
    reason: Annotated[str, Len(0, 200)] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class _End:
    """Which zone's change by hand is ended, and when."""

    zone_id: str
    at_ms: InstantMs | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Forget:
    """Which change by hand is forgotten."""

    number: Annotated[int, Ge(0), Le(10**12)] = 0


def _end(typed: _Override, clock: LocalClock, on: date, at_ms: int) -> HandEnd:
    if typed.end == "until":
        if typed.until is None:
            raise HomeError("type the time at which it shall end")
        until_ms = clock.instant(on, typed.until)
        return HandEnd(kind="until", at_ms=until_ms if until_ms > at_ms else until_ms + MS_PER_DAY)
    return HandEnd(kind=typed.end) if typed.end == "next" else HandEnd(kind=typed.end, minutes=round(typed.length * 60))


@router.post("/homes/{home_id}/timetable/hand/{act}", name="hand_act")
def hand_act(request: Request, home_id: str, act: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one act by hand; the document is only touched where a habit is taken into the timetable."""
    app, person = app_of(request), person_of(request)
    home, revision = app.homes.load(home_id)
    if act == "lay":
        return _lay(request, home, revision, read_form(_Override, texts, home.units))
    if act == "end":
        ended = read_form(_End, texts)
        at_ms = app.as_of_ms(home_id) if ended.at_ms is None else ended.at_ms
        manual_overrides.end_by_hand(app, home, revision, ended.zone_id, person, at_ms // MS_PER_MIN * MS_PER_MIN)
        name = home.zone_of_id(ended.zone_id).name
        return timetable_page(request, home_id, f"{name}: the change by hand is ended")
    if act == "forget":
        manual_overrides.forget_by_hand(app, home_id, read_form(_Forget, texts).number)
        return timetable_page(request, home_id, "The change by hand is forgotten")
    if act == "habit":
        return _habit(request, home, texts)
    raise HomeError("there is no such act")


def _lay(request: Request, home: Home, revision: int, typed: _Override) -> Response:
    app, on = app_of(request), day_in_view(request, home)
    clock = app.clock(home)
    at_ms = app.as_of_ms(home.id) if typed.at is None else clock.instant(on, typed.at)
    if typed.setpoint_c is None and not typed.steps:
        raise HomeError("type a setpoint, or choose so many steps warmer or cooler")
    change = manual_overrides.lay_by_hand(
        app,
        home,
        revision,
        typed.zone_id,
        person_of(request),
        at_ms=at_ms,
        end=_end(typed, clock, on, at_ms),
        value_c=typed.setpoint_c,
        steps=typed.steps,
        reason=typed.reason,
    )
    setpoint = f"{show.temperature(change.value_c, home)} {show.temperature_unit(home)}"
    until = show.moment(change.until_ms or at_ms, clock, home.country)
    return timetable_page(request, home.id, f"{home.zone_of_id(typed.zone_id).name}: {setpoint} by hand until {until}")


def _habit(request: Request, home: Home, texts: Texts) -> Response:
    key = texts.get("habit", "")
    proposed = manual_overrides.proposals(app_of(request), home)
    habit = next((h for h in proposed if habit_key(h.zone_id, h.kind_id, h.start_min) == key), None)
    if habit is None:
        raise HomeError("this is not proposed any more")
    words = f"{home.zone_of_id(habit.zone_id).name}: by hand again and again from {show.clock_time(habit.start_min)}"
    taken = Apply(change=lambda h: manual_overrides.with_habit(h, habit), summary=f"{words}, now in the timetable")
    save(request, home.id, texts, taken)
    return timetable_page(request, home.id, f"{words}: now in the timetable")
