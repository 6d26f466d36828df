"""The engine, transactions, and bringing a database to the newest shape.

Order of locks: a transaction that touches what hangs on a home locks the home's row first, then
series, chunks, imports, revisions, events; no transaction locks two homes.
"""

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar
from weakref import WeakKeyDictionary

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, Table, create_engine, event, inspect
from sqlalchemy.engine import ExceptionContext
from sqlalchemy.exc import DisconnectionError

from warmeter.core.errors import WarmeterError
from warmeter.store.memo import forget
from warmeter.store.tables import METADATA

POOL = 8
# Codes of MariaDB and its client: going down, not reached, gone, lost in a query, connection killed.
_AWAY = {1053, 1927, 2002, 2003, 2006, 2013}
_BUSY = {1205, 1213}  # waited too long for a lock; ended for another's sake
MOST_TRIES = 4
RESTED_S = 0.1
_READERS: WeakKeyDictionary[Engine, Engine] = WeakKeyDictionary()
_Done = TypeVar("_Done")


class DatabaseAway(ConnectionError):
    """The database does not answer now; what was being saved may or may not be kept."""


class DatabaseDamaged(WarmeterError):
    """The database lacks what it should have."""


class DatabaseBusy(RuntimeError):
    """Others' changes stood in the way of this one; nothing of it was kept."""


def open_engine(url: str) -> Engine:
    """Return an engine for transactions, with another beside for reading; no read locks what it does not find."""
    engine = _engine(url, isolation_level="READ COMMITTED")
    # Each statement stands for itself there: no transaction is begun or ended around it.
    reader = _engine(url, isolation_level="AUTOCOMMIT", pool_reset_on_return=None)
    _READERS[engine] = reader
    event.listen(engine, "engine_disposed", lambda _: reader.dispose())
    event.listen(engine, "commit", lambda _: forget())
    return engine


def insert_row(connection: Connection, table: Table, **values: object) -> int:
    """Insert a row and return the number that the database gave it."""
    key = connection.execute(table.insert().values(**values)).inserted_primary_key
    assert key is not None  # each of these tables counts its rows
    return int(key[0])


def _engine(url: str, **options: Any) -> Engine:
    engine = create_engine(url, pool_size=POOL, max_overflow=4, pool_recycle=1800, **options)
    event.listen(engine, "handle_error", _tell)
    event.listen(engine, "checkin", _note_rest)
    event.listen(engine, "checkout", _try_rested)
    return engine


def _note_rest(_: object, record: Any) -> None:
    record.info["rests_since_s"] = time.monotonic()


def _try_rested(connection: Any, record: Any, _: object) -> None:
    """Try a connection that has rested for a while; one that is gone is replaced by the pool."""
    if time.monotonic() - record.info.get("rests_since_s", 0.0) < RESTED_S:
        return
    try:
        connection.ping(reconnect=False)
    except Exception as error:
        raise DisconnectionError("the connection is gone") from error


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
def reading(engine: Engine, connection: Connection | None = None) -> Iterator[Connection]:
    """Yield the caller's connection, within whose transaction is read, else one for this reading alone."""
    if connection is not None:
        yield connection
    else:
        with _READERS[engine].connect() as own:
            yield own


def _tell(context: ExceptionContext) -> None:
    """Raise for what a database that is gone or busy causes."""
    code = next(iter(getattr(context.original_exception, "args", ())), None)
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
