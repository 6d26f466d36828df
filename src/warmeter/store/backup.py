"""A backup of everything, taken while Warmeter runs, and its restoring into an empty database."""

import os
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import Connection, Engine, MetaData, Table, func, inspect, select

from warmeter.store.dump import DumpError, DumpReader, DumpWriter, Manifest, inserted, member_of
from warmeter.store.engine import known_shapes, migrate, shape_of, snapshot
from warmeter.store.tables import KEPT_PAGE, METADATA

FORMAT = "warmeter-backup/1"
# Pages are drawn again.
TABLES = [table for table in METADATA.sorted_tables if table is not KEPT_PAGE]


def backup_name(at_ms: int) -> str:
    """Return the file name of a backup made at an instant [ms UTC]; names sort by time."""
    return f"warmeter-{datetime.fromtimestamp(at_ms / 1000, UTC):%Y%m%d-%H%M%S}.zip"


def _as_they_are(connection: Connection) -> list[Table]:
    """Return the tables as the database has them, which may be of an older shape."""
    there = set(inspect(connection).get_table_names())
    return [Table(each.name, MetaData(), autoload_with=connection) for each in TABLES if each.name in there]


def write_backup(engine: Engine, path: Path, at_ms: int) -> Manifest:
    """Write all tables as they are now, read the file back, and put it in its place when it is whole.

    Raises
    ------
    DumpError
        If a file of this name is there, or what was written does not read back.
    OSError
        If it cannot be written.
    """
    if path.exists():
        raise DumpError(f"{path} is there already; nothing was overwritten. Choose another name")
    making = path.with_name(f".{path.name}-{os.getpid()}")
    try:
        making.touch(mode=0o600)
        making.unlink()
        writer = DumpWriter(making)
        making.chmod(0o600)
        with engine.connect() as connection:
            tables = _as_they_are(connection)
        with snapshot(engine) as connection:
            for table in tables:
                rows = connection.execute(select(table).order_by(*table.primary_key.columns)).mappings()
                writer.add(table, rows, is_open=False)  # type: ignore[arg-type]
        writer.close(FORMAT, shape_of(engine), at_ms)
        with DumpReader(making, FORMAT) as reader:
            reader.verify()
            manifest = reader.manifest
        making.rename(path)
    finally:
        making.unlink(missing_ok=True)
    return manifest


def restore_backup(engine: Engine, path: Path, told: Callable[[str], None]) -> Manifest:
    """Verify a backup, fill an empty database with it, and bring that to the newest shape.

    Raises
    ------
    DumpError
        If the backup is damaged or of a newer Warmeter, or the database is not empty.
    """
    with DumpReader(path, FORMAT) as reader:
        manifest = reader.manifest
        if manifest.schema not in known_shapes():
            raise DumpError(
                f"{path.name} was made by a newer Warmeter (shape {manifest.schema}); restore it with that one"
            )
        told(f"verifying {manifest.row_count:,} rows")
        reader.verify()
        if shape_of(engine):
            raise DumpError("this database is not empty; nothing was touched")
        migrate(engine, manifest.schema)
        with engine.connect() as connection:
            tables = _as_they_are(connection)
        for table in tables:
            with engine.begin() as connection:
                count = inserted(connection, table, reader.rows(table))
                found = connection.execute(select(func.count()).select_from(table)).scalar()
            wanted = manifest.members.get(member_of(table), (0, ""))[0]
            if not count == found == wanted:
                raise DumpError(f"{table.name} holds {found} rows of {wanted}")
            told(f"{table.name}: {count:,} rows")
    migrate(engine)
    return manifest
