"""The engine, and bringing a database to the newest shape."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine

POOL = 8


def open_engine(url: str) -> Engine:
    """Return an engine with a small pool; connections are tried before use."""
    return create_engine(url, pool_size=POOL, max_overflow=4, pool_pre_ping=True, pool_recycle=1800)


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
