"""Routes of the live page: what is on now, growing as it happens, and what a person does there."""

import asyncio
from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, Len
from anyio.to_thread import run_sync
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response, StreamingResponse

from warmeter.core.edits.link_commands import SetLiveMode
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, SetpointC, Unit, part_names
from warmeter.core.timetable.manual_overrides import HandEnd
from warmeter.core.units import MS_PER_H
from warmeter.service.live.answering import answer_alert
from warmeter.service.live.live_now import home_now_ms, live_now
from warmeter.service.live.setting_up import play_devices
from warmeter.service.timetable.manual_overrides import end_by_hand, lay_by_hand
from warmeter.store.engine import DatabaseAway
from warmeter.store.live_alerts import KeptAlert
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.live.live_strip import BACK_H, live_strip
from warmeter.web.live.view import LiveView, TimedRow, live_view, state_words, value_words
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, person_of, render, strip_width, units_of
from warmeter.web.saving import Commands, save_form
from warmeter.web.strip.draw import DrawnStrip

router = APIRouter()
SIDE_PX = 102  # the column at the right is wider here than a working
COMMANDS: Commands = {"mode": SetLiveMode}
BEAT_S, QUIET_BEATS = 0.5, 30
MOST_LOGGED = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class LivePage(Page):
    """A home as it is now; ``view`` and ``strip`` are None where it was never linked."""

    home: Home
    query: dict[str, str]
    tab: str
    view: LiveView | None
    strip: DrawnStrip | None
    setpoints: tuple[tuple[str, str], ...]


