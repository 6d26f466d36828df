"""One home with all that hangs on it, as a file that others can read, and in again under ids of its own."""

import secrets
from collections.abc import Callable, Iterator, Mapping
from dataclasses import fields, replace
from pathlib import Path

import numpy as np
from pydantic import TypeAdapter, ValidationError
from sqlalchemy import Connection, Engine, Select, Table, select
from sqlalchemy.exc import SQLAlchemyError
from zstandard import ZstdError

from warmeter.core.home.document import Home
from warmeter.core.readings.record import SeriesRecord
from warmeter.store.codec import fit_from_bytes, home_from_packed, pack, stored_home, unpack
from warmeter.store.dump import DumpError, DumpReader, DumpWriter, Row, inserted
from warmeter.store.engine import DatabaseAway, DatabaseBusy, insert_row, newest_shape, snapshot
from warmeter.store.homes import HomeNotFound
from warmeter.store.photo_cleaning import clean_photo
from warmeter.store.reading_rows import READING_ROW
from warmeter.store.readings import ReadingStore
from warmeter.store.tables import (
    CHUNK,
    EVENT,
    FIT,
    HOME,
    IMPORT,
    JOB,
    JOB_RESULT,
    PHOTO,
    REPLACED,
    REVISION,
    SERIES,
    TAKEN_BACK,
)

FORMAT = "warmeter-archive/1"
MOST_BYTES = 16 * 1024**3  # unpacked
Opener = Callable[[str], object]
_SERIES = TypeAdapter(SeriesRecord)
_SERIES_FIELDS = [each.name for each in fields(SeriesRecord)]
_KEPT_WITH_HOME = ("id", "name", "revision", "as_of_ms")


def write_archive(engine: Engine, home_id: str, path: Path, at_ms: int) -> None:
    """Write a home as it is now: its revisions, series, imports, readings, events, fits and results.

    Raises
    ------
    HomeNotFound
        If it is not there, or was taken away.
    """
    series = select(SERIES.c.id).where(SERIES.c.home_id == home_id)
    ended = select(JOB.c.id).where(JOB.c.home_id == home_id, JOB.c.state == "done")
    here = HOME.c.taken_away_ms.is_(None)
    parts: list[tuple[Table, Select[tuple[object, ...]]]] = [
        (HOME, select(*(HOME.c[name] for name in _KEPT_WITH_HOME)).where(HOME.c.id == home_id, here)),
        *(
            (table, select(table).where(table.c.home_id == home_id))
            for table in (REVISION, SERIES, IMPORT, EVENT, FIT, PHOTO)
        ),
        *((table, select(table).where(table.c.series_id.in_(series))) for table in (CHUNK, TAKEN_BACK, REPLACED)),
        (JOB, select(JOB).where(JOB.c.id.in_(ended))),
        (JOB_RESULT, select(JOB_RESULT).where(JOB_RESULT.c.job_id.in_(ended))),
    ]
    writer = DumpWriter(path)
    with snapshot(engine) as connection:
        for table, query in parts:
            rows = connection.execute(query.order_by(*table.primary_key.columns)).mappings()
            count = writer.add(table, rows, is_open=True)  # type: ignore[arg-type]
            if table is HOME and count == 0:
                raise HomeNotFound(home_id)
    writer.close(FORMAT, newest_shape(), at_ms)


def read_archive(engine: Engine, path: Path, openers: Mapping[str, Opener]) -> tuple[str, str]:
    """Bring in an archive's home, whole or not at all; return its id and name.

    One whose id is there already, or was taken away, gets a new one and is called a copy. ``openers`` open the detail
    of an event by its kind, as pages will.

    Raises
    ------
    DumpError
        If the file is no archive, is damaged, or holds what cannot be opened.
    """
    with DumpReader(path, FORMAT, MOST_BYTES) as reader:
        reader.verify()
        try:
            with engine.begin() as connection:
                return _Arrival(connection, reader, openers).run()
        except (DatabaseAway, DatabaseBusy, DumpError):
            raise
        except (SQLAlchemyError, ValidationError, ZstdError, KeyError, TypeError, ValueError, OverflowError) as error:
            reason = str(error).splitlines()[0][:200]
            raise DumpError(f"this archive cannot be taken: {reason}. Nothing was changed") from error


