"""Readings as they come in: small rows at first, laid into the day chunks from time to time, each once."""

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from sqlalchemy import Connection, Engine, and_, delete, func, select, text, update
from sqlalchemy.dialects.mysql import insert

from warmeter.core.arrays import Ints
from warmeter.core.readings.record import Readings, SeriesRecord
from warmeter.core.timegrid import from_ms
from warmeter.core.units import MS_PER_DAY, MS_PER_S
from warmeter.store.engine import in_transaction, insert_row, reading
from warmeter.store.homes import note_change
from warmeter.store.memo import remembered
from warmeter.store.reading_merge import Merging, merge
from warmeter.store.readings import ReadingStore, live_rows, stored_series
from warmeter.store.tables import HOME, IMPORT, LATE_READING, LIVE_READING, SERIES

LIVE_FILE, LIVE_AUTHOR = "live readings of", "Live"
LATE_MS = 2 * MS_PER_S  # what is heard later than this after its own time says nothing to rules before it was heard

_MINE = select(LIVE_READING.c.at_ms).where(LIVE_READING.c.series_id == SERIES.c.id)
# One step in the index for each series: a search through all rows would grow with what came in.
_NEWEST = _MINE.order_by(LIVE_READING.c.at_ms.desc()).limit(1).scalar_subquery()
_OLDEST = _MINE.order_by(LIVE_READING.c.at_ms).limit(1).scalar_subquery()
# All rows as one text: written out one by one they cost the client seven times as much.
_ADD = text(
    "INSERT IGNORE INTO live_reading (series_id, at_ms, value, heard_ms, real_ms, message_id) "
    "SELECT * FROM JSON_TABLE(:told, '$[*]' COLUMNS (series_id INT PATH '$[0]', at_ms BIGINT PATH '$[1]', "
    "value DOUBLE PATH '$[2]', heard_ms BIGINT PATH '$[3]', real_ms BIGINT PATH '$[4]', message_id INT PATH '$[5]')) told"
)


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardReading:
    """A reading as it was heard: of which series, when it is of and when it was heard [ms, home], heard by the machine's clock.

    ``message_id`` is the number under which the broker sent it, 0 for none: one that is sent again counts once.
    """

    series_id: int
    at_ms: int
    value: float
    heard_ms: int
    real_ms: int
    message_id: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class LatestReading:
    """The newest reading of a series, and when it was heard by the machine's clock [ms]."""

    series_id: int
    at_ms: int
    value: float
    heard_ms: int
    real_ms: int


