"""Routes of circuits: the table, one circuit with its mats and tests, checklists, the local practice."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.edits.circuit_commands import (
    AddCircuit,
    AddMat,
    ChangeCircuit,
    ChangeMat,
    ChangePractice,
    HangOnCircuit,
    ReadMat,
    RemoveCircuit,
    RemoveMat,
    RemoveReading,
    RemoveTripTest,
    WriteTripTest,
)
from warmeter.core.explain.circuit_figures import circuit_figure
from warmeter.core.home.circuits import Circuit, OhmReading
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.web.circuits.view import COVER_WORDS, STAGE_WORDS, BoardView, CircuitRow, board_view, circuit_rows
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render
from warmeter.web.saving import Commands, save_form
from warmeter.web.survey.plan_view import FindingRow, finding_rows
from warmeter.web.work.checklist_view import CHECKLIST_COMMANDS, ChecklistView, checklists_about
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
COMMANDS: Commands = {
    **CHECKLIST_COMMANDS,
    "add": AddCircuit,
    "set": ChangeCircuit,
    "remove": RemoveCircuit,
    "hang": HangOnCircuit,
    "mat-add": AddMat,
    "mat-set": ChangeMat,
    "mat-remove": RemoveMat,
    "mat-read": ReadMat,
    "reading-remove": RemoveReading,
    "trip": WriteTripTest,
    "trip-remove": RemoveTripTest,
    "practice": ChangePractice,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingRow:
    """A reading of a mat with the mat that it belongs to."""

    mat_id: str
    mat: str
    reading: OhmReading


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitsPage(Page):
    """The circuits of a home, one of them open."""

    home: Home
    tab: str
    query: dict[str, str]
    rows: list[CircuitRow]
    board: BoardView
    chosen: Circuit | None
    hung: list[tuple[str, str]]
    free: list[tuple[str, str]]
    readings: list[ReadingRow]
    findings: list[FindingRow]
    checklists: list[ChecklistView]
    today: str
    covers: Mapping[str, str]
    stages: Mapping[str, str]


def circuits_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the page of circuits or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    key = request.query_params.get("at", "") if at is None else at
    chosen = next((c for c in home.circuits if c.id == key), None)
    today = app.clock(home).local(app.as_of_ms(home_id)).date()
    hanging = set() if chosen is None else {*chosen.heater_ids, *chosen.appliance_ids}
    names = part_names(home.heaters, home.appliances)
    of_circuits = {circuit.id for circuit in home.circuits}
    page = CircuitsPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="circuits",
        query={"at": key},
        rows=circuit_rows(home, key, today),
        board=board_view(home),
        chosen=chosen,
        hung=[(part, name) for part, name in names.items() if part in hanging],
        free=[(part, name) for part, name in names.items() if part not in hanging],
        readings=[]
        if chosen is None
        else sorted(
            (ReadingRow(mat_id=mat.id, mat=mat.name, reading=own) for mat in chosen.mats for own in mat.readings),
            key=lambda row: (row.reading.on, row.mat),
            reverse=True,
        ),
        findings=[
            row
            for row in finding_rows(home, findings_of(home))
            if row.place in ({chosen.id} if chosen is not None else of_circuits)
        ],
        checklists=[]
        if chosen is None
        else checklists_about(home, chosen.id, "floor_circuit", app.photos.lines(home_id)),
        today=str(today),
        covers=COVER_WORDS,
        stages=STAGE_WORDS,
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "circuits/_circuits.html" if is_fragment(request) else "circuits/circuits.html", page)


@router.get("/homes/{home_id}/circuits", name="circuits")
def circuits(request: Request, home_id: str) -> Response:
    """Show the circuits."""
    return circuits_page(request, home_id)


@router.post("/homes/{home_id}/circuits/{command}", name="circuit_edit")
def circuit_edit(
    request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]
) -> Response:
    """Do one command on circuits."""
    edit = save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return circuits_page(request, home_id, edit.selected)
    return back_to(request, "circuits", home_id, at=edit.selected or "")


@router.get("/homes/{home_id}/circuits/working/{key}", name="circuit_working")
def circuit_working(request: Request, home_id: str, key: str) -> Response:
    """Show how a figure of a circuit was worked out."""
    home, _ = app_of(request).homes.load(home_id)
    return render(request, "_working.html", WorkingPart(working=working_view(circuit_figure(home, key), home)))
