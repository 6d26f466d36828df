"""Pages that one server process drew, for the others: by a digest of all that they depend on."""

from contextlib import suppress

from sqlalchemy import Engine, delete, insert, select
from sqlalchemy.exc import IntegrityError

from warmeter.store.codec import pack, unpack
from warmeter.store.engine import reading
from warmeter.store.tables import KEPT_PAGE

MOST_PAGES = 3000


class PageStore:
    """Kept pages in the database."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def get(self, digest: bytes) -> bytes | None:
        """Return a page's body, None if it was not kept."""
        query = select(KEPT_PAGE.c.body).where(KEPT_PAGE.c.digest == digest)
        with reading(self._engine) as connection:
            found = connection.execute(query).scalar()
        return None if found is None else unpack(found)

    def keep(self, digest: bytes, home_id: str, at_ms: int, body: bytes) -> None:
        """Keep a page that is not kept yet, unless its home has gone."""
        values = {"digest": digest, "home_id": home_id, "at_ms": at_ms, "body": pack(body)}
        with suppress(IntegrityError), self._engine.begin() as connection:
            connection.execute(insert(KEPT_PAGE).prefix_with("IGNORE").values(**values))

    def clear(self) -> None:
        """Forget every page."""
        with self._engine.begin() as connection:
            connection.execute(delete(KEPT_PAGE))

    def trim(self) -> None:
        """Forget the oldest beyond so many."""
        oldest = select(KEPT_PAGE.c.at_ms).order_by(KEPT_PAGE.c.at_ms.desc()).offset(MOST_PAGES).limit(1)
        with self._engine.begin() as connection:
            before = connection.execute(oldest).scalar()
            if before is not None:
                connection.execute(delete(KEPT_PAGE).where(KEPT_PAGE.c.at_ms <= before))
