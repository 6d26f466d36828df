"""Routes of people: the day and what witnesses are worth, who lives here."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.edits.people_commands import (
    AddPerson,
    AddWitness,
    ChangeIdleTime,
    ChangePerson,
    ChangePresencePractice,
    ChangeWitness,
    KeepWitnessPrivate,
    MakeWitnessOf,
    RemovePerson,
    RemoveWitness,
    TakeProfile,
)
from warmeter.core.home.document import Home
from warmeter.core.home.people import Care, Occupant, WitnessKind
from warmeter.core.home.rooms import Room
from warmeter.core.home.witness_kinds import WITNESS_TRAITS
from warmeter.core.presence.person_presence import sure_votes
from warmeter.core.starters.idle_thing import WriteIdleRule, idle_things
from warmeter.core.timegrid import LocalClock, LocalDay
from warmeter.core.warmup.warm_arrival import SHORT_K
from warmeter.service.presence.household import HomePresenceNow, presence_of
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render, strip_width
from warmeter.web.people.arrival_view import ArrivalView
from warmeter.web.people.day_strip import people_strip
from warmeter.web.people.room_parts import (
    ROOM_PARTS,
    RoomAsked,
    room_arrival_view,
    room_asked,
    room_use_view,
    room_wait_view,
    rooms_of_part,
)
from warmeter.web.people.use_view import UseView
from warmeter.web.people.view import CARE_WORDS, PersonRow, TrustView, WitnessRow, person_rows, trust_view, witness_rows
from warmeter.web.people.wait_view import WaitView
from warmeter.web.people.ways_view import PresenceWayRow, way_rows
from warmeter.web.saving import Commands, save_form
from warmeter.web.strip.draw import DrawnStrip
from warmeter.web.zones.routes import PANES as ZONE_PANES

router = APIRouter()
# The column at the right is wider here than beside a strip.
WIDER_ASIDE_PX, LEAST_STRIP_PX = 168, 480
COMMANDS: Commands = {
    "add": AddPerson,
    "set": ChangePerson,
    "remove": RemovePerson,
    "witness": AddWitness,
    "witness-set": ChangeWitness,
    "witness-device": MakeWitnessOf,
    "witness-private": KeepWitnessPrivate,
    "witness-remove": RemoveWitness,
    "practice": ChangePresencePractice,
    "idle": ChangeIdleTime,
    "idle-rule": WriteIdleRule,
    "profile": TakeProfile,
}
PARTS = {
    "day": "The day",
    "who": "Who lives here",
    "use": "Rooms used",
    "wait": "How long to wait",
    "arrival": "Warm on arrival",
    "ways": "Ways compared",
}
CAUTION = (
    "Out never cuts frost, leak or smoke protection, and never locks or opens a door by itself. Each witness is chosen by "
    "the person whom it sees, and can be taken back. Whoever has no witness of their own is not known, and "
    "the home is then never out."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class PeoplePage(Page):
    """People of a home: a day of them, or who they are and what tells of them."""

    home: Home
    pane: str
    panes: Mapping[str, str]
    parts: Mapping[str, str]
    part_on: str
    query: dict[str, str]
    rows: list[PersonRow]
    chosen: Occupant | None
    witnesses: list[WitnessRow]
    strip: DrawnStrip | None
    rooms: list[Room]
    room: Room | None
    use: UseView | None
    wait: WaitView | None
    things: list[tuple[str, str]]
    ways: list[PresenceWayRow]
    arrival: ArrivalView | None
    arrival_missing: str
    asked: RoomAsked
    outdoor: str
    outdoor_unit: str
    short_limit: str
    today: str
    trust: TrustView | None
    day: str
    before: str
    after: str
    learnt: str
    kinds: Mapping[WitnessKind, str]
    cares: Mapping[Care, str]
    caution: str
    lead: str
    bar: str


def people_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the page of people or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    asked = request.query_params
    found = presence_of(app, home)
    clock = app.clock(home)
    end_ms = app.as_of_ms(home_id) if found is None else found.log.end_ms
    last = clock.local(end_ms - 1).date()
    last = last if found is None else _usual_day(clock.day(last), end_ms)
    try:
        on = min(max(date.fromisoformat(asked.get("on", "")), last - timedelta(days=366)), last)
    except ValueError:
        on = last
    part = asked.get("part", "")
    part = part if part in PARTS else "day" if found is not None and home.people else "who"
    key = asked.get("at", "") if at is None else at
    chosen = next((p for p in home.people if key in (p.id, *(w.id for w in p.witnesses))), None)
    chosen = chosen or (home.people[0] if home.people else None)
    strip = None
    if found is not None and part == "day":
        width = max(LEAST_STRIP_PX, strip_width(request) - WIDER_ASIDE_PX)
        strip = people_strip(home, found, clock, clock.day(on), width, end_ms)
    rooms = rooms_of_part(home, found, part)
    room = next((r for r in rooms if r.id == asked.get("room", "")), rooms[0] if rooms else None)
    asked_of_room = room_asked(home, room, request, last)
    width = max(LEAST_STRIP_PX, strip_width(request) - WIDER_ASIDE_PX)
    arrival, missing = (None, "")
    if part == "arrival" and found is not None and room is not None:
        arrival, missing = room_arrival_view(app, home, found, room, asked_of_room, width)
    page = PeoplePage(
        frame=frame_of(request, home, revision, "zones"),
        home=home,
        pane="people",
        panes=ZONE_PANES,
        parts=PARTS,
        part_on=part,
        query={"part": part, "at": "" if chosen is None else chosen.id, "on": str(on)}
        | ({"room": room.id} if room is not None and part in ROOM_PARTS else {}),
        rows=person_rows(home, found, "" if chosen is None else chosen.id),
        chosen=chosen,
        witnesses=[] if chosen is None else witness_rows(home, chosen),
        strip=strip,
        rooms=rooms,
        room=room,
        use=room_use_view(home, found, room, asked_of_room, width) if part == "use" else None,
        wait=room_wait_view(home, found, room, asked_of_room, width) if part == "wait" else None,
        things=idle_things(home, room.id) if room is not None and part == "wait" else [],
        ways=way_rows(home, found, asked_of_room.power_w, asked_of_room.per_kwh or 0.0)
        if part == "ways" and found is not None and home.people
        else [],
        arrival=arrival,
        arrival_missing=missing,
        asked=asked_of_room,
        outdoor=show.temperature(asked_of_room.outdoor_c, home, 1),
        outdoor_unit=show.temperature_unit(home),
        short_limit=f"{show.difference(SHORT_K, home)} {show.difference_unit(home)}",
        today=str(last),
        trust=None if found is None else trust_view(found, home.presence_practice.sure),
        day=show.day_short(on, home.country),
        before=str(on - timedelta(days=1)),
        after=str(min(on + timedelta(days=1), last)),
        learnt="" if found is None else _learnt(home, found),
        kinds={kind: traits.label for kind, traits in WITNESS_TRAITS.items()},
        cares=CARE_WORDS,
        caution=CAUTION,
        lead=_lead(home),
        bar=show.number(sure_votes(home.presence_practice.sure), 2),
        notice=asked.get("notice", ""),
    )
    return render(request, "people/_people.html" if is_fragment(request) else "people/people.html", page)


def _usual_day(last: LocalDay, end_ms: int) -> date:
    """Return the last day of the log, the one before where that has only begun."""
    is_begun_only = end_ms - last.start_ms < (last.end_ms - last.start_ms) // 2
    return last.date - timedelta(days=1) if is_begun_only else last.date


def _lead(home: Home) -> str:
    witnesses = sum(len(p.witnesses) for p in home.people)
    people = len(home.people)
    if not people:
        return "nobody yet"
    return f"{people} {'person' if people == 1 else 'people'}, {witnesses} witness{'es' * (witnesses != 1)}"


def _learnt(home: Home, found: HomePresenceNow) -> str:
    """Return the days that trust is learnt from."""
    clock = LocalClock(home.time_zone)
    first, last = (clock.local(at).date() for at in (found.log.start_ms, found.log.end_ms - 1))
    return f"{show.day_short(first, home.country)} to {show.day_short(last, home.country)}"


@router.get("/homes/{home_id}/people", name="people")
def people(request: Request, home_id: str) -> Response:
    """Show people."""
    return people_page(request, home_id)


@router.post("/homes/{home_id}/people/{command}", name="people_edit")
def people_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on people."""
    edit = save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return people_page(request, home_id, edit.selected)
    kept = {key: request.query_params.get(key, "") for key in ("part", "room") if key in request.query_params}
    return back_to(request, "people", home_id, **kept, at=edit.selected or "")
