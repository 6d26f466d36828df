"""The engine, and bringing a database to the newest shape."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine import ExceptionContext

POOL = 8
# Codes of MariaDB and its client: going down, not reached, gone, lost in a query, connection killed.
_AWAY = {1053, 1927, 2002, 2003, 2006, 2013}


class DatabaseAway(ConnectionError):
    """The database does not answer now; what was being saved may or may not be kept."""


def open_engine(url: str) -> Engine:
    """Return an engine with a small pool; connections are tried before use."""
    engine = create_engine(url, pool_size=POOL, max_overflow=4, pool_pre_ping=True, pool_recycle=1800)
    event.listen(engine, "handle_error", _tell_away)
    return engine


def _tell_away(context: ExceptionContext) -> None:
    """Raise ``DatabaseAway`` for what a database that is gone causes, except while a connection is only tried."""
    code = next(iter(getattr(context.original_exception, "args", ())), None)
    if not context.is_pre_ping and (context.is_disconnect or code in _AWAY):
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