def live_page(request: Request, home_id: str, *, is_region: bool = False) -> Response:
    """Return the live page, its part, or the region that grows."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    now = live_now(app, home, BACK_H * MS_PER_H + MS_PER_H)
    width = strip_width(request) - SIDE_PX
    page = LivePage(
        frame=frame_of(request, home, revision, "live"),
        home=home,
        query={},
        tab="now",
        view=None if now is None else live_view(now, app.clock(home)),
        strip=None if now is None else live_strip(app, now, max(width, 420)),
        setpoints=tuple((zone.id, zone.name) for zone in home.zones if home.following(zone)),
        notice=request.query_params.get("notice", ""),
    )
    if is_region:
        return render(request, "live/_now.html", page)
    return render(request, "live/_page.html" if is_fragment(request) else "live/page.html", page)


@router.get("/homes/{home_id}/live", name="live")
def live(request: Request, home_id: str) -> Response:
    """Show a home as it is now."""
    return live_page(request, home_id)


@router.get("/homes/{home_id}/live/now", name="live_now")
def live_region(request: Request, home_id: str) -> Response:
    """Show what grows of the live page."""
    return live_page(request, home_id, is_region=True)


@router.get("/homes/{home_id}/live/stream", name="live_stream")
async def live_stream(request: Request, home_id: str) -> Response:
    """Tell, as server-sent events, whenever there is something new to be seen; no database session is held."""
    app = app_of(request)
    if await run_sync(app.live_homes.find, home_id, limiter=request.app.state.finders) is None:
        return Response(status_code=204)  # a browser asks no more

    async def beats() -> AsyncIterator[str]:
        told, quiet = -1, 0
        while not await request.is_disconnected():
            try:
                version = await run_sync(app.live_homes.version, home_id, limiter=request.app.state.finders)
            except DatabaseAway:
                version = told
            if version != told:
                told, quiet = version, 0
                yield f"event: look\ndata: {version}\n\n"
            else:
                quiet += 1
                if quiet % QUIET_BEATS == 0:
                    yield ": still here\n\n"
            await asyncio.sleep(BEAT_S)

    return StreamingResponse(beats(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


@router.post("/homes/{home_id}/live/edit/{command}", name="live_edit")
def live_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Change how a home is followed."""
    save_form(request, home_id, texts, COMMANDS, command)
    return live_page(request, home_id) if is_fragment(request) else back_to(request, "live", home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerForm:
    """What is said of an alert: that it is done, one of the answers to a question, or to be told again later."""

    id: Annotated[int, Ge(1), Le(2**53)]
    kind: Literal["done", "said", "seen", "later"]
    label: Annotated[str, Len(0, 40)] = ""
    later_min: Annotated[float, Ge(1), Le(2880), Unit("min")] = 30.0


@router.post("/homes/{home_id}/live/answer", name="live_answer")
def live_answer(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Answer an alert."""
    app = app_of(request)
    form = read_form(AnswerForm, texts)
    home, revision = app.homes.load(home_id)
    answer_alert(
        app,
        home,
        revision,
        form.id,
        kind=form.kind,
        label=form.label,
        later_min=form.later_min,
        by=person_of(request).name,
    )
    return live_page(request, home_id) if is_fragment(request) else back_to(request, "live", home_id, "Answered.")


@dataclass(frozen=True, slots=True, kw_only=True)
class HandForm:
    """A zone's setpoint by hand: what is asked, and for how long."""

    zone_id: Id
    value_c: SetpointC
    for_min: Annotated[int, Ge(5), Le(10_080), Unit("min")] = 120


@router.post("/homes/{home_id}/live/by-hand", name="live_by_hand")
def live_by_hand(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Change a zone by hand from now on."""
    app = app_of(request)
    form = read_form(HandForm, texts, units_of(request))
    home, revision = app.homes.load(home_id)
    end = HandEnd(kind="for", minutes=form.for_min)
    now_ms = home_now_ms(app, home_id)
    lay_by_hand(app, home, revision, form.zone_id, person_of(request), at_ms=now_ms, end=end, value_c=form.value_c)
    return live_page(request, home_id) if is_fragment(request) else back_to(request, "live", home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReleaseForm:
    """The zone whose change by hand ends."""

    zone_id: Id


@router.post("/homes/{home_id}/live/release", name="live_release")
def live_release(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """End a zone's change by hand now: what stands below decides."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    zone_id = read_form(ReleaseForm, texts).zone_id
    end_by_hand(app, home, revision, zone_id, person_of(request), home_now_ms(app, home_id))
    return live_page(request, home_id) if is_fragment(request) else back_to(request, "live", home_id)


@router.post("/homes/{home_id}/live/begin", name="live_begin")
def live_begin(request: Request, home_id: str) -> Response:
    """Link a home for the first time, its devices played by the stand-in."""
    play_devices(app_of(request), home_id, is_on=True)
    return back_to(request, "live", home_id, "Its devices are being played. Map its topics under Links.")


@dataclass(frozen=True, slots=True, kw_only=True)
class CommandLogPage(Page):
    """What was sent and what was told, the newest first."""

    home: Home
    query: dict[str, str]
    tab: str
    commands: tuple[TimedRow, ...]
    alerts: tuple[TimedRow, ...]


@router.get("/homes/{home_id}/live/log", name="live_log")
def live_log(request: Request, home_id: str) -> Response:
    """Show the log of commands and alerts."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    clock = app.clock(home)
    names = part_names(home.command_targets)
    alerts = app.live_alerts.last(home_id, MOST_LOGGED)
    answers = app.live_alerts.answers([each.id for each in alerts])

    def became(alert: KeptAlert) -> str:
        said = answers.get(alert.id, [])
        words = [f"{a.label or a.kind} by {a.by or 'no name given'} at {show.clock_now(a.at_ms, clock)}" for a in said]
        if alert.closed_ms is not None:
            words.append(f"closed {show.clock_now(alert.closed_ms, clock)}")
        return ", ".join(words) or "open"

    page = CommandLogPage(
        frame=frame_of(request, home, revision, "live"),
        home=home,
        query={},
        tab="log",
        commands=tuple(
            TimedRow(
                time=f"{show.day_short(clock.local(c.at_ms).date(), home.country)} {clock.local(c.at_ms):%H:%M:%S}",
                what=f"{names.get(c.run.target_id, 'gone')} {value_words(home, c)}",
                why=f"{c.run.reason}: {state_words(c)}",
                is_warned=c.run.state == "lost",
            )
            for c in app.live_commands.last(home_id, MOST_LOGGED)
        ),
        alerts=tuple(
            TimedRow(
                time=f"{show.day_short(clock.local(a.begun_ms).date(), home.country)} {clock.local(a.begun_ms):%H:%M}",
                what=a.text,
                why=became(a),
                is_warned=a.closed_ms is None,
            )
            for a in alerts
        ),
    )
    return render(request, "live/log.html", page)
