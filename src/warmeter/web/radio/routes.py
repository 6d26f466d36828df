"""Routes of radio sensors: a capture sent in, what was read off a display against it, and a sender taken in."""

import contextlib
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal
from urllib.parse import urlencode

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import UploadFile

from warmeter.core.edits.radio_commands import AdoptSender
from warmeter.core.errors import HomeError, ReadingError
from warmeter.core.home.document import Home
from warmeter.core.home.part import SetpointC, TimeOfDay, Word
from warmeter.core.radio.odds import Ranking
from warmeter.core.radio.seen import SeenReading, SeenTouch, are_too_close, sender_of
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import celsius_to
from warmeter.service.radio.captures import adopt, capture_of, made_up_capture
from warmeter.service.readings import logs
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, form_file, form_texts, read_form
from warmeter.web.page import Page, app_of, frame_of, person_of, render, units_of
from warmeter.web.radio.view import CaptureView, capture_view

router = APIRouter()
READ_BYTES = 256 * 1024
READINGS = (1, 2, 3)
DATES = (*(f"r{number}.on" for number in READINGS), "touched_on")
# A clock shows minutes; what was read within one is taken at its middle.
MIDDLE_MS = 30_000
WARM_K, COLD_K = 1.5, -1.5


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedReading:
    """A number read off the display: date, time and temperature; a date alone is nothing read."""

    on: date | None = None
    at: TimeOfDay | None = None
    shows_c: SetpointC | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SetOnIt:
    """The channel that is set on the sensor, and when it was touched."""

    channel: Word = ""
    touched: Literal["", "hand", "sill"] = ""
    touched_on: date | None = None
    touched_at: TimeOfDay | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RadiosPage(Page):
    """A capture with what was typed; without one the question for it."""

    home: Home
    tab: str
    token: str
    file_name: str
    refused: str
    view: CaptureView | None
    t: Mapping[str, str]
    errors: Mapping[str, str]
    readings: tuple[int, ...]
    unit_sign: str


@router.get("/homes/{home_id}/radios", name="radios")
def radios(request: Request, home_id: str) -> Response:
    """Show a capture, or ask for one."""
    return _page(request, home_id, request.query_params.get("token", ""))


@router.post("/homes/{home_id}/radios", name="send_capture")
def send_capture(request: Request, home_id: str, file: Annotated[UploadFile | None, Depends(form_file)]) -> Response:
    """Take a capture to look at."""
    if file is None:
        return _page(request, home_id, "", refused="Choose the capture's file.", status=422)
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    try:
        with contextlib.closing(file.file) as sent:
            parts = iter(lambda: sent.read(READ_BYTES), b"")
            upload = logs.keep_upload(app, file.filename or "capture.jsonl", parts)
        capture_of(app, home, upload.token)
    except ReadingError as error:
        return _page(request, home_id, "", refused=str(error), status=422)
    address = request.url_for("radios", home_id=home_id).path
    return RedirectResponse(f"{address}?{urlencode({'token': upload.token})}", status_code=303)


@router.post("/homes/{home_id}/radios/made-up", name="made_up_capture")
def made_up(request: Request, home_id: str) -> Response:
    """Look at a made-up capture, with what its owner read on the display."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    token, scene = made_up_capture(app)
    query, clock = {"token": token, "channel": scene.channel}, app.clock(home)
    for number, (at_ms, shown_c) in zip(READINGS, scene.readings, strict=False):
        at = clock.local(at_ms)
        query |= {
            f"r{number}.on": str(at.date()),
            f"r{number}.at": f"{at:%H:%M}",
            f"r{number}.shows_c": f"{celsius_to(shown_c, home.temperature_unit):.1f}",
        }
    address = request.url_for("radios", home_id=home_id).path
    return RedirectResponse(f"{address}?{urlencode(query)}", status_code=303)


@router.post("/homes/{home_id}/radios/adopt", name="adopt_sender")
def adopt_sender(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Take a sender of a capture for a device, with its history."""
    app, token = app_of(request), texts.get("token", "")
    base = int(texts["base"]) if texts.get("base", "").isdecimal() else -1
    try:
        command = read_form(AdoptSender, texts, units_of(request))
        device_id, count = adopt(app, home_id, base, person_of(request), token, command)
    except FormError as error:
        return _page(request, home_id, token, texts, error.errors, status=422)
    except (ReadingError, HomeError) as error:
        return _page(request, home_id, token, texts, refused=str(error), status=422)
    notice = f"{command.address} is taken in: {count} readings. Nothing of the others was kept."
    address = request.url_for("devices", home_id=home_id).path
    return RedirectResponse(f"{address}?{urlencode({'at': device_id, 'notice': notice})}", status_code=303)


def _page(
    request: Request,
    home_id: str,
    token: str,
    texts: Texts | None = None,
    errors: Mapping[str, str] | None = None,
    *,
    refused: str = "",
    status: int = 200,
) -> Response:
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    clock, view, name = app.clock(home), None, ""
    said, usual = dict(errors or {}), ""
    if token:
        try:
            capture, name = capture_of(app, home, token), logs.find_upload(app, token).file_name
        except ReadingError as error:
            refused, token = refused or str(error), ""
        else:
            readings, touches, wrong = _seen(request, clock)
            said |= wrong
            found: Ranking | None = None
            if (readings or touches) and not wrong:
                found = sender_of(capture.transmissions, readings, touches)
            usual = str(clock.local(capture.transmissions[-1].at_ms).date())
            view = capture_view(home, clock, capture, found, are_close=are_too_close(readings))
    page = RadiosPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="devices",
        token=token,
        file_name=name,
        refused=refused,
        view=view,
        t={**dict.fromkeys(DATES, usual), **dict(request.query_params), **(texts or {})},
        errors=said,
        readings=READINGS,
        unit_sign=show.temperature_unit(home),
    )
    return render(request, "radio/page.html", page, status)


def _seen(request: Request, clock: LocalClock) -> tuple[list[SeenReading], list[SeenTouch], dict[str, str]]:
    """Return what the address says was seen, and what of it cannot be read, by field."""
    typed, units = {k: v.strip() for k, v in request.query_params.items()}, units_of(request)
    errors: dict[str, str] = {}
    about = SetOnIt()
    try:
        about = read_form(SetOnIt, typed, units)
    except FormError as error:
        errors |= error.errors
    readings = []
    for number in READINGS:
        prefix = f"r{number}."
        try:
            one = read_form(TypedReading, typed, units, prefix)
        except FormError as error:
            errors |= {
                name if name.startswith(prefix) else prefix + name: words for name, words in error.errors.items()
            }
            continue
        if one.at is None and one.shows_c is None:
            continue
        if one.on is None or one.at is None or one.shows_c is None:
            errors[f"{prefix}shows_c"] = "A reading has a date, a time and a temperature."
            continue
        at_ms = clock.instant(one.on, one.at) + MIDDLE_MS
        readings.append(SeenReading(at_ms=at_ms, value=one.shows_c, channel=about.channel or None))
    touches = []
    if about.touched:
        if about.touched_on is None or about.touched_at is None:
            errors["touched_at"] = "A touch has a date and a time."
        else:
            at_ms = clock.instant(about.touched_on, about.touched_at) + MIDDLE_MS
            touches.append(SeenTouch(at_ms=at_ms, moved_k=WARM_K if about.touched == "hand" else COLD_K))
    return readings, touches, errors
