"""Routes of ducts: the plant and its vents, which sensors lead, the round of trimming, a day by the timetable."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.ducts.duct_air import vent_flows_m3_h
from warmeter.core.edits.duct_commands import (
    AddChoice,
    AddDucts,
    AddVent,
    ChangeDucts,
    ChangeVent,
    MeasureRooms,
    RemoveChoice,
    RemoveDucts,
    RemoveRound,
    RemoveStage,
    RemoveVent,
    SetStage,
    SetVents,
    TakeAirShares,
)
from warmeter.core.edits.plant_commands import SOURCE_NAME
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.explain.duct_figures import duct_figure
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.home.part import Unit
from warmeter.core.home.plant import SourceKind
from warmeter.core.sentence import Sentence
from warmeter.core.thermal.room_fit import Estimate
from warmeter.service.app import App
from warmeter.service.ducts.air_shares import air_shares
from warmeter.service.ducts.outcome import DuctOutcome, duct_outcome
from warmeter.web import format as show
from warmeter.web.ducts.drawing import DuctPicture, duct_pictures
from warmeter.web.ducts.view import (
    ChoicesView,
    DuctDayView,
    StageRow,
    TrimView,
    air_sign,
    air_text,
    area_sign,
    choices_view,
    day_view,
    pair_words,
    pressure_sign,
    stage_rows,
    trim_view,
)
from warmeter.web.form_reader import Texts, form_texts, read_query
from warmeter.web.page import Page, app_of, back_to, field_typed, frame_of, is_fragment, render, strip_width, units_of
from warmeter.web.saving import Commands, save, save_form
from warmeter.web.work.checklist_view import CHECKLIST_COMMANDS, ChecklistView, checklists_about
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
# The column at the right is wider here than beside a strip.
WIDER_ASIDE_PX, LEAST_DAY_PX = 168, 480
HOT_OUTDOOR_C = 32.0  # a hot afternoon, until somebody types another
FAN_WORDS = {"with_heat": "with the heat", "always": "always", "part": "so many minutes an hour"}
COMMANDS: Commands = {
    "add": AddDucts,
    "set": ChangeDucts,
    "remove": RemoveDucts,
    "vent-add": AddVent,
    "vent-set": ChangeVent,
    "vent-remove": RemoveVent,
    "stage": SetStage,
    "stage-remove": RemoveStage,
    "choice-add": AddChoice,
    "choice-remove": RemoveChoice,
    "measure": MeasureRooms,
    "round-remove": RemoveRound,
    "vents": SetVents,
    **CHECKLIST_COMMANDS,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class _Asked:
    """What the address asks: a level, the outdoor temperature, the place of the choice whose day is shown."""

    level: str = ""
    side: Literal["heating", "cooling"] = "heating"
    outdoor_c: Annotated[float, Ge(-60), Le(45), Unit("°C")] | None = None
    lead: Annotated[int, Ge(0), Le(20)] = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class VentRow:
    """A vent in the table."""

    id: str
    name: str
    room: str
    area: str
    measured: str
    air: str
    share: str
    notch: int
    learnt: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctsPage(Page):
    """A duct system; ``refused`` says why nothing can be worked out yet."""

    home: Home
    tab: str
    query: dict[str, str]
    system: DuctSystem | None
    vents: list[VentRow]
    stages: list[StageRow]
    pictures: list[DuctPicture]
    choices: ChoicesView | None
    trim: TrimView | None
    day: DuctDayView | None
    refused: str
    side: str
    pair: Sentence | str
    learnt: str
    can_take: bool
    level_id: str
    levels: list[tuple[str, str]]
    outdoor: str
    unit: str
    air: str
    vent_area: str
    pressure: str
    fan_words: dict[str, str]
    source_words: Mapping[SourceKind, str]
    rooms: list[tuple[str, str]]
    checklists: list[ChecklistView]
    today: str


def ducts_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the page of ducts or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    texts = {k: v for k, v in request.query_params.items() if k in ("at", "level", "side", "outdoor_c", "lead") and v}
    key = texts.get("at", "") if at is None else at
    system = next((d for d in home.ducts if d.id == key), home.ducts[0] if home.ducts else None)
    asked = read_query(_Asked, texts, units_of(request))
    level = next((each for each in home.levels if each.id == asked.level), home.in_use)
    cools = asked.side == "cooling"
    usual_c = HOT_OUTDOOR_C if cools else home.design.outdoor_c
    outdoor_c = usual_c if asked.outdoor_c is None else asked.outdoor_c
    limit_c = None if level is None else level.cooling_c
    today = app.clock(home).local(app.as_of_ms(home_id)).date()
    found: DuctOutcome | None = None
    refused = ""
    if cools and limit_c is None:
        refused = "This level has no cooling limit; type one under Timetable, Levels, or look at another level."
    elif system is not None and level is not None:
        try:
            found = duct_outcome(
                app,
                home,
                system,
                set_c=limit_c if cools and limit_c is not None else level.heating_c,
                outdoor_c=outdoor_c,
                on=today,
                lead=asked.lead,
                is_cooling=cools,
            )
        except HomeError as error:
            refused = str(error)
    flows = {} if system is None else vent_flows_m3_h(system)
    shares, learnt = _learnt(app, home, system)
    page = DuctsPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="heating",
        query={**texts, "at": "" if system is None else system.id},
        system=system,
        vents=[] if system is None else _vents(home, system, flows, shares),
        stages=[] if system is None else stage_rows(system),
        pictures=[] if system is None else duct_pictures(home, system, flows, _room_c(found)),
        choices=None if found is None or system is None else choices_view(home, system, found),
        trim=None if found is None or found.trim is None or system is None else trim_view(home, system, found.trim),
        day=None
        if found is None or system is None
        else day_view(home, system, found.day, max(LEAST_DAY_PX, strip_width(request) - WIDER_ASIDE_PX)),
        refused=refused,
        side=asked.side,
        pair="" if level is None or system is None else pair_words(level, system),
        learnt=learnt,
        can_take=bool(shares),
        level_id="" if level is None else level.id,
        levels=[(each.id, each.name) for each in home.levels],
        outdoor=show.temperature(outdoor_c, home, 0),
        unit=show.temperature_unit(home),
        air=air_sign(home),
        vent_area=area_sign(home),
        pressure=pressure_sign(home),
        fan_words=FAN_WORDS,
        source_words=SOURCE_NAME,
        rooms=[] if system is None else [(room_id, home.room(room_id).name) for room_id in system.room_ids],
        checklists=[]
        if system is None
        else checklists_about(home, system.id, "thermostat_swap", app.photos.lines(home_id)),
        today=str(today),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "ducts/_ducts.html" if is_fragment(request) else "ducts/ducts.html", page)


def _learnt(app: App, home: Home, system: DuctSystem | None) -> tuple[dict[str, Estimate], str]:
    """Return rooms' shares of the air by their logs, and what is to be said of them."""
    if system is None or not system.vents:
        return {}, ""
    try:
        found = air_shares(app, home, system)
    except NotKnowable as error:
        return {}, str(error)
    shares = dict(zip(system.room_ids, found.shares, strict=True))
    return shares, f"By how fast each room began to warm after {found.starts} starts of the burner."


