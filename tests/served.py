"""One small MariaDB for the whole run, and an application on an empty database."""

import atexit
import shutil
import tempfile
import threading
from dataclasses import replace
from pathlib import Path

from sqlalchemy import delete

from warmeter.service.app import App
from warmeter.service.jobs.kinds import run_job
from warmeter.store.engine import migrate, open_engine
from warmeter.store.server import PrivateServer
from warmeter.store.tables import METADATA

NOW_MS = 1_769_000_000_000
_STATE: dict[str, App] = {}
_LOCK = threading.Lock()


class RunAtOnce:
    """A job port that runs each job where it is submitted."""

    app: App

    def submit(self, job_id: int) -> None:
        """Run the job now."""
        run_job(self.app, job_id)


class Held:
    """A job port that keeps jobs queued."""

    def submit(self, job_id: int) -> None:
        """Leave the job queued."""


def _start() -> App:
    folder = Path(tempfile.mkdtemp(prefix="warmeter-tests-"))
    server = PrivateServer(folder / "data", is_small=True)
    server.start()
    engine = open_engine(server.url)

    def end() -> None:
        engine.dispose()
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)

    atexit.register(end)
    migrate(engine)
    port = RunAtOnce()
    app = App(engine=engine, uploads=folder / "uploads", jobs=port, now_ms=lambda: NOW_MS)
    port.app = app
    return app


def fresh_app() -> App:
    """Return the run's application with every table emptied."""
    with _LOCK:
        if "bench" not in _STATE:
            _STATE["bench"] = _start()
    app = _STATE["bench"]
    with app.engine.begin() as connection:
        for table in reversed(METADATA.sorted_tables):
            connection.execute(delete(table))
    # Tables may have been made anew meanwhile, and numbers given again: nothing is remembered from before.
    return replace(app)
