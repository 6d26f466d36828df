"""What matters in the homes, worked out before anybody asks: no first page waits for logs to be read, and a home that was
never opened stands in the list of homes with its worst line."""

import logging
import threading

from sqlalchemy.exc import SQLAlchemyError

from warmeter.core.errors import WarmeterError
from warmeter.service.app import App
from warmeter.service.logfile import note
from warmeter.service.matters.home_evidence import matters
from warmeter.service.matters.summary import keep_summary
from warmeter.store.engine import DatabaseAway, DatabaseBusy
from warmeter.store.homes import HomeNotFound, HomeUnreadable

MOST_HOMES = 12  # those with the most series: the others are quick
AFTER_S = 5.0  # whoever opens a page at once shall not share the machine with it


def work_out_ahead(app: App) -> None:
    """Let the lists of the largest homes be worked out soon, in a thread that ends with the process."""
    timer = threading.Timer(AFTER_S, keep_summaries, args=(app,))
    timer.daemon = True
    timer.start()


def keep_summaries(app: App) -> None:
    """Work out what matters in the largest homes, and keep it for the list of homes."""
    try:
        lines = sorted(app.homes.lines(), key=lambda each: -each.series_count)[:MOST_HOMES]
    except (SQLAlchemyError, DatabaseAway) as error:
        note("matters not worked out ahead", level=logging.WARNING, error=error)
        return
    for line in lines:
        keep_summary_anew(app, line.id)


def keep_summary_anew(app: App, home_id: str) -> None:
    """Work out what matters in a home, and keep it for the list of homes.

    What cannot be read or worked out is noted: a page that is asked for says the same.
    """
    try:
        home, revision = app.homes.load(home_id)
        keep_summary(app, home, matters(app, home, revision))
    except (WarmeterError, HomeNotFound, HomeUnreadable, SQLAlchemyError, DatabaseAway, DatabaseBusy) as error:
        note("matters not worked out ahead", level=logging.WARNING, error=error)
