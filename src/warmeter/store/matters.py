"""What was last worked out of what matters in a home, and what each browser last saw of it."""

from collections.abc import Collection
from contextlib import suppress
from dataclasses import dataclass

from sqlalchemy import Engine, delete, insert, select, update
from sqlalchemy.exc import IntegrityError

from warmeter.store.engine import reading
from warmeter.store.memo import forget, remembered
from warmeter.store.tables import HOME, MATTERS_SEEN

MOST_BROWSERS = 200  # of a home; those that came longest ago are forgotten


@dataclass(frozen=True, slots=True, kw_only=True)
class Visit:
    """What a browser saw in this visit, and at the end of the one before; JSON texts, instants in ms UTC."""

    seen_ms: int
    seen: str
    last_ms: int | None
    last: str | None


class MattersStore:
    """Kept lists of what matters."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def kept(self, home_ids: Collection[str]) -> dict[str, str]:
        """Return what was last worked out of some homes, by id; nothing of those of which nothing was."""
        return remembered(("matters", self._engine, tuple(home_ids)), lambda: self._kept(home_ids))

    def _kept(self, home_ids: Collection[str]) -> dict[str, str]:
        query = select(HOME.c.id, HOME.c.matters).where(HOME.c.id.in_(home_ids), HOME.c.matters.is_not(None))
        with reading(self._engine) as connection:
            return {row[0]: row[1] for row in connection.execute(query)}

    def keep(self, home_id: str, matters: str) -> None:
        """Keep what was worked out of a home."""
        with self._engine.begin() as connection:
            connection.execute(update(HOME).where(HOME.c.id == home_id).values(matters=matters))
        forget()

    def visit(self, home_id: str, browser: str) -> Visit | None:
        """Return what a browser saw of a home, None if it never came."""
        query = select(MATTERS_SEEN.c.seen_ms, MATTERS_SEEN.c.seen, MATTERS_SEEN.c.last_ms, MATTERS_SEEN.c.last).where(
            MATTERS_SEEN.c.home_id == home_id, MATTERS_SEEN.c.browser == browser
        )
        with reading(self._engine) as connection:
            row = connection.execute(query).mappings().first()
        return None if row is None else Visit(**row)

    def keep_visit(self, home_id: str, browser: str, visit: Visit) -> None:
        """Keep what a browser saw, in the place of what it saw before."""
        here = MATTERS_SEEN.c.home_id == home_id
        values = {"seen_ms": visit.seen_ms, "seen": visit.seen, "last_ms": visit.last_ms, "last": visit.last}
        oldest = select(MATTERS_SEEN.c.seen_ms).where(here).order_by(MATTERS_SEEN.c.seen_ms.desc())
        # Of two tabs that come at once one is kept.
        with suppress(IntegrityError), self._engine.begin() as connection:
            connection.execute(delete(MATTERS_SEEN).where(here, MATTERS_SEEN.c.browser == browser))
            connection.execute(insert(MATTERS_SEEN).values(home_id=home_id, browser=browser, **values))
            border = connection.execute(oldest.offset(MOST_BROWSERS).limit(1)).scalar()
            if border is not None:
                connection.execute(delete(MATTERS_SEEN).where(here, MATTERS_SEEN.c.seen_ms <= border))