class _Arrival:
    """One bringing-in: new ids for what the file numbers."""

    def __init__(self, connection: Connection, reader: DumpReader, openers: Mapping[str, Opener]) -> None:
        self._connection, self._reader, self._openers = connection, reader, openers
        self._home_id = ""

    def run(self) -> tuple[str, str]:
        """Insert everything and return the home's id and name."""
        homes = list(self._reader.rows(HOME))
        if len(homes) != 1:
            raise DumpError("this archive does not hold one home")
        line = homes[0]
        newest = self._newest(line["revision"])
        is_known = self._connection.execute(select(HOME.c.id).where(HOME.c.id == newest.id)).scalar() is not None
        home = replace(newest, id=secrets.token_hex(4), name=f"{newest.name[:70]} (copy)") if is_known else newest
        self._home_id = home.id
        kept = {name: line[name] for name in _KEPT_WITH_HOME}
        self._connection.execute(HOME.insert(), [kept | {"id": home.id, "name": home.name}])
        imports = self._numbered(IMPORT)
        for row in self._reader.rows(SERIES):
            _SERIES.validate_python({name: row[name] for name in _SERIES_FIELDS})
        series = self._numbered(SERIES)
        for row in self._reader.rows(JOB):
            if row["state"] != "done":
                raise DumpError(f"job {row['id']} of this archive has not ended well, so it holds nothing to import")
        jobs = self._numbered(JOB)
        self._insert(REVISION, self._revisions(line["revision"], stored_home(home), imports, is_known=is_known))
        self._insert(EVENT, map(self._opened_event, self._reader.rows(EVENT)))
        self._insert(FIT, map(_with_fit_that_opens, self._reader.rows(FIT)))
        self._insert(PHOTO, map(_cleaned_photo, self._reader.rows(PHOTO)))
        inserted(self._connection, CHUNK, (_placed(row, series, imports) for row in self._reader.rows(CHUNK)))
        for table in (TAKEN_BACK, REPLACED):
            of_imports = (
                _placed(row, series, imports) | {"import_id": imports[row["import_id"]]}
                for row in self._reader.rows(table)
            )
            inserted(self._connection, table, of_imports)
        results = (row | {"job_id": jobs[row["job_id"]]} for row in self._reader.rows(JOB_RESULT))
        inserted(self._connection, JOB_RESULT, results)
        ReadingStore.keep_bounds(home.id, self._connection)
        return home.id, home.name

    def _newest(self, number: int) -> Home:
        """Return the home of the newest revision, which has to open."""
        for row in self._reader.rows(REVISION):
            if row["number"] == number:
                return home_from_packed(row["document"])
        raise DumpError(f"this archive lacks its newest revision, {number}")

    def _numbered(self, table: Table) -> dict[int, int]:
        """Insert a table's rows under new numbers; return the new of each old one."""
        found = {}
        for row in self._reader.rows(table):
            values = {k: v for k, v in row.items() if k != "id"} | {"home_id": self._home_id}
            found[row["id"]] = insert_row(self._connection, table, **values)
        return found

    def _opened_event(self, row: Row) -> Row:
        """Return an event without its number, having opened its detail."""
        opener = self._openers.get(row["kind"])
        if opener is not None:
            opener(row["detail"])
        return {k: v for k, v in row.items() if k != "id"}

    def _insert(self, table: Table, rows: Iterator[Row]) -> None:
        inserted(self._connection, table, (row | {"home_id": self._home_id} for row in rows))

    def _revisions(self, newest: int, document: bytes, imports: dict[int, int], *, is_known: bool) -> Iterator[Row]:
        for row in self._reader.rows(REVISION):
            if row["import_id"] is not None:
                row["import_id"] = imports[row["import_id"]]
            if row["number"] == newest:
                row["document"] = document
            elif is_known:
                row["document"] = _of_another_id(row["document"], self._home_id)
            yield row


def _with_fit_that_opens(row: Row) -> Row:
    fit_from_bytes(row["document"], at_ms=row["at_ms"], revision=row["revision"])
    return row


def _cleaned_photo(row: Row) -> Row:
    """Return a photo without its number, cleaned again: the file may have been made by another hand."""
    photo = clean_photo(row["data"])
    made = {"data": photo.data, "width": photo.width, "height": photo.height}
    return {k: v for k, v in row.items() if k != "id"} | made


def _of_another_id(document: bytes, home_id: str) -> bytes:
    """Return a stored document under another id; as it is if it cannot be read."""
    try:
        return stored_home(replace(home_from_packed(document), id=home_id))
    except (ValueError, ZstdError):
        return document


def _placed(row: Row, series: dict[int, int], imports: dict[int, int]) -> Row:
    """Return a chunk's row under the new numbers of its series and of the imports of its readings."""
    rows = np.frombuffer(unpack(row["data"]), READING_ROW).copy()
    old, place = np.unique(rows["import_id"], return_inverse=True)
    rows["import_id"] = np.array([imports[int(number)] for number in old], np.int32)[place]
    return row | {"series_id": series[row["series_id"]], "data": pack(rows.tobytes())}
