"""Routes of the bench: the stand-in that plays a home's devices, its speed, its faults by a click."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.home.device_kinds import DEVICE_LABEL
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id
from warmeter.service.live.setting_up import play_devices, set_speed
from warmeter.service.live.stand_in import (
    BENCH_EVENT,
    BENCH_WORDS,
    MACHINE_EVENT,
    BenchFault,
    bench_faults,
    fault_choices,
    is_played,
)
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.page import Page, app_of, frame_of, is_fragment, render

router = APIRouter()
SPEEDS = (1, 10, 20, 60, 300, 1200, 3600)


@dataclass(frozen=True, slots=True, kw_only=True)
class BenchRow:
    """A device on the bench: what it is, and the faults that can be set, each with whether it is."""

    id: str
    name: str
    kind: str
    faults: tuple[tuple[BenchFault, str, bool], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class BenchPage(Page):
    """The stand-in's bench."""

    home: Home
    query: dict[str, str]
    tab: str
    is_played: bool
    speed: float
    home_time: str
    rows: tuple[BenchRow, ...]
    speeds: tuple[int, ...]
    words: Mapping[BenchFault, str]


def bench_page(request: Request, home_id: str) -> Response:
    """Return the bench, or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    live = app.live_homes.find(home_id)
    clock = app.clock(home)
    set_faults = bench_faults(app, home_id)
    page = BenchPage(
        frame=frame_of(request, home, revision, "live"),
        home=home,
        query={},
        tab="bench",
        is_played=is_played(app, home_id),
        speed=1.0 if live is None else live.clock.speed,
        home_time="" if live is None else show.moment(live.clock.home_at(app.now_ms()), clock, home.country),
        rows=tuple(
            BenchRow(
                id=device.id,
                name=device.name,
                kind=DEVICE_LABEL[device.kind],
                faults=tuple(
                    (kind, BENCH_WORDS[kind], (kind, device.id) in set_faults) for kind in fault_choices(device)
                ),
            )
            for device in home.devices
            if device.is_in_service
        ),
        speeds=SPEEDS,
        words=BENCH_WORDS,
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "live/_bench.html" if is_fragment(request) else "live/bench.html", page)


@router.get("/homes/{home_id}/live/bench", name="live_bench")
def live_bench(request: Request, home_id: str) -> Response:
    """Show the bench."""
    return bench_page(request, home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlayForm:
    """Whether devices are played, and how fast their clock runs."""

    play: Literal["on", "off", "as it is"] = "as it is"
    speed: Annotated[float, Ge(1), Le(3600)] = 20.0


@router.post("/homes/{home_id}/live/play", name="live_play")
def live_play(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Play a home's devices, stop playing them, or change the speed of their clock."""
    app = app_of(request)
    form = read_form(PlayForm, texts)
    if form.play == "as it is":
        set_speed(app, home_id, form.speed)
    else:
        play_devices(app, home_id, is_on=form.play == "on", speed=form.speed)
    return bench_page(request, home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultForm:
    """A fault of a device that is set or mended."""

    id: Id
    fault: BenchFault
    is_on: bool = False


@router.post("/homes/{home_id}/live/fault", name="live_fault")
def live_fault(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Set a fault of a device that is played, or take it back."""
    app = app_of(request)
    form = read_form(FaultForm, texts)
    home, revision = app.homes.load(home_id)
    device = home.device(form.id)
    detail = json.dumps({"fault": form.fault, "on": form.is_on})
    app.events.add(home_id, BENCH_EVENT, device.id, app.now_ms(), detail, revision)
    return bench_page(request, home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class StartForm:
    """The appliance that begins a run."""

    id: Id


@router.post("/homes/{home_id}/live/start", name="live_start")
def live_start(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Let an appliance that is played begin a run."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    appliance = home.appliance(read_form(StartForm, texts).id)
    app.events.add(home_id, MACHINE_EVENT, appliance.id, app.now_ms(), "start", revision)
    return bench_page(request, home_id)
