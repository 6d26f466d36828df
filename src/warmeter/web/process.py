"""One server process: the application over the database that its parent started."""

import sys
from pathlib import Path

from fastapi import FastAPI

from warmeter.service.matters.ahead import work_out_ahead
from warmeter.service.opening import opened_app
from warmeter.web.app import create_app

SWITCH_S = 0.001


def app_over(folder: Path, database_port: int, key: str) -> FastAPI:
    """Return the application of one server process, over the database that its parent started."""
    # A page that only has to be sent does not wait long for those that are computed.
    sys.setswitchinterval(SWITCH_S)
    app = opened_app(folder, database_port)
    work_out_ahead(app)
    return create_app(app, key)
