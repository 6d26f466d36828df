"""What happened in a home beside changes of its document: kept in order, never part of it."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import Engine, Row, delete, func, select

from warmeter.store.engine import insert_row, reading
from warmeter.store.homes import note_change
from warmeter.store.memo import remembered
from warmeter.store.tables import EVENT


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """One event; ``subject`` is what it is about, ``detail`` its JSON."""

    id: int
    at_ms: int
    kind: str
    subject: str
    detail: str


def _event(row: Row[Any]) -> Event:
    return Event(id=row.id, at_ms=row.at_ms, kind=row.kind, subject=row.subject, detail=row.detail)


class EventStore:
    """Events in the database."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def add(self, home_id: str, kind: str, subject: str, at_ms: int, detail: str, revision: int) -> int:
        """Keep an event and return its number."""
        values = {"kind": kind, "subject": subject, "at_ms": at_ms, "detail": detail, "revision": revision}
        with self._engine.begin() as connection:
            note_change(connection, home_id)
            return insert_row(connection, EVENT, home_id=home_id, **values)

    def of_kind(self, home_id: str, kind: str) -> list[Event]:
        """Return a home's events of a kind in order of time, then of keeping."""
        return remembered(("events", self._engine, home_id, kind), lambda: self._of_kind(home_id, kind))

    def _of_kind(self, home_id: str, kind: str) -> list[Event]:
        query = (
            select(EVENT).where(EVENT.c.home_id == home_id, EVENT.c.kind == kind).order_by(EVENT.c.at_ms, EVENT.c.id)
        )
        with reading(self._engine) as connection:
            rows = connection.execute(query).all()
        return [_event(row) for row in rows]

    def since(self, home_id: str, kind: str, subject: str, start_ms: int) -> list[Event]:
        """Return the events of a kind and subject after an instant, and the last before it, in order of time."""
        key = ("events since", self._engine, home_id, kind, subject, start_ms)
        return remembered(key, lambda: self._since(home_id, kind, subject, start_ms))

    def _since(self, home_id: str, kind: str, subject: str, start_ms: int) -> list[Event]:
        mine = select(EVENT).where(EVENT.c.home_id == home_id, EVENT.c.kind == kind, EVENT.c.subject == subject)
        before = mine.where(EVENT.c.at_ms <= start_ms).order_by(EVENT.c.at_ms.desc(), EVENT.c.id.desc()).limit(1)
        after = mine.where(EVENT.c.at_ms > start_ms).order_by(EVENT.c.at_ms, EVENT.c.id)
        with reading(self._engine) as connection:
            rows = [*connection.execute(before), *connection.execute(after)]
        return [_event(row) for row in rows]

    def stamp(self, home_id: str, kind: str) -> tuple[int, int]:
        """Return (count, newest number) of a kind: changes when any event is kept or removed."""
        return remembered(("event stamp", self._engine, home_id, kind), lambda: self._stamp(home_id, kind))

    def _stamp(self, home_id: str, kind: str) -> tuple[int, int]:
        query = select(func.count(), func.max(EVENT.c.id)).where(EVENT.c.home_id == home_id, EVENT.c.kind == kind)
        with reading(self._engine) as connection:
            row = connection.execute(query).one()
        return int(row[0]), int(row[1] or 0)

    def remove(self, home_id: str, event_id: int, kind: str) -> bool:
        """Remove an event of a kind that was kept by mistake; return whether it was there."""
        query = delete(EVENT).where(EVENT.c.home_id == home_id, EVENT.c.id == event_id, EVENT.c.kind == kind)
        with self._engine.begin() as connection:
            note_change(connection, home_id)
            return bool(connection.execute(query).rowcount)
