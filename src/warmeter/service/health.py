"""How an install is: its database, its worker, its disk, its last backup. No names, no readings."""

import shutil
import time
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from warmeter import __version__
from warmeter.service.app import App
from warmeter.service.homes.nightly import last_backup_ms
from warmeter.service.jobs.runner import SIGN
from warmeter.store.engine import DatabaseAway

LEAST_FREE_MB = 200
STUCK_S = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Health:
    """What ``/health`` says; ``is_well`` where nothing needs a look."""

    is_well: bool
    version: str
    database: str
    worker: str
    jobs_waiting: int
    disk_free_mb: int
    last_backup: str | None


def health_of(app: App) -> Health:
    """Return how things are now."""
    folder = app.uploads.parent
    free_mb = shutil.disk_usage(folder if folder.exists() else "/").free // 1024**2
    last = last_backup_ms(folder)
    database, worker, waiting = "well", "well", 0
    try:
        jobs = app.work.unfinished()
        waiting = sum(job.state == "queued" for job in jobs)
        oldest_s = max((app.now_ms() - job.at_ms) / 1000 for job in jobs) if jobs else 0.0
        if any(job.state == "running" for job in jobs):
            worker = "busy"
        elif oldest_s > STUCK_S and not _is_looked_after(folder):
            worker = "does not take up what waits"
    except DatabaseAway:
        database, worker = "being restarted", "not known"
    return Health(
        is_well=database == "well" and worker in ("well", "busy") and free_mb >= LEAST_FREE_MB,
        version=__version__,
        database=database,
        worker=worker,
        jobs_waiting=waiting,
        disk_free_mb=int(free_mb),
        last_backup=None if last is None else datetime.fromtimestamp(last / 1000, UTC).isoformat(timespec="seconds"),
    )


def _is_looked_after(folder: Path) -> bool:
    """Return whether the runner of jobs left a sign of life of late."""
    sign = folder / SIGN
    return sign.exists() and time.time() - sign.stat().st_mtime < STUCK_S
