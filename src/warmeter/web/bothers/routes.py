"""Routes of something that bothers: the six ways in, with a home or before there is one."""

import contextlib
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import UploadFile

from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError, NotKnowable, ReadingError, WarmeterError
from warmeter.core.home.document import Home, Place
from warmeter.core.home.rooms import Room
from warmeter.core.nuisances.result import NuisanceResult
from warmeter.core.nuisances.stray_water import WATER_GROUP
from warmeter.core.nuisances.unknown_costs import UnknownCosts
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import Units, area_to, celsius_to, litres_to
from warmeter.core.wording import clock_time
from warmeter.service.homes.editing import create_home
from warmeter.service.nuisances.beginning import (
    LogAnswers,
    LogBrought,
    LogQuestions,
    begin,
    learn_room,
    tell_when_finished,
)
from warmeter.service.nuisances.cold_room_result import RoomSaid, cold_room_result
from warmeter.service.nuisances.costs_result import costs_result, counter_csv, left_on_result
from warmeter.service.nuisances.machine_result import machine_result
from warmeter.service.nuisances.warm_room_result import warm_room_result
from warmeter.service.nuisances.water_result import WaterSaid, water_result
from warmeter.service.nuisances.window_result import window_result
from warmeter.service.readings import logs
from warmeter.web import format as show
from warmeter.web.bothers.region import region_of
from warmeter.web.bothers.view import FoundView, HaveRow, found_view, have_rows
from warmeter.web.bothers.ways import WAYS, AskedInput, WayIn, way_of
from warmeter.web.form_reader import FormError, Texts, form_file, form_texts, read_form, read_query
from warmeter.web.page import (
    JobView,
    Page,
    app_of,
    frame_of,
    job_view,
    person_of,
    render,
    strip_width,
    told_width,
    units_of,
)
from warmeter.web.signatures.view import last_run_strip
from warmeter.web.strip.draw import DrawnStrip
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
READ_BYTES = 256 * 1024
COLUMN = "column."
WAYS_PX = 232  # the column of the six ways with its gap, which stands beside from a window of the second width on
BESIDE_FROM_PX, LEAST_STRIP_PX = 900, 420
# What was said for the result alone goes with its address.
SAID = tuple(field.name for said in (WaterSaid, RoomSaid) for field in fields(said))


