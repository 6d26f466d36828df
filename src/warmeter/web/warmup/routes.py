"""Routes of the warm-up."""

from dataclasses import dataclass, field, replace
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response

from warmeter.core.errors import NotKnowable
from warmeter.core.explain.loss_figure import loss_figure
from warmeter.core.forecast.setback_leads import OUTDOORS_C, setback_leads
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.thermal.room_fit import MODEL_NAME
from warmeter.service.readings.room_logs import days_left_out, room_log
from warmeter.web import format as show
from warmeter.web.page import JobView, Page, app_of, back_to, frame_of, job_view, render, strip_width
from warmeter.web.warmup.view import (
    WarmupView,
    estimate_rows,
    fit_strip,
    lead_rows,
    left_out_of,
    more_days_of,
    sentence_of,
)
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
JOB_NAMES = {"compare": "Compare", "import": "", "plan": "Plan", "sweep": "Tune"}


@dataclass(frozen=True, slots=True, kw_only=True)
class WarmupPage(Page):
    """What a room's log taught, or what is missing."""

    home: Home
    room: Room | None
    unit: str
    job: JobView | None = None
    fit: WarmupView | None = None
    left_out: list[str] = field(default_factory=list)
    why: NotKnowable | None = None


@router.get("/homes/{home_id}/warmup", name="warmup")
def warmup(request: Request, home_id: str) -> Response:
    """Show what a room's log taught."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    wanted = request.query_params.get("room", "")
    room = next((r for r in home.rooms if r.id == wanted), home.rooms[0] if home.rooms else None)
    view = WarmupPage(
        frame=frame_of(request, home, revision, "warmup"),
        notice=request.query_params.get("notice", ""),
        home=home,
        room=room,
        unit=show.temperature_unit(home),
    )
    if room is None:
        return render(request, "warmup/room.html", view)
    view = replace(view, job=job_view(app.work.latest(home_id, room.id), room.name))
    stored = app.work.fits(home_id).get(room.id)
    try:
        if stored is not None:
            length = round((stored.fit.fitted_c.size - 1) * stored.step_s * 1000)
            log = room_log(app, home, room, stored.log_start_ms, stored.log_start_ms + length).log
            heater, aim = home.heater_of(room.id), max(level.heating_c for level in home.levels)
            fit = WarmupView(
                strip=fit_strip(log, stored, home, app.clock(home), strip_width(request)),
                learnt=estimate_rows(stored.fit, home, room) if stored.fit.is_fit_for_use else [],
                outdoors=[show.temperature(c, home, 0) for c in OUTDOORS_C],
                leads=lead_rows(setback_leads(stored.fit, heater, home, aim), home)
                if heater and stored.fit.is_fit_for_use
                else [],
                aim=show.temperature(aim, home),
                sentence=sentence_of(stored.fit),
                missing=stored.fit.missing,
                doubts=tuple(d.sentence for d in stored.fit.doubts if not d.forbids_use),
                more_days=more_days_of(stored.fit),
                candidates=[
                    (MODEL_NAME[n], show.difference(e, home, 2), n == stored.fit.model)
                    for n, e in stored.fit.candidates
                ],
                is_fit_for_use=stored.fit.is_fit_for_use,
                watts_known=stored.fit.watts_known,
                made=f"revision {stored.revision}",
                is_stale=stored.revision != revision,
            )
            view = replace(view, fit=fit)
        view = replace(view, left_out=left_out_of(days_left_out(app, home, room), home, app.clock(home)))
    except NotKnowable as error:
        view = replace(view, why=error)
    return render(request, "warmup/room.html", view)


@router.post("/homes/{home_id}/warmup/fit", name="fit_room")
def fit(request: Request, home_id: str, room_id: Annotated[str, Form()]) -> Response:
    """Queue a fit."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    home.room(room_id)
    job_id = app.work.enqueue(home_id, "fit", room_id, revision, app.now_ms())
    app.jobs.submit(job_id)
    return back_to(request, "warmup", home_id, room=room_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class JobPart:
    """A job while it runs."""

    job: JobView | None
    home_id: str


@router.get("/homes/{home_id}/jobs/{job_id}", name="job")
def job(request: Request, home_id: str, job_id: int) -> Response:
    """Tell how far a job is; when it is over the page is loaded anew."""
    found = app_of(request).work.job(job_id)
    if found is None or found.home_id != home_id or found.is_over:
        return Response(status_code=200, headers={"HX-Refresh": "true"})
    home, _ = app_of(request).homes.load(home_id)
    subject = home.room(found.subject).name if found.kind == "fit" else JOB_NAMES[found.kind]
    return render(request, "_job.html", JobPart(job=job_view(found, subject), home_id=home_id))


@router.post("/homes/{home_id}/jobs/{job_id}/stop", name="stop_job")
def stop_job(request: Request, home_id: str, job_id: int) -> Response:
    """Ask a job to stop."""
    app = app_of(request)
    found = app.work.job(job_id)
    if found is not None and found.home_id == home_id:
        app.work.ask_stop(job_id)
    if found is not None and found.kind == "compare":
        return back_to(request, "timetable", home_id, pane="compare")
    if found is not None and found.kind == "sweep":
        return back_to(request, "rules", home_id, rule=found.subject)
    if found is not None and found.kind == "import":
        return back_to(request, "import_log", home_id)
    return back_to(request, "warmup", home_id, room=found.subject if found else "")


@router.get("/homes/{home_id}/warmup/working/{room_id}", name="loss_working")
def loss_working(request: Request, home_id: str, room_id: str) -> Response:
    """Show how the heat loss was worked out."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    stored = app.work.fits(home_id).get(room_id)
    if stored is None or not stored.fit.watts_known or not stored.fit.is_fit_for_use:
        raise NotKnowable("This room's heat loss has not been learnt in watts.", "Fit a log with heat in watts.")
    return render(
        request,
        "_working.html",
        WorkingPart(working=working_view(loss_figure(stored.fit, home.room(room_id).name), home)),
    )
