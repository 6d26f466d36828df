"""Readings in day chunks: imported whole or not at all, and taken back value by value.

A chunk holds one UTC day of one series: times, exact values as imported, and the import of each.
"""

import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy import Connection, Engine, Row, and_, case, delete, func, or_, select, update

from warmeter.core.arrays import Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.quantity import CLIMATE, EXPECTED
from warmeter.core.readings.csvlog import TakenSeries
from warmeter.core.readings.record import Readings, SeriesRecord
from warmeter.core.units import MS_PER_DAY
from warmeter.store.engine import insert_row, reading
from warmeter.store.memo import remembered
from warmeter.store.reading_merge import Counts, Merging, compare, decoded, merge, take_out
from warmeter.store.reading_rows import READING_ROW
from warmeter.store.tables import CHUNK, FIT, HOME, IMPORT, LIVE_READING, SERIES, TAKEN_BACK

FAR_MS = 2**62


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredSeries:
    """A series with its id in the database."""

    id: int
    record: SeriesRecord


@dataclass(frozen=True, slots=True, kw_only=True)
class Extent:
    """How many readings a series holds, the first and the last of them [ms UTC]."""

    count: int
    first_ms: int
    last_ms: int

    def joined(self, other: "Extent") -> "Extent":
        """Return both together."""
        first, last = min(self.first_ms, other.first_ms), max(self.last_ms, other.last_ms)
        return Extent(count=self.count + other.count, first_ms=first, last_ms=last)


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportLine:
    """An import in a list."""

    id: int
    file_name: str
    at_ms: int
    author: str
    added: int
    is_taken_back: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Merged:
    """What an import did: values added, those of them that replace others, already there, different and left out."""

    import_id: int
    added: int
    equal: int
    different: int
    replaced: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportSource:
    """Whence an import comes."""

    home_id: str
    file_name: str
    digest: str
    author: str
    at_ms: int
    mapping: dict[str, object]


# One step in the index for each series: asked whether rows exist, the database goes through all of every home.
_FIRST_DAY = (
    select(CHUNK.c.day).where(CHUNK.c.series_id == SERIES.c.id).order_by(CHUNK.c.day).limit(1).scalar_subquery()
)
_FIRST_LIVE = (
    select(LIVE_READING.c.at_ms)
    .where(LIVE_READING.c.series_id == SERIES.c.id)
    .order_by(LIVE_READING.c.at_ms)
    .limit(1)
    .scalar_subquery()
)


def stored_series(row: Row[Any]) -> StoredSeries:
    """Return a series as its row has it."""
    record = SeriesRecord(
        quantity=row.quantity,
        unit=row.unit,
        kind=row.kind,
        stamp=row.stamp,
        step_s=row.step_s,
        longest_hold_s=row.longest_hold_s,
        subject=row.subject,
    )
    return StoredSeries(id=row.id, record=record)


