"""The application opened over a data folder, as every process of an install does."""

from pathlib import Path

from warmeter.service.app import App, QueuedOnly, system_now_ms
from warmeter.service.logfile import log_into
from warmeter.service.processes import end_with_parent, give_memory_back
from warmeter.store.engine import open_engine
from warmeter.store.server import PrivateServer

UPLOADS = "uploads"  # in the data folder


def opened_app(folder: Path, database_port: int, *, ends_with_server: bool = True) -> App:
    """Return the application of a process of the server's, over the database that its parent started."""
    if ends_with_server:
        end_with_parent()
    give_memory_back()
    log_into(folder)
    engine = open_engine(PrivateServer(folder).url_at(database_port))
    return App(engine=engine, uploads=folder / UPLOADS, jobs=QueuedOnly(), now_ms=system_now_ms)
