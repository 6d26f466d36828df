"""Routes of tasks: the roll-out by phase, one task open, what waits for somebody."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.edits.task_commands import AddTask, ChangeTask, ChaseTask, FinishTask, RemoveTask
from warmeter.core.home.document import Home
from warmeter.core.home.tasks import Task
from warmeter.store.photos import PhotoLine
from warmeter.web.form_reader import Texts, form_texts
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render
from warmeter.web.saving import Commands, save_form
from warmeter.web.work.checklist_view import photos_about
from warmeter.web.work.task_view import PhaseView, WaitRow, named_parts, phase_views, wait_rows

router = APIRouter()
COMMANDS: Commands = {"add": AddTask, "set": ChangeTask, "chase": ChaseTask, "finish": FinishTask, "remove": RemoveTask}


@dataclass(frozen=True, slots=True, kw_only=True)
class TasksPage(Page):
    """The tasks of a home, one of them open."""

    home: Home
    tab: str
    query: dict[str, str]
    phases: list[PhaseView]
    waits: list[WaitRow]
    chosen: Task | None
    photos: list[PhotoLine]
    parts: list[tuple[str, str]]
    today: str


def tasks_page(request: Request, home_id: str, at: str | None = None) -> Response:
    """Return the page of tasks or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    key = request.query_params.get("at", "") if at is None else at
    chosen = next((t for t in home.tasks if t.id == key), None)
    today = app.clock(home).local(app.now_ms()).date()
    page = TasksPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="tasks",
        query={"at": key},
        phases=phase_views(home, today, key),
        waits=wait_rows(home, today),
        chosen=chosen,
        photos=[] if chosen is None else photos_about(app.photos.lines(home_id), chosen.id),
        parts=named_parts(home),
        today=str(today),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "work/_tasks.html" if is_fragment(request) else "work/tasks.html", page)


@router.get("/homes/{home_id}/tasks", name="tasks")
def tasks(request: Request, home_id: str) -> Response:
    """Show the tasks."""
    return tasks_page(request, home_id)


@router.post("/homes/{home_id}/tasks/{command}", name="task_edit")
def task_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on tasks."""
    edit = save_form(request, home_id, texts, COMMANDS, command)
    if is_fragment(request):
        return tasks_page(request, home_id, edit.selected)
    return back_to(request, "tasks", home_id, at=edit.selected or "")