def _room_c(found: DuctOutcome | None) -> dict[str, float]:
    """Return the temperature of each room under the choice whose day is shown [°C]."""
    if found is None:
        return {}
    return next(each.room_c for each in found.choices if each.choice == found.day.choice)


def _vents(home: Home, system: DuctSystem, flows: dict[str, float], shares: Mapping[str, Estimate]) -> list[VentRow]:
    total = sum(flows.values()) or 1.0
    return [
        VentRow(
            id=vent.id,
            name=vent.name,
            room=home.room(vent.room_id).name,
            area=field_typed("area_cm2", vent.area_cm2),
            measured="" if vent.flow_m3_h is None else air_text(home, vent.flow_m3_h),
            air=air_text(home, flows[vent.id]),
            share=f"{100 * flows[vent.id] / total:.0f}",
            notch=vent.notch,
            learnt=""
            if vent.room_id not in shares
            else f"{100 * shares[vent.room_id].value:.0f} ({100 * shares[vent.room_id].low:.0f} to "
            f"{100 * shares[vent.room_id].high:.0f})",
        )
        for vent in system.vents
    ]


@router.get("/homes/{home_id}/ducts", name="ducts")
def ducts(request: Request, home_id: str) -> Response:
    """Show the ducts."""
    return ducts_page(request, home_id)


@router.post("/homes/{home_id}/ducts/{command}", name="duct_edit")
def duct_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on ducts."""
    edit = save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return ducts_page(request, home_id, edit.selected)
    return back_to(request, "ducts", home_id, at=edit.selected or "")


@router.post("/homes/{home_id}/ducts-learnt", name="ducts_learnt")
def ducts_learnt(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Take the shares of the air that the rooms' logs tell."""
    app, key = app_of(request), texts.get("id", "")
    home, _ = app.homes.load(home_id)
    system = home.duct_system(key)
    found = air_shares(app, home, system)
    shares = {room: each.value for room, each in zip(system.room_ids, found.shares, strict=True)}
    save(request, home_id, {"base": texts.get("base", "")}, TakeAirShares(id=key, shares=shares))
    if is_fragment(request):
        return ducts_page(request, home_id, key)
    return back_to(request, "ducts", home_id, at=key)


@router.get("/homes/{home_id}/ducts/working/{key}", name="duct_working")
def duct_working(request: Request, home_id: str, key: str) -> Response:
    """Show how a figure of ducts was worked out."""
    home, _ = app_of(request).homes.load(home_id)
    return render(request, "_working.html", WorkingPart(working=working_view(duct_figure(home, key), home)))