class LiveReadingStore:
    """Readings of homes that are linked live."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def series_id(self, home_id: str, record: SeriesRecord) -> int:
        """Return the number of a series, made if there is none."""
        return in_transaction(
            self._engine, lambda connection: ReadingStore(self._engine).series_id_of(connection, home_id, record)
        )

    def series_ids(self, home_id: str) -> dict[SeriesRecord, int]:
        """Return the numbers of a home's series, those too that hold no reading yet."""
        with reading(self._engine) as connection:
            rows = connection.execute(select(SERIES).where(SERIES.c.home_id == home_id)).all()
        return {found.record: found.id for found in map(stored_series, rows)}

    def add(self, rows: Sequence[HeardReading], connection: Connection | None = None) -> int:
        """Keep readings in one transaction, each (series, time) once; return how many were new."""
        if not rows:
            return 0
        if connection is None:
            return in_transaction(self._engine, lambda own: self.add(rows, own))
        told = [(r.series_id, r.at_ms, r.value, r.heard_ms, r.real_ms, r.message_id) for r in rows]
        added = connection.execute(_ADD, {"told": json.dumps(told, allow_nan=False)}).rowcount
        late = [
            {"series_id": r.series_id, "at_ms": r.at_ms, "heard_ms": r.heard_ms}
            for r in rows
            if r.heard_ms - r.at_ms > LATE_MS
        ]
        if late:
            connection.execute(insert(LATE_READING).prefix_with("IGNORE"), late)
        return added

    def has_message(self, series_id: int, message_id: int, value: float, since_real_ms: int) -> bool:
        """Return whether a message that the broker sends again was kept already, since an instant of the machine's clock."""
        where = and_(
            LIVE_READING.c.series_id == series_id,
            LIVE_READING.c.message_id == message_id,
            LIVE_READING.c.value == value,
            LIVE_READING.c.real_ms >= since_real_ms,
        )
        with reading(self._engine) as connection:
            return connection.execute(select(LIVE_READING.c.at_ms).where(where).limit(1)).first() is not None

    def readings(self, series_id: int, start_ms: int, end_ms: int) -> Readings:
        """Return a series' readings of [start, end) that are not yet in its day chunks."""
        with reading(self._engine) as connection:
            return live_rows(connection, series_id, start_ms, end_ms)

    def latest(self, home_id: str) -> dict[int, LatestReading]:
        """Return the newest live reading of each series of a home."""
        newest = select(SERIES.c.id, _NEWEST.label("at_ms")).where(SERIES.c.home_id == home_id).subquery()
        query = select(LIVE_READING).join(
            newest, and_(LIVE_READING.c.series_id == newest.c.id, LIVE_READING.c.at_ms == newest.c.at_ms)
        )
        with reading(self._engine) as connection:
            rows = connection.execute(query).all()
        return {
            r.series_id: LatestReading(
                series_id=r.series_id, at_ms=r.at_ms, value=r.value, heard_ms=r.heard_ms, real_ms=r.real_ms
            )
            for r in rows
        }

    def heard_since(self, series_ids: Iterable[int], since_real_ms: int) -> list[HeardReading]:
        """Return what was heard of some series since an instant of the machine's clock, in the order of hearing."""
        where = and_(LIVE_READING.c.series_id.in_(tuple(series_ids)), LIVE_READING.c.real_ms >= since_real_ms)
        with reading(self._engine) as connection:
            rows = connection.execute(select(LIVE_READING).where(where).order_by(LIVE_READING.c.real_ms)).all()
        return [
            HeardReading(
                series_id=r.series_id,
                at_ms=r.at_ms,
                value=r.value,
                heard_ms=r.heard_ms,
                real_ms=r.real_ms,
                message_id=r.message_id,
            )
            for r in rows
        ]

    def count(self, home_id: str) -> int:
        """Return how many readings of a home stand in small rows: those that wait, and the newest of each series."""
        query = (
            select(func.count())
            .select_from(LIVE_READING)
            .join(SERIES, SERIES.c.id == LIVE_READING.c.series_id)
            .where(SERIES.c.home_id == home_id)
        )
        with reading(self._engine) as connection:
            return int(connection.execute(query).scalar_one())

    def late_series(self, home_id: str) -> frozenset[int]:
        """Return the series of a home of which any reading came late."""
        return remembered(("late series", self._engine, home_id), lambda: self._late_series(home_id))

    def _late_series(self, home_id: str) -> frozenset[int]:
        mine = select(SERIES.c.id).where(SERIES.c.home_id == home_id)
        query = select(LATE_READING.c.series_id).where(LATE_READING.c.series_id.in_(mine)).distinct()
        with reading(self._engine) as connection:
            return frozenset(connection.execute(query).scalars().all())

    def late(self, series_id: int, start_ms: int, end_ms: int) -> tuple[Ints, Ints]:
        """Return (times, when they were heard) of the readings of [start, end) that came late [ms UTC]."""
        where = and_(
            LATE_READING.c.series_id == series_id, LATE_READING.c.at_ms >= start_ms, LATE_READING.c.at_ms < end_ms
        )
        query = select(LATE_READING.c.at_ms, LATE_READING.c.heard_ms).where(where).order_by(LATE_READING.c.at_ms)
        with reading(self._engine) as connection:
            rows = connection.execute(query).all()
        return np.array([r[0] for r in rows], dtype=np.int64), np.array([r[1] for r in rows], dtype=np.int64)

    def waiting(self, home_id: str, until_ms: int) -> list[int]:
        """Return the series of a home that have readings before an instant to be laid into day chunks."""
        where = and_(SERIES.c.home_id == home_id, until_ms > _OLDEST)
        with reading(self._engine) as connection:
            return list(connection.execute(select(SERIES.c.id).where(where)).scalars().all())

    def seal(self, home_id: str, until_ms: int, now_ms: int, series_ids: Sequence[int] | None = None) -> int:
        """Lay a home's readings before an instant into its day chunks; return how many were new there.

        The newest of each series stays here as well: it is what is shown and judged by until the next comes.

        Parameters
        ----------
        until_ms : int
            Readings before it are laid [ms UTC, home].
        now_ms : int
            When it is done, by the machine's clock [ms UTC].
        series_ids : sequence of int or None
            Of these only; None: of all. A few at a time leave the rest of the work its turn.
        """
        ids = self.waiting(home_id, until_ms) if series_ids is None else series_ids
        return in_transaction(self._engine, lambda connection: self._seal(connection, home_id, ids, until_ms, now_ms))

    def _seal(self, connection: Connection, home_id: str, ids: Sequence[int], until_ms: int, now_ms: int) -> int:
        connection.execute(select(HOME.c.id).where(HOME.c.id == home_id).with_for_update())
        added, imports = 0, dict[str, int]()
        for series_id in ids:
            found = live_rows(connection, series_id, 0, until_ms)
            days = found.at_ms // MS_PER_DAY
            for day in np.unique(days).tolist():
                part = Readings(found.at_ms[days == day], found.value[days == day])
                name = f"{LIVE_FILE} {from_ms(int(part.at_ms[0])).date()}"
                if name not in imports:
                    imports[name] = self._import_of(connection, home_id, name, now_ms)
                counts = merge(connection, series_id, part, Merging(import_id=imports[name]))
                grown = IMPORT.c.added + counts.added
                connection.execute(update(IMPORT).where(IMPORT.c.id == imports[name]).values(added=grown))
                added += counts.added
            newest = select(func.max(LIVE_READING.c.at_ms)).where(LIVE_READING.c.series_id == series_id)
            laid_ms = min(until_ms, connection.execute(newest).scalar_one() or 0)
            mine = and_(LIVE_READING.c.series_id == series_id, LIVE_READING.c.at_ms < laid_ms)
            connection.execute(delete(LIVE_READING).where(mine))
        if added:
            ReadingStore.keep_bounds(home_id, connection)
            note_change(connection, home_id)
        return added

    @staticmethod
    def _import_of(connection: Connection, home_id: str, name: str, now_ms: int) -> int:
        """Return the import that a day's live readings belong to: it can be taken back as any other."""
        where = and_(IMPORT.c.home_id == home_id, IMPORT.c.file_name == name, IMPORT.c.taken_back_ms.is_(None))
        found = connection.execute(select(IMPORT.c.id).where(where)).scalar()
        if found is not None:
            return int(found)
        return insert_row(
            connection,
            IMPORT,
            home_id=home_id,
            file_name=name,
            digest="live",
            at_ms=now_ms,
            author=LIVE_AUTHOR,
            added=0,
            plan="{}",
        )
