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
from sqlalchemy import Connection, Engine, create_engine, event, inspect
from sqlalchemy.engine import ExceptionContext

from warmeter.core.errors import WarmeterError
from warmeter.store.tables import METADATA

POOL = 8
# Codes of MariaDB and its client: going down, not reached, gone, lost in a query, connection killed.
_AWAY = {1053, 1927, 2002, 2003, 2006, 2013}
_BUSY = {1205, 1213}  # waited too long for a lock; ended for another's sake
MOST_TRIES = 4
_Done = TypeVar("_Done")


class DatabaseAway(ConnectionError):
    """The database does not answer now; what was being saved may or may not be kept."""


class DatabaseDamaged(WarmeterError):
    """The database lacks what it should have."""


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


@contextmanager
def snapshot(engine: Engine) -> Iterator[Connection]:
    """Yield a connection that sees the database as it is now, whatever is changed meanwhile; rows come one by one."""
    options = {"isolation_level": "REPEATABLE READ", "stream_results": True}
    with engine.connect().execution_options(**options) as connection:
        connection.exec_driver_sql("START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY")
        yield connection


def newest_shape() -> str:
    """Return the name of the newest shape of the database."""
    return str(ScriptDirectory.from_config(_config()).get_current_head())


def shape_of(engine: Engine) -> str:
    """Return the name of a database's shape, "" of an empty one."""
    with engine.connect() as connection:
        return MigrationContext.configure(connection).get_current_revision() or ""


def known_shapes() -> set[str]:
    """Return the names of all shapes that can be brought to the newest."""
    return {each.revision for each in ScriptDirectory.from_config(_config()).walk_revisions()}


def check_tables(engine: Engine) -> None:
    """See that every table is there with its columns.

    Raises
    ------
    DatabaseDamaged
        If one lacks, with what to do.
    """
    found = inspect(engine)
    there = set(found.get_table_names())
    lacking = [table.name for table in METADATA.sorted_tables if table.name not in there]
    for table in METADATA.sorted_tables:
        if table.name in there:
            columns = {column["name"] for column in found.get_columns(table.name)}
            lacking += [f"{table.name}.{column.name}" for column in table.columns if column.name not in columns]
    if lacking:
        raise DatabaseDamaged(
            f"The database lacks {', '.join(lacking)}. Nothing was touched. Restore a backup into an empty folder "
            "(./warmeter restore FROM --data-dir FOLDER), or start once with --fresh to begin anew."
        )


def migrate(engine: Engine, to: str = "head") -> None:
    """Bring the database to the newest shape, or to one on the way there, one statement a migration."""
    if shape_of(engine) == (newest_shape() if to == "head" else to):
        return
    config = _config()
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, to)


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config
