"""Jobs: what takes long, run with progress that is told and a stop that is heeded."""

import logging

from warmeter.core.errors import WarmeterError
from warmeter.service.app import App
from warmeter.service.day_plan.planning import run_plan
from warmeter.service.logfile import note
from warmeter.service.matters.ahead import keep_summary_anew
from warmeter.service.readings.logs import run_import
from warmeter.service.rules.rule_tuning import run_sweep
from warmeter.service.timetable.comparisons import run_comparison
from warmeter.service.warmup.fitting import fit_logged
from warmeter.store.engine import DatabaseAway
from warmeter.store.homes import HomeNotFound
from warmeter.store.work import Job

DONE = {"fit": "Fitted", "compare": "Compared"}
STOPPED = {
    "fit": "Stopped by you; the former fit, if any, still stands",
    "compare": "Stopped by you; the former comparison, if any, still stands",
    "sweep": "Stopped by you; the rule is as it was",
    "plan": "Stopped by you; the former plan, if any, still stands",
    "import": "Stopped by you; nothing of the file was taken, and it still waits",
}


class Stopped(Exception):
    """A person asked the job to stop."""


def run_job(app: App, job_id: int) -> None:
    """Run a queued job: progress is told, a stop heeded, its result stored."""
    job = app.work.job(job_id)
    if job is None or job.state != "queued":
        return
    app.work.begin(job_id)
    state = "failed"
    try:
        sentence = _run(app, job)
        state = "done"
    except Stopped:
        state, sentence = "stopped", STOPPED[job.kind]
    except WarmeterError as error:
        sentence = str(error)
    except HomeNotFound:
        sentence = "This home was removed meanwhile; nothing was changed"
    except DatabaseAway:
        raise
    except Exception as error:
        note("job broke", level=logging.ERROR, error=error, job=job_id)
        sentence = f"Something that nobody foresaw: {type(error).__name__}; nothing was changed"
    app.work.end(job_id, state, sentence)
    note("job ended", job=job_id, kind=job.kind, state=state)
    if job.kind == "fit" and state == "done":
        keep_summary_anew(app, job.home_id)


def _run(app: App, job: Job) -> str:
    """Run a job and return what came of it."""

    def progress(share: float, sentence: str) -> None:
        if not app.work.tell(job.id, share, sentence):
            raise Stopped

    if job.kind == "plan":
        return run_plan(app, job, progress)
    if job.kind == "import":
        return run_import(app, job, progress)
    if job.kind == "sweep":
        return run_sweep(app, job, progress)
    if job.kind == "fit":
        fit_logged(app, job.home_id, job.subject, job.revision, progress)
    else:
        run_comparison(app, job, progress)
    return DONE[job.kind]
