"""One server process: the application over the database that its parent started."""

import sys
from pathlib import Path

from fastapi import FastAPI

from warmeter.service.app import App, QueuedOnly, system_now_ms
from warmeter.service.logfile import log_into
from warmeter.service.matters.ahead import work_out_ahead
from warmeter.service.processes import end_with_parent, give_memory_back
from warmeter.store.engine import open_engine
from warmeter.store.server import PrivateServer
from warmeter.web.app import create_app
from warmeter.web.serving import UPLOADS

SWITCH_S = 0.001


def app_over(folder: Path, database_port: int, key: str) -> FastAPI:
    """Return the application of one server process, over the database that its parent started."""
    end_with_parent()
    give_memory_back()
    log_into(folder)
    # A page that only has to be sent does not wait long for those that are computed.
    sys.setswitchinterval(SWITCH_S)
    engine = open_engine(PrivateServer(folder).url_at(database_port))
    app = App(engine=engine, uploads=folder / UPLOADS, jobs=QueuedOnly(), now_ms=system_now_ms)
    work_out_ahead(app)
    return create_app(app, key)