@dataclass(frozen=True, slots=True, kw_only=True)
class BeginPage:
    """The six ways in before there is a home."""

    ways: tuple[WayIn, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class BothersPage(Page):
    """One way in: its inputs with what was typed, what the file asks, and what was found so far."""

    home: Home
    ways: tuple[WayIn, ...]
    way: WayIn
    part_id: str
    query: Mapping[str, str]
    t: Mapping[str, str]
    errors: Mapping[str, str]
    token: str
    file_name: str
    questions: LogQuestions | None
    refused: str
    found: FoundView | None
    strip: DrawnStrip | None
    have: list[HaveRow]
    job: JobView | None
    currency: str
    unit_sign: str


@router.get("/bothers", name="bothers_begin")
def begin_page(request: Request) -> Response:
    """Ask what bothers before there is a home."""
    return render(request, "bothers/begin.html", BeginPage(ways=WAYS))


@router.post("/bothers", name="begin_bothered")
def begin_home(request: Request, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Make a home of nothing but a name and a clock, and go on to a way in."""
    zone, region = texts.get("zone", ""), region_of(request)
    try:
        LocalClock(zone)
    except WarmeterError:
        zone = "UTC"
    home = Home(
        id=new_id(),
        name="My home",
        place=Place(latitude_deg=52.0, longitude_deg=0.0),
        time_zone=zone,
        country=region.country,
        currency=region.currency,
        temperature_unit=region.temperature_unit,
        length_unit=region.length_unit,
    )
    create_home(app_of(request), home, person_of(request), "Begun with what bothers")
    address = request.url_for("bothers", home_id=home.id).path
    return RedirectResponse(f"{address}?way={quote(way_of(texts.get('way', '')).key)}", status_code=303)


@router.get("/homes/{home_id}/bothers", name="bothers")
def bothers(request: Request, home_id: str) -> Response:
    """Show a way in, with what was found so far."""
    return _page(request, home_id, way_of(request.query_params.get("way", "")))


@router.post("/homes/{home_id}/bothers/{key}", name="begin_nuisance")
def answer(
    request: Request,
    home_id: str,
    key: str,
    texts: Annotated[Texts, Depends(form_texts)],
    file: Annotated[UploadFile | None, Depends(form_file)],
) -> Response:
    """Take the inputs of a way in: add the parts, import the log, and show what comes of it."""
    app, way, person = app_of(request), way_of(key), person_of(request)
    base = int(texts["base"]) if texts.get("base", "").isdecimal() else -1
    upload = None
    try:
        command = read_form(way.command, texts, units_of(request))
        upload = _upload(request, way, texts, command, file)
        log = None if upload is None else LogBrought(upload=upload, wanted=way.wanted, answers=_answers(texts))
        part_id = begin(app, home_id, base, person, command, log)
    except FormError as error:
        upload = upload or _kept(request, way, texts, file)
        return _page(request, home_id, way, texts, error.errors, upload=upload, status=422)
    except LogQuestions as asked:
        return _page(request, home_id, way, texts, questions=asked, upload=asked.upload, status=422)
    except (ReadingError, NotKnowable, HomeError) as error:
        return _page(request, home_id, way, texts, refused=str(error), upload=upload, status=422)
    _follow(request, home_id, way, part_id)
    kept = {name: texts[name] for name in SAID if texts.get(name)}
    address = request.url_for("bothers", home_id=home_id).path
    query = "&".join(f"{k}={quote(v)}" for k, v in {"way": way.key, "of": part_id, **kept}.items())
    return RedirectResponse(f"{address}?{query}", status_code=303)


@router.get("/homes/{home_id}/bothers/working", name="nuisance_working")
def working(request: Request, home_id: str) -> Response:
    """Show how a way's main number was worked out."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    found = _result(request, home, way_of(request.query_params.get("way", "")), request.query_params.get("of", ""))
    if found is None or found.figure is None:
        raise NotKnowable("There is no number to open.", "Look at the page anew.")
    return render(request, "_working.html", WorkingPart(working=working_view(found.figure, home)))


def _page(
    request: Request,
    home_id: str,
    way: WayIn,
    texts: Texts | None = None,
    errors: Mapping[str, str] | None = None,
    *,
    questions: LogQuestions | None = None,
    refused: str = "",
    upload: logs.Upload | None = None,
    status: int = 200,
) -> Response:
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    part_id = request.query_params.get("of", "")
    found = None if status != 200 else _result(request, home, way, part_id)
    job = app.work.latest(home_id, part_id) if way.key == "cold" and part_id else None
    way = replace(way, asks=tuple(replace(ask, usual=usual_of(ask, home.units)) for ask in way.asks))
    known = {ask.name: ask.usual for ask in way.asks if ask.usual} | _said(home, way, part_id)
    typed = {k: v for k, v in (texts or {}).items() if isinstance(v, str)}
    # A tick that was taken out is not sent.
    known = {k: v for k, v in known.items() if texts is None or _kind_of(way, k) != "tick"}
    view = BothersPage(
        frame=frame_of(request, home, revision, "bothers"),
        home=home,
        ways=WAYS,
        way=way,
        part_id=part_id,
        query={"way": way.key, "of": part_id, **{k: v for k, v in request.query_params.items() if k in SAID}},
        t={**known, **dict(request.query_params), **typed},
        errors=errors or {},
        token="" if upload is None else upload.token,
        file_name="" if upload is None else upload.file_name,
        questions=questions,
        refused=refused,
        found=None if found is None else found_view(home, found, part_id, way.key),
        strip=last_run_strip(app, home, part_id, _run_width(request)) if found and way.key == "machine" else None,
        have=have_rows(app, home),
        job=job_view(job, ""),
        currency=home.currency,
        unit_sign=show.temperature_unit(home),
    )
    return render(request, "bothers/page.html", view, status)


def _run_width(request: Request) -> int:
    """Return the px that a strip may take beside the six ways."""
    beside = told_width(request) >= BESIDE_FROM_PX
    return max(LEAST_STRIP_PX, strip_width(request) - (WAYS_PX if beside else 0))


def usual_of(ask: AskedInput, units: Units) -> str:
    """Return an input's usual value, temperatures and areas whole in the home's units."""
    if ask.quantity == "°C" and ask.usual:
        return f"{celsius_to(float(ask.usual), units.temperature):.0f}"
    if ask.quantity == "L/min" and ask.usual:
        return f"{litres_to(float(ask.usual), units.length):.2g}"
    return f"{area_to(float(ask.usual), units.length):.0f}" if ask.quantity == "m²" and ask.usual else ask.usual


def _kind_of(way: WayIn, name: str) -> str:
    return next((ask.kind for ask in way.asks if ask.name == name), "")


def _said(home: Home, way: WayIn, part_id: str) -> dict[str, str]:
    """Return what the home holds already of what a way asks: nothing is asked twice."""
    said: dict[str, str] = {}
    if home.notification_groups:
        group = home.notification_groups[0]
        said["tell"] = group.name.removesuffix(WATER_GROUP)
        if way.key != "water":
            said["loudness"] = group.loudness
        for name, minute in (("quiet_from", group.quiet_from_min), ("quiet_until", group.quiet_until_min)):
            said[name] = "" if minute is None else clock_time(minute)
    tariff = home.newest_tariff
    if tariff is not None and len(tariff.rates) == 1:
        said["price"] = f"{tariff.rates[0].price_per_unit.normalize():f}"
    if home.heats_with_electricity:
        said["is_heated_with_electricity"] = "on"
    machine = next((a for a in home.appliances if a.id == part_id), None)
    room = _room_of(home, part_id)
    if machine is not None:
        said["kind"] = machine.kind
    if room is not None:
        heater = home.heater_of(room.id)
        said |= {"room": room.name} | ({} if heater is None else {"heater_w": f"{heater.rated_heat_w:g}"})
        if any(device.kind == "water_valve" for device in home.devices_in(room.id)):
            said["has_valve"] = "on"
    return said


def _room_of(home: Home, part_id: str) -> Room | None:
    """Return the room that a way is about: the part itself, or what its rule listens to."""
    rule = next((r for r in home.rules if r.id == part_id), None)
    heard = {part_id} if rule is None else {s.subject_id for c in rule.conditions for s in c.signals}
    heard |= {device.room_id for device in home.devices if device.id in heard and device.room_id}
    return next((room for room in home.rooms if room.id in heard), None)


def _upload(request: Request, way: WayIn, texts: Texts, command: object, file: UploadFile | None) -> logs.Upload | None:
    """Return the file that a way lives on: sent now, kept from before, or made of two readings; ``FormError`` without one."""
    if isinstance(command, UnknownCosts):
        readings = (
            (f"{command.first_on} {clock_time(command.first_at)}", command.first_kwh),
            (f"{command.last_on} {clock_time(command.last_at)}", command.last_kwh),
        )
        return logs.keep_log(app_of(request), "meter readings.csv", [counter_csv(readings)])
    kept = _kept(request, way, texts, file)
    if kept is not None:
        return kept
    asks = next((ask for ask in way.asks if ask.kind == "file"), None)
    if asks is None or not asks.is_needed:
        return None
    raise FormError({"file": "Choose the file of the log."})


def _kept(request: Request, way: WayIn, texts: Texts, file: UploadFile | None) -> logs.Upload | None:
    """Return the file that was sent with a form, or is kept from the one before; None for none."""
    if not any(ask.kind == "file" for ask in way.asks):
        return None
    if file is not None:
        with contextlib.closing(file.file) as sent:
            parts = iter(lambda: sent.read(READ_BYTES), b"")
            return logs.keep_log(app_of(request), file.filename or "log.csv", parts)
    if texts.get("token"):
        with contextlib.suppress(WarmeterError):
            return logs.find_upload(app_of(request), texts["token"])
    return None


def _answers(texts: Texts) -> LogAnswers:
    columns = {k.removeprefix(COLUMN): int(v) for k, v in texts.items() if k.startswith(COLUMN) and v.isdecimal()}
    return LogAnswers(columns=columns, date_format=texts.get("date_format", ""), decimal=texts.get("decimal", ""))


def _follow(request: Request, home_id: str, way: WayIn, part_id: str) -> None:
    """Do what follows from a log that was imported: a setting with its rule, or a fit."""
    app = app_of(request)
    if way.key == "machine":
        with contextlib.suppress(NotKnowable):  # the page says why nothing tells its end
            tell_when_finished(app, home_id, part_id, person_of(request))
    elif way.key == "cold":
        learn_room(app, home_id, part_id)


def _result(request: Request, home: Home, way: WayIn, part_id: str) -> NuisanceResult | None:
    """Return what is known of a way in now; None before it was begun."""
    app = app_of(request)
    known = {part.id for part in home.parts()}
    if way.key in ("costs", "left-on"):
        found = (costs_result if way.key == "costs" else left_on_result)(app, home, part_id)
        return found if "of" in request.query_params else None
    if part_id not in known:
        return None
    if way.key == "water":
        return water_result(app, home, part_id, read_query(WaterSaid, request.query_params))
    if way.key == "cold":
        said = read_query(RoomSaid, request.query_params)
        return (warm_room_result if said.trouble == "warm" else cold_room_result)(app, home, part_id)
    results = {"machine": machine_result, "window": window_result}
    return results[way.key](app, home, part_id)
