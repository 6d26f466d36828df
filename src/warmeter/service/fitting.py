"""Fitting a room from its readings, as a job."""

from collections.abc import Callable

from warmeter.core.building.heating import full_heat_w
from warmeter.core.building.losses import prior_of
from warmeter.core.errors import WarmeterError
from warmeter.core.thermal.identify import fit_room
from warmeter.service.roomlogs import room_log
from warmeter.service.workbench import Workbench


class Stopped(Exception):
    """A person asked the job to stop."""


def run_fit(bench: Workbench, job_id: int) -> None:
    """Run a queued fit: progress is told, a stop heeded, the fit stored."""
    job = bench.work.job(job_id)
    if job is None or job.state != "queued":
        return
    bench.work.begin(job_id)

    def progress(share: float, sentence: str) -> None:
        if not bench.work.tell(job_id, share, sentence):
            raise Stopped

    try:
        _fit(bench, job.home_id, job.subject, job.revision, progress)
    except Stopped:
        bench.work.end(job_id, "stopped", "Stopped by you; the former fit, if any, still stands")
    except WarmeterError as error:
        bench.work.end(job_id, "failed", str(error))
    else:
        bench.work.end(job_id, "done", "Fitted")


def _fit(bench: Workbench, home_id: str, room_id: str, revision: int, progress: Callable[[float, str], None]) -> None:
    home, _ = bench.homes.load(home_id, revision)
    room = home.room(room_id)
    heater = home.heater_of(room_id)
    logged = room_log(bench, home, room)
    fit = fit_room(
        logged.log,
        prior_of(home, room),
        full_heat_w=full_heat_w(home, room_id) if heater else 1000.0,
        progress=progress,
    )
    bench.work.save_fit(
        home_id,
        room_id,
        fit,
        log_start_ms=logged.start_ms,
        step_s=logged.log.step_s,
        at_ms=bench.now_ms(),
        revision=revision,
    )