class ReadingStore:
    """Series, chunks and imports."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        # A series stays what it is, and its number is not given again.
        self._known: dict[int, StoredSeries] = {}

    def series(self, home_id: str) -> list[StoredSeries]:
        """Return a home's series that hold readings."""
        return remembered(("series", self._engine, home_id), lambda: self._series(home_id))

    def series_by_part(self, home_id: str) -> dict[tuple[str, str], list[StoredSeries]]:
        """Return a home's series that hold readings, by quantity and subject."""
        return remembered(("series by part", self._engine, home_id), lambda: self._by_part(home_id))

    def _by_part(self, home_id: str) -> dict[tuple[str, str], list[StoredSeries]]:
        found: dict[tuple[str, str], list[StoredSeries]] = {}
        for series in self.series(home_id):
            found.setdefault((series.record.quantity, series.record.subject), []).append(series)
        return found

    def _series(self, home_id: str) -> list[StoredSeries]:
        holds_some = or_(_FIRST_DAY.is_not(None), _FIRST_LIVE.is_not(None))
        query = select(SERIES.c.id).where(SERIES.c.home_id == home_id, holds_some).order_by(SERIES.c.id)
        with reading(self._engine) as connection:
            ids = connection.execute(query).scalars().all()
            unknown = [series_id for series_id in ids if series_id not in self._known]
            if unknown:
                rows = connection.execute(select(SERIES).where(SERIES.c.id.in_(unknown))).all()
                self._known |= {row.id: stored_series(row) for row in rows}
        return [self._known[series_id] for series_id in ids]

    def readings(self, series_id: int, start_ms: int | None = None, end_ms: int | None = None) -> Readings:
        """Return a series' raw readings of [start, end), or all."""
        query = select(CHUNK.c.data).where(CHUNK.c.series_id == series_id).order_by(CHUNK.c.day)
        if start_ms is not None:
            query = query.where(CHUNK.c.day >= start_ms // MS_PER_DAY)
        if end_ms is not None:
            query = query.where(CHUNK.c.day <= (end_ms - 1) // MS_PER_DAY)
        with reading(self._engine) as connection:
            parts = [decoded(row.data) for row in connection.execute(query)]
            live = live_rows(connection, series_id, start_ms or 0, FAR_MS if end_ms is None else end_ms)
        rows = np.concatenate(parts) if parts else np.zeros(0, READING_ROW)
        found = with_live(Readings(rows["at_ms"].astype(np.int64), rows["value"].astype(np.float64)), live)
        if start_ms is None and end_ms is None:
            return found
        return found.between(start_ms or 0, end_ms if end_ms is not None else FAR_MS)

    def extents(self, home_id: str) -> dict[int, Extent]:
        """Return how far each series of a home that holds readings reaches, by its id."""
        found: dict[int, Extent] = {}
        counts = (
            (CHUNK.c.series_id, func.sum(CHUNK.c.count), func.min(CHUNK.c.first_ms), func.max(CHUNK.c.last_ms)),
            (LIVE_READING.c.series_id, func.count(), func.min(LIVE_READING.c.at_ms), func.max(LIVE_READING.c.at_ms)),
        )
        with reading(self._engine) as connection:
            for series_id, *sums in counts:
                query = select(series_id, *sums).join(SERIES, SERIES.c.id == series_id)
                rows = connection.execute(query.where(SERIES.c.home_id == home_id).group_by(series_id)).all()
                for row in rows:
                    extent = Extent(count=int(row[1]), first_ms=int(row[2]), last_ms=int(row[3]))
                    found[row[0]] = extent if row[0] not in found else found[row[0]].joined(extent)
        return found

    def days(self, series_ids: Iterable[int]) -> Ints:
        """Return the days since 1970, UTC, on which any of some series holds a reading, rising."""
        query = select(CHUNK.c.day).where(CHUNK.c.series_id.in_(tuple(series_ids))).distinct().order_by(CHUNK.c.day)
        with reading(self._engine) as connection:
            return np.array(connection.execute(query).scalars().all(), dtype=np.int64)

    def span(self, series_id: int) -> tuple[int, int]:
        """Return (first, last) reading of a series [ms UTC].

        Raises
        ------
        NotKnowable
            If it holds no reading: its import was taken back since the series was looked up.
        """
        return remembered(("span", self._engine, series_id), lambda: self._span(series_id))

    def _span(self, series_id: int) -> tuple[int, int]:
        laid = select(func.min(CHUNK.c.first_ms), func.max(CHUNK.c.last_ms)).where(CHUNK.c.series_id == series_id)
        at_ms = LIVE_READING.c.at_ms
        live = select(func.min(at_ms), func.max(at_ms)).where(LIVE_READING.c.series_id == series_id)
        with reading(self._engine) as connection:
            spans = [tuple(connection.execute(query).one()) for query in (laid, live)]
        known = [(int(first), int(last)) for first, last in spans if first is not None]
        if not known:
            raise NotKnowable("A log was taken back just now.", "Load the page anew.")
        return min(first for first, _ in known), max(last for _, last in known)

    def bounds(self, home_id: str) -> tuple[int, int] | None:
        """Return (first, last) reading of a home [ms UTC], None without readings."""
        return remembered(("bounds", self._engine, home_id), lambda: self._bounds(home_id))

    def _bounds(self, home_id: str) -> tuple[int, int] | None:
        query = select(HOME.c.first_reading_ms, HOME.c.last_reading_ms).where(HOME.c.id == home_id)
        with reading(self._engine) as connection:
            row = connection.execute(query).first()
        return None if row is None or row[0] is None else (int(row[0]), int(row[1]))

    @staticmethod
    def keep_bounds(home_id: str, connection: Connection) -> None:
        """Keep with the home its first and last reading, the last of its climate, and how many series hold some."""
        climate = case((SERIES.c.quantity.in_(CLIMATE), CHUNK.c.last_ms))
        read = case((SERIES.c.quantity.not_in(EXPECTED), CHUNK.c.last_ms))
        held = (
            select(
                func.min(CHUNK.c.first_ms),
                # A home that knows nothing but forecasts and prices still has a last instant.
                func.coalesce(func.max(read), func.max(CHUNK.c.last_ms)),
                func.max(climate),
                func.count(CHUNK.c.series_id.distinct()),
            )
            .join(SERIES, SERIES.c.id == CHUNK.c.series_id)
            .where(SERIES.c.home_id == home_id)
        )
        first, last, last_climate, count = connection.execute(held).one()
        change = update(HOME).where(HOME.c.id == home_id)
        connection.execute(
            change.values(
                first_reading_ms=first, last_reading_ms=last, last_climate_ms=last_climate, series_count=count
            )
        )

    def add(self, source: ImportSource, taken: tuple[TakenSeries, ...], connection: Connection) -> Merged:
        """Merge an import's series into the chunks, within the caller's transaction, which holds the home's row."""
        import_id = insert_row(
            connection,
            IMPORT,
            home_id=source.home_id,
            file_name=source.file_name[:200],
            digest=source.digest,
            at_ms=source.at_ms,
            author=source.author[:80],
            added=0,
            plan=json.dumps(source.mapping),
        )
        counts, how = Counts(), Merging(import_id=import_id, replaces=bool(source.mapping.get("replaces")))
        for series in taken:
            series_id = self.series_id_of(connection, source.home_id, series.record)
            counts += merge(connection, series_id, series.readings, how)
        return self._ended(source.home_id, counts, how, connection)

    def _ended(self, home_id: str, counts: Counts, how: Merging, connection: Connection) -> Merged:
        """Note what an import brought, the values that replace others among them."""
        replaced = counts.different if how.replaces else 0
        added = counts.added + replaced
        connection.execute(update(IMPORT).where(IMPORT.c.id == how.import_id).values(added=added, taken_back_ms=None))
        self.keep_bounds(home_id, connection)
        return Merged(
            import_id=how.import_id,
            added=added,
            equal=counts.equal,
            different=counts.different - replaced,
            replaced=replaced,
        )

    def differing(self, home_id: str, taken: tuple[TakenSeries, ...]) -> int:
        """Return how many values of an import differ from what is there at the same time."""
        with reading(self._engine) as connection:
            known = [(self._known_series(connection, home_id, series.record), series.readings) for series in taken]
            return sum(compare(connection, place, found).different for place, found in known if place is not None)

    @staticmethod
    def _known_series(connection: Connection, home_id: str, record: SeriesRecord) -> int | None:
        same = and_(
            SERIES.c.home_id == home_id,
            SERIES.c.quantity == record.quantity,
            SERIES.c.unit == record.unit,
            SERIES.c.kind == record.kind,
            SERIES.c.stamp == record.stamp,
            SERIES.c.step_s == record.step_s,
            SERIES.c.subject == record.subject,
        )
        found = connection.execute(select(SERIES.c.id).where(same)).scalar()
        return None if found is None else int(found)

    def series_id_of(self, connection: Connection, home_id: str, record: SeriesRecord) -> int:
        """Return the number of a series, made if there is none, within the caller's transaction."""
        found = self._known_series(connection, home_id, record)
        if found is not None:
            return found
        return insert_row(
            connection,
            SERIES,
            home_id=home_id,
            quantity=record.quantity,
            unit=record.unit,
            kind=record.kind,
            stamp=record.stamp,
            step_s=record.step_s,
            longest_hold_s=record.longest_hold_s,
            subject=record.subject,
        )

    def take_back(self, home_id: str, import_id: int, at_ms: int, connection: Connection) -> int:
        """Put exactly an import's values aside, within the caller's transaction, which holds the home's row.

        What they replaced stands again. Returns how many went. Fits made with them go.
        """
        removed = take_out(connection, home_id, import_id)
        connection.execute(update(IMPORT).where(IMPORT.c.id == import_id).values(taken_back_ms=at_ms))
        connection.execute(delete(FIT).where(FIT.c.home_id == home_id))
        self.keep_bounds(home_id, connection)
        return removed

    def bring_back(self, home_id: str, import_id: int, connection: Connection) -> Merged:
        """Merge an import's values that were put aside, as ``add`` does. Fits made without them go.

        Where another import's value stands now, the import's own lies beneath it until that one goes.
        """
        plan = json.loads(connection.execute(select(IMPORT.c.plan).where(IMPORT.c.id == import_id)).scalar_one())
        counts = Counts()
        how = Merging(import_id=import_id, replaces=bool(plan.get("replaces")), lies_beneath=True)
        mine = TAKEN_BACK.c.import_id == import_id
        for row in connection.execute(select(TAKEN_BACK).where(mine).order_by(TAKEN_BACK.c.series_id)).all():
            rows = decoded(row.data)
            counts += merge(connection, row.series_id, Readings(rows["at_ms"], rows["value"]), how)
        connection.execute(delete(TAKEN_BACK).where(mine))
        connection.execute(delete(FIT).where(FIT.c.home_id == home_id))
        return self._ended(home_id, counts, how, connection)

    def imports(self, home_id: str, connection: Connection | None = None) -> list[ImportLine]:
        """Return a home's imports, newest first."""
        if connection is None:
            return remembered(("imports", self._engine, home_id), lambda: self._imports(home_id, None))
        return self._imports(home_id, connection)

    def import_stamp(self, home_id: str) -> tuple[int, ...]:
        """Return the ids of the imports that count, newest first: the same for as long as a home's logs are."""
        return tuple(each.id for each in self.imports(home_id) if not each.is_taken_back)

    def _imports(self, home_id: str, connection: Connection | None) -> list[ImportLine]:
        query = select(IMPORT).where(IMPORT.c.home_id == home_id).order_by(IMPORT.c.id.desc())
        with reading(self._engine, connection) as at:
            rows = at.execute(query).all()
        return [
            ImportLine(
                id=r.id,
                file_name=r.file_name,
                at_ms=r.at_ms,
                author=r.author,
                added=r.added,
                is_taken_back=r.taken_back_ms is not None,
            )
            for r in rows
        ]


def live_rows(connection: Connection, series_id: int, start_ms: int, end_ms: int) -> Readings:
    """Return a series' readings of [start, end) that are not yet in its day chunks, within a connection."""
    where = and_(LIVE_READING.c.series_id == series_id, LIVE_READING.c.at_ms >= start_ms, LIVE_READING.c.at_ms < end_ms)
    query = select(LIVE_READING.c.at_ms, LIVE_READING.c.value).where(where).order_by(LIVE_READING.c.at_ms)
    rows = connection.execute(query).all()
    return Readings(np.array([r[0] for r in rows], dtype=np.int64), np.array([r[1] for r in rows], dtype=np.float64))


def with_live(laid: Readings, live: Readings) -> Readings:
    """Return readings of day chunks with those that are not yet in them; of one instant the one that was laid counts."""
    if not live.at_ms.size:
        return laid
    fresh = ~np.isin(live.at_ms, laid.at_ms)
    at_ms = np.concatenate([laid.at_ms, live.at_ms[fresh]])
    order = np.argsort(at_ms, kind="stable")
    return Readings(at_ms[order], np.concatenate([laid.value, live.value[fresh]])[order])
