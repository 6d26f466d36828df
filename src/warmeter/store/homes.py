"""Homes and their revisions: every change is one, undo appends one."""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Any

from pydantic import ValidationError
from sqlalchemy import Connection, Engine, Select, and_, delete, func, insert, select, update
from zstandard import ZstdError

from warmeter.core.home.document import Home
from warmeter.store.codec import home_from_packed, places_told, stored_home
from warmeter.store.engine import in_transaction, reading
from warmeter.store.memo import remembered
from warmeter.store.tables import EVENT, HOME, JOB, REVISION

FOLD_MS = 4000  # edits of one field by one window within this become one revision
RECENT = 60  # the newest revisions nearly always tell what undo and redo would take


class HomeNotFound(LookupError):
    """There is no home of this id."""


class HomeUnreadable(RuntimeError):
    """A home's document as stored cannot be read; ``why`` says what stands in the way."""

    def __init__(self, home_id: str, number: int, why: str) -> None:
        super().__init__(f"revision {number} of this home cannot be read: {why}")
        self.home_id, self.number, self.why = home_id, number, why


class RevisionConflict(RuntimeError):
    """Another window saved meanwhile; ``latest`` is the revision that stands now."""

    def __init__(self, latest: int) -> None:
        super().__init__(f"this home was changed meanwhile: it is at revision {latest} now")
        self.latest = latest


class NothingToUndo(LookupError):
    """The home has no change that could be undone, or no undoing that could be taken back."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeLine:
    """A home in a list."""

    id: str
    name: str
    revision: int
    as_of_ms: int | None
    taken_away_ms: int | None = None
    last_reading_ms: int | None = None
    last_climate_ms: int | None = None
    series_count: int = 0
    listed: str | None = None
    listed_revision: int = 0

    @property
    def told_now_ms(self) -> int | None:
        """The instant that counts as now [ms UTC]: set, or that of the last reading of its climate, or of any; or None."""
        told = (self.as_of_ms, self.last_climate_ms, self.last_reading_ms)
        return next((at_ms for at_ms in told if at_ms is not None), None)


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeStamp:
    """What tells that a home and all that hangs on it are as they were, but for how far a job is."""

    revision: int
    changes: int
    as_of_ms: int | None
    job_id: int
    matters: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Revision:
    """One change: who, when, what; ``undoes`` is the change, or the undoing, that it took away."""

    number: int
    parent: int
    at_ms: int
    author: str
    summary: str
    undoes: int | None
    import_id: int | None
    name: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """What is being saved with a home: on which revision it was made, by whom, what it says.

    ``fold`` is the window and field of the edit; equal ones within seconds become one revision.
    """

    base: int
    author: str
    summary: str
    at_ms: int
    fold: str = ""
    undoes: int | None = None
    import_id: int | None = None


@dataclass(frozen=True, slots=True)
class History:
    """The changes that stand, the newest last, and the undoings that can be taken back, the newest last."""

    done: tuple[Revision, ...]
    undone: tuple[Revision, ...]


def history_of(newest_first: Sequence[Revision]) -> History:
    """Return a home's history from its revisions.

    An undo takes a change away, the undo of an undo brings it back; any other change ends what can be brought back.
    """
    by_number = {revision.number: revision for revision in newest_first}
    done: list[Revision] = []
    undone: list[Revision] = []
    for revision in reversed(newest_first):
        if revision.undoes is None:
            done.append(revision)
            undone.clear()
            continue
        target = by_number.get(revision.undoes)
        if target in done:
            done.remove(target)
            undone.append(revision)
        elif target is not None and target.undoes in by_number:
            undone = [each for each in undone if each is not target]
            done.append(by_number[target.undoes])
    return History(tuple(done), tuple(undone))


def _why(error: Exception) -> str:
    """Return in words why a document cannot be read."""
    if isinstance(error, ValidationError):
        return "; ".join(places_told(error))
    if isinstance(error, ZstdError):
        return "its bytes are damaged"
    return str(error)


def _opened(home_id: str, number: int, data: bytes) -> Home:
    """Return a stored document's home; ``HomeUnreadable`` if it cannot be read."""
    try:
        return home_from_packed(data)
    except (ValueError, ZstdError) as error:
        raise HomeUnreadable(home_id, number, _why(error)) from error


def note_change(connection: Connection, home_id: str) -> None:
    """Note within a transaction that something beside a home's revision changed."""
    connection.execute(update(HOME).where(HOME.c.id == home_id).values(changes=HOME.c.changes + 1))


_LINE = [HOME.c[each.name] for each in fields(HomeLine)]
_TOLD = [REVISION.c[each.name] for each in fields(Revision)]


