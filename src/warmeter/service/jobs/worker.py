"""What the worker process does with one job."""

from pathlib import Path

from warmeter.service.app import App, QueuedOnly, system_now_ms
from warmeter.service.jobs.kinds import run_job
from warmeter.service.logfile import log_into
from warmeter.store.engine import open_engine


def run_in_worker(url: str, uploads: str, job_id: int) -> None:
    """Open the database and run one job."""
    if Path(uploads).parent.is_dir():
        log_into(Path(uploads).parent)
    engine = open_engine(url)
    try:
        run_job(App(engine=engine, uploads=Path(uploads), jobs=QueuedOnly(), now_ms=system_now_ms), job_id)
    finally:
        engine.dispose()
