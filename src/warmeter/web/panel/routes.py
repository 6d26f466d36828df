"""Routes of panels: what each lamp shows, how its button is pressed, their logs, a trial on a simulated panel."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.edits.panel_commands import AddPanelFunction, ChangePanelFunction, RemovePanelFunction
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.panels import BlinkMeans, PanelFunction
from warmeter.core.starters.starter import POOL_CAUTION
from warmeter.service.panel.panel_log import MOODS, Mood, function_log, tried
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render, strip_width
from warmeter.web.panel.view import (
    BLINK_WORDS,
    FunctionRow,
    TrialView,
    function_row,
    lamp_sensors,
    pressers,
    trial_view,
)
from warmeter.web.saving import Commands, save_form
from warmeter.web.survey.plan_view import FindingRow, finding_rows

router = APIRouter()
# The column at the right is wider here than beside a strip.
WIDER_ASIDE_PX, LEAST_TRIAL_PX = 168, 480
COMMANDS: Commands = {"add": AddPanelFunction, "set": ChangePanelFunction, "remove": RemovePanelFunction}
_tried = lru_cache(maxsize=256)(tried)


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelPage(Page):
    """A panel, one of its lamps open and tried on a simulated panel of a mood."""

    home: Home
    tab: str
    query: dict[str, str]
    panel: Device
    rows: list[FunctionRow]
    chosen: PanelFunction | None
    trial: TrialView | None
    moods: Mapping[Mood, str]
    mood: Mood
    blinks: Mapping[BlinkMeans, str]
    lamps: list[Device]
    pressers: list[Device]
    findings: list[FindingRow]
    caution: str


def panel_page(request: Request, home_id: str) -> Response:
    """Return a panel's page or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    panel = home.device(request.query_params.get("device", ""))
    at = request.query_params.get("at", "")
    chosen = next((f for f in panel.panel if f.id == at), panel.panel[0] if panel.panel else None)
    mood: Mood = next((key for key in MOODS if key == request.query_params.get("mood")), "plain")
    clock, key = app.clock(home), "" if chosen is None else chosen.id
    width = max(LEAST_TRIAL_PX, strip_width(request) - WIDER_ASIDE_PX)
    page = PanelPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="devices",
        query={"device": panel.id, "at": key, "mood": mood},
        panel=panel,
        rows=[function_row(home, f, function_log(app, home, f), clock, key) for f in panel.panel],
        chosen=chosen,
        trial=None
        if chosen is None
        else trial_view(_tried(chosen, mood, "looks"), _tried(chosen, mood, "blind"), width),
        moods=MOODS,
        mood=mood,
        blinks=BLINK_WORDS,
        lamps=lamp_sensors(home),
        pressers=pressers(home),
        findings=[row for row in finding_rows(home, findings_of(home)) if row.place == panel.id],
        caution=POOL_CAUTION,
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "panel/_panel.html" if is_fragment(request) else "panel/panel.html", page)


@router.get("/homes/{home_id}/panel", name="panel")
def panel(request: Request, home_id: str) -> Response:
    """Show a panel."""
    return panel_page(request, home_id)


@router.post("/homes/{home_id}/panel/{command}", name="panel_edit")
def panel_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on a panel."""
    save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return panel_page(request, home_id)
    return back_to(request, "panel", home_id, device=request.query_params.get("device", ""))