class HomeStore:
    """Homes in the database; each method is one transaction unless a connection is handed in."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def lines(self) -> list[HomeLine]:
        """Return all homes in order of name, without those that were taken away."""
        return [line for line in self.all_lines() if line.taken_away_ms is None]

    def all_lines(self) -> list[HomeLine]:
        """Return all homes in order of name, those that were taken away too."""
        return self._lines(select(*_LINE).order_by(HOME.c.name))

    def line(self, home_id: str) -> HomeLine | None:
        """Return the line of a home, None if it is not there or was taken away."""
        return remembered(("line", self._engine, home_id), lambda: self._line(home_id))

    def _line(self, home_id: str) -> HomeLine | None:
        query = select(*_LINE).where(HOME.c.id == home_id, HOME.c.taken_away_ms.is_(None))
        return next(iter(self._lines(query)), None)

    def _lines(self, query: Select[Any]) -> list[HomeLine]:
        with reading(self._engine) as connection:
            return [HomeLine(**row) for row in connection.execute(query).mappings()]

    def keep_listed(self, home_id: str, revision: int, listed: str) -> None:
        """Keep what lists say of a home at a revision."""
        with self._engine.begin() as connection:
            connection.execute(
                update(HOME)
                .where(HOME.c.id == home_id, HOME.c.revision == revision)
                .values(listed=listed, listed_revision=revision)
            )

    def stamp(self, home_id: str) -> HomeStamp | None:
        """Return a home's stamp, None if it is not there or was taken away."""
        query = select(
            HOME.c.revision,
            HOME.c.changes,
            func.coalesce(HOME.c.as_of_ms, HOME.c.last_climate_ms, HOME.c.last_reading_ms),
            select(func.coalesce(func.max(JOB.c.id), 0)).where(JOB.c.home_id == home_id).scalar_subquery(),
            HOME.c.matters,
        ).where(HOME.c.id == home_id, HOME.c.taken_away_ms.is_(None))
        with reading(self._engine) as connection:
            row = connection.execute(query).first()
        if row is None:
            return None
        return HomeStamp(revision=row[0], changes=row[1], as_of_ms=row[2], job_id=row[3], matters=row[4])

    def take_away(self, home_id: str, at_ms: int | None) -> None:
        """Take a home away from an instant on, or bring it back (None).

        Raises
        ------
        HomeNotFound
            If there is no such home.
        """
        with self._engine.begin() as connection:
            found = connection.execute(select(HOME.c.id).where(HOME.c.id == home_id)).scalar()
            if found is None:
                raise HomeNotFound(home_id)
            connection.execute(update(HOME).where(HOME.c.id == home_id).values(taken_away_ms=at_ms))

    def remove_for_good(self, before_ms: int) -> list[str]:
        """Remove every home that was taken away before an instant, with all that hangs on it; return their names."""
        old = and_(HOME.c.taken_away_ms.is_not(None), HOME.c.taken_away_ms < before_ms)
        with self._engine.begin() as connection:
            names = list(connection.execute(select(HOME.c.name).where(old)).scalars())
            connection.execute(delete(HOME).where(old))
        return names

    def create(self, home: Home, *, author: str, at_ms: int, summary: str) -> int:
        """Store a new home as revision 1."""
        with self._engine.begin() as connection:
            connection.execute(insert(HOME).values(id=home.id, name=home.name, revision=1))
            self._append(connection, home, 1, Change(base=0, author=author, summary=summary, at_ms=at_ms))
        return 1

    def load(self, home_id: str, number: int | None = None) -> tuple[Home, int]:
        """Return a home and its revision number.

        Raises
        ------
        HomeNotFound
            If home or revision is not there, or was taken away.
        HomeUnreadable
            If what is stored cannot be read.
        """
        data, found = self.stored(home_id, number)
        return _opened(home_id, found, data), found

    def stored(self, home_id: str, number: int | None = None) -> tuple[bytes, int]:
        """Return a document as it is stored, and its revision's number; ``HomeNotFound`` if it is not there."""
        # One statement: an edit that is folded into the newest revision takes that one's place.
        query = (
            select(REVISION.c.document, REVISION.c.number)
            .join(HOME, HOME.c.id == REVISION.c.home_id)
            .where(
                HOME.c.id == home_id,
                HOME.c.taken_away_ms.is_(None),
                REVISION.c.number == (HOME.c.revision if number is None else number),
            )
        )
        with reading(self._engine) as connection:
            row = connection.execute(query).first()
        if row is None:
            raise HomeNotFound(home_id)
        return row[0], int(row[1])

    def locked(self, connection: Connection, home_id: str) -> tuple[Home, int]:
        """Return a home and its revision number, nobody else changing what hangs on it until the transaction's end.

        Raises
        ------
        HomeNotFound
            If it is not there, or was taken away.
        HomeUnreadable
            If what is stored cannot be read.
        """
        here = select(HOME.c.revision).where(HOME.c.id == home_id, HOME.c.taken_away_ms.is_(None)).with_for_update()
        revision = connection.execute(here).scalar()
        data = connection.execute(
            select(REVISION.c.document).where(REVISION.c.home_id == home_id, REVISION.c.number == revision)
        ).scalar()
        if revision is None or data is None:
            raise HomeNotFound(home_id)
        return _opened(home_id, int(revision), data), int(revision)

    def save(self, home: Home, change: Change, connection: Connection | None = None) -> int:
        """Append a revision and return its number. Imports since the base, which leave the document, do not conflict.

        Raises
        ------
        RevisionConflict
            If the home is no longer at ``change.base``.
        HomeNotFound
            If the home is not there.
        """
        if connection is not None:
            return self._save(connection, home, change)
        return in_transaction(self._engine, lambda own: self._save(own, home, change))

    def _save(self, connection: Connection, home: Home, change: Change) -> int:
        current = connection.execute(select(HOME.c.revision).where(HOME.c.id == home.id).with_for_update()).scalar()
        if current is None:
            raise HomeNotFound(home.id)
        if current != change.base and not self._has_only_imports_since(connection, home.id, int(current), change):
            raise RevisionConflict(int(current))
        number = int(current) + 1
        # A fold still moves the counter, so that a window that loaded the folded state is told.
        parent = self._folded_parent(connection, home.id, int(current), change)
        self._append(connection, home, number, change, parent=parent)
        connection.execute(update(HOME).where(HOME.c.id == home.id).values(revision=number, name=home.name))
        return number

    def _has_only_imports_since(self, connection: Connection, home_id: str, current: int, change: Change) -> bool:
        """Return whether an edit's base is older than the newest revision by imports alone."""
        if change.undoes is not None:
            return False
        imports = select(func.count()).where(
            REVISION.c.home_id == home_id, REVISION.c.number > change.base, REVISION.c.import_id.is_not(None)
        )
        return bool(connection.execute(imports).scalar() == current - change.base)

    def _folded_parent(self, connection: Connection, home_id: str, current: int, change: Change) -> int:
        """Return the parent: the current revision, or its own parent if the two are one edit."""
        if not change.fold:
            return current
        row = connection.execute(
            select(REVISION.c.fold, REVISION.c.at_ms, REVISION.c.parent).where(
                REVISION.c.home_id == home_id, REVISION.c.number == current
            )
        ).one()
        if row.fold != change.fold or change.at_ms - row.at_ms > FOLD_MS:
            return current
        connection.execute(delete(REVISION).where(REVISION.c.home_id == home_id, REVISION.c.number == current))
        return int(row.parent)

    def _append(
        self, connection: Connection, home: Home, number: int, change: Change, parent: int | None = None
    ) -> None:
        connection.execute(
            insert(REVISION).values(
                home_id=home.id,
                number=number,
                parent=change.base if parent is None else parent,
                at_ms=change.at_ms,
                author=change.author[:80],
                summary=change.summary[:400],
                fold=change.fold[:120],
                undoes=change.undoes,
                import_id=change.import_id,
                document=stored_home(home),
            )
        )
        connection.execute(
            insert(EVENT).values(
                home_id=home.id,
                at_ms=change.at_ms,
                kind="revision",
                subject="",
                revision=number,
                detail=change.summary[:400],
            )
        )

    def revisions(
        self, home_id: str, connection: Connection | None = None, *, most: int | None = None
    ) -> list[Revision]:
        """Return all revisions, or so many, newest first."""
        query = select(*_TOLD).where(REVISION.c.home_id == home_id).order_by(REVISION.c.number.desc()).limit(most)
        with reading(self._engine, connection) as at:
            return [Revision(**row) for row in at.execute(query).mappings()]

    def newest_named(self, home_id: str) -> Revision | None:
        """Return the newest revision that has a name, None if none has."""
        named = select(*_TOLD).where(REVISION.c.home_id == home_id, REVISION.c.name != "")
        with reading(self._engine) as at:
            row = at.execute(named.order_by(REVISION.c.number.desc()).limit(1)).mappings().first()
        return None if row is None else Revision(**row)

    def history(self, home_id: str) -> History:
        """Return what can be undone and done again."""
        return history_of(self.revisions(home_id))

    def recent(self, home_id: str) -> tuple[list[Revision], History]:
        """Return the newest revisions, and a history whose ends are right: what an undo and a redo would take is there.

        All revisions are read only where the newest do not tell.
        """
        newest = self.revisions(home_id, most=RECENT)
        found, numbers = history_of(newest), {revision.number for revision in newest}
        tells = found.done and all(r.undoes is None or r.undoes in numbers for r in newest)
        if tells or len(newest) < RECENT:
            return newest, found
        every = self.revisions(home_id)
        return every, history_of(every)

    def set_name(self, home_id: str, number: int, name: str) -> None:
        """Name a revision, so that it can be found and compared with; "" takes the name away.

        Raises
        ------
        HomeNotFound
            If there is no such revision.
        """
        with self._engine.begin() as connection:
            done = connection.execute(
                update(REVISION).where(REVISION.c.home_id == home_id, REVISION.c.number == number).values(name=name)
            )
            if not done.rowcount and not self._has(connection, home_id, number):
                raise HomeNotFound(home_id)
            note_change(connection, home_id)

    def _has(self, connection: Connection, home_id: str, number: int) -> bool:
        query = select(REVISION.c.number).where(REVISION.c.home_id == home_id, REVISION.c.number == number)
        return connection.execute(query).scalar() is not None

    def set_as_of(self, home_id: str, at_ms: int | None) -> None:
        """Set the instant that counts as now for a home."""
        with self._engine.begin() as connection:
            connection.execute(update(HOME).where(HOME.c.id == home_id).values(as_of_ms=at_ms))
            note_change(connection, home_id)
