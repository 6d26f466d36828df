"""The engine, transactions, and bringing a database to the newest shape.

Order of locks: a transaction that touches what hangs on a home locks the home's row first, then
series, chunks, imports, revisions, events; no transaction locks two homes.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.engine import ExceptionContext

POOL = 8
# Codes of MariaDB and its client: going down, not reached, gone, lost in a query, connection killed.
_AWAY = {1053, 1927, 2002, 2003, 2006, 2013}
_BUSY = {1205, 1213}  # waited too long for a lock; ended for another's sake
MOST_TRIES = 4
_Done = TypeVar("_Done")


class DatabaseAway(ConnectionError):
    """The database does not answer now; what was being saved may or may not be kept."""


class DatabaseBusy(RuntimeError):
    """Others' changes stood in the way of this one; nothing of it was kept."""


def open_engine(url: str) -> Engine:
    """Return an engine with a small pool; connections are tried before use, no read locks what it does not find."""
    engine = create_engine(
        url, pool_size=POOL, max_overflow=4, pool_pre_ping=True, pool_recycle=1800, isolation_level="READ COMMITTED"
    )
    event.listen(engine, "handle_error", _tell)
    return engine


def in_transaction(engine: Engine, work: Callable[[Connection], _Done]) -> _Done:
    """Return what work does in one transaction; it is done again, four times in all, where others stood in its way.

    Raises
    ------
    DatabaseBusy
        If they still did the last time.
    """
    for _ in range(MOST_TRIES - 1):
        try:
            with engine.begin() as connection:
                return work(connection)
        except DatabaseBusy:
            continue
    with engine.begin() as connection:
        return work(connection)


@contextmanager
def reading(engine: Engine, connection: Connection | None) -> Iterator[Connection]:
    """Yield the caller's connection, within whose transaction is read, else one for this reading alone."""
    if connection is not None:
        yield connection
    else:
        with engine.connect() as own:
            yield own


def _tell(context: ExceptionContext) -> None:
    """Raise for what a database that is gone or busy causes, except while a connection is only tried."""
    code = next(iter(getattr(context.original_exception, "args", ())), None)
    if context.is_pre_ping:
        return
    if code in _BUSY:
        raise DatabaseBusy(str(context.original_exception)) from context.original_exception
    if context.is_disconnect or code in _AWAY:
        raise DatabaseAway(str(context.original_exception)) from context.original_exception


def migrate(engine: Engine) -> None:
    """Bring the database to the newest shape, one statement a migration."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    head = ScriptDirectory.from_config(config).get_current_head()
    with engine.begin() as connection:
        if MigrationContext.configure(connection).get_current_revision() == head:
            return
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
