"""A database of an older Warmeter is brought up to date, a backup of it made first; a newer one is left alone."""

from pathlib import Path

from sqlalchemy import Engine

from warmeter.service.homes.nightly import UPGRADE, back_up
from warmeter.service.live.taking_over import end_left_over
from warmeter.store.engine import check_tables, known_shapes, migrate, newest_shape, shape_of
from warmeter.store.server import DatabaseError

KEPT = 3


def brought_up_to_date(engine: Engine, data_dir: Path, now_ms: int) -> Path | None:
    """Bring a database to the newest shape and see that nothing lacks; return the backup, if one was made first.

    Raises
    ------
    DatabaseError
        If it was made by a newer Warmeter; nothing is touched then.
    DatabaseDamaged
        If a table or a column lacks.
    """
    shape, before = shape_of(engine), None
    if shape and shape not in known_shapes():
        raise DatabaseError(
            f"The database in {data_dir} was made by a newer Warmeter (shape {shape}). Nothing was touched. "
            "Start it with that one, or choose another folder with --data-dir."
        )
    if shape and shape != newest_shape():
        end_left_over(data_dir)  # it knows the old shape only
        before = back_up(engine, data_dir, UPGRADE, now_ms, KEPT)
    migrate(engine)
    check_tables(engine)
    return before
