"""An import's readings merged into the day chunks, and taken out of them again, within the caller's transaction."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from sqlalchemy import Connection, and_, delete, insert, select, update
from zstandard import ZstdError

from warmeter.core.errors import ReadingError
from warmeter.core.readings.record import Readings
from warmeter.core.units import MS_PER_DAY
from warmeter.store.codec import pack, unpack
from warmeter.store.reading_rows import READING_ROW, Rows, in_order, merged, taken_out
from warmeter.store.tables import CHUNK, REPLACED, SERIES, TAKEN_BACK

AT_ONCE = 200_000  # so many readings, and the rest of their last day, are merged at once


@dataclass(frozen=True, slots=True, kw_only=True)
class Counts:
    """How many of an import's values were new, there already and equal, and there with another value."""

    added: int = 0
    equal: int = 0
    different: int = 0

    def __add__(self, other: "Counts") -> "Counts":
        return Counts(
            added=self.added + other.added, equal=self.equal + other.equal, different=self.different + other.different
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Merging:
    """How an import's values go in.

    ``replaces`` puts a different value in the place of the one that is there; ``lies_beneath`` keeps it for the time
    when that one goes (the import stood there once and comes back).
    """

    import_id: int
    replaces: bool = False
    lies_beneath: bool = False


def merge(connection: Connection, series_id: int, new: Readings, how: Merging) -> Counts:
    """Merge readings, whose times rise, some days at a time."""
    counts = Counts()
    for part in _whole_days(new):
        counts += _merge_days(connection, series_id, part, how)
    return counts


def compare(connection: Connection, series_id: int, new: Readings) -> Counts:
    """Return what merging would find, and change nothing."""
    counts = Counts()
    for part in _whole_days(new):
        chunks = _chunks(connection, series_id, part)
        for day, fresh in _by_day(part, import_id=0):
            found = merged(chunks.get(day, fresh[:0]), fresh, replaces=False)
            counts += Counts(added=found.added, equal=found.equal, different=found.different)
    return counts


def _whole_days(new: Readings) -> Iterator[Readings]:
    begin = 0
    while begin < new.at_ms.size:
        last = min(begin + AT_ONCE, new.at_ms.size) - 1
        next_day = (int(new.at_ms[last]) // MS_PER_DAY + 1) * MS_PER_DAY
        end = last + int(np.searchsorted(new.at_ms[last:], next_day))
        yield Readings(np.asarray(new.at_ms[begin:end]), np.asarray(new.value[begin:end]))
        begin = end


def _by_day(new: Readings, *, import_id: int) -> Iterator[tuple[int, Rows]]:
    days, begins = np.unique(new.at_ms // MS_PER_DAY, return_index=True)
    for day, begin, end in zip(days.tolist(), begins.tolist(), [*begins.tolist()[1:], new.at_ms.size], strict=True):
        fresh = np.zeros(end - begin, READING_ROW)
        fresh["at_ms"], fresh["value"], fresh["import_id"] = new.at_ms[begin:end], new.value[begin:end], import_id
        yield day, fresh


def _chunks(connection: Connection, series_id: int, new: Readings) -> dict[int, Rows]:
    first, last = int(new.at_ms[0]) // MS_PER_DAY, int(new.at_ms[-1]) // MS_PER_DAY
    held = and_(CHUNK.c.series_id == series_id, CHUNK.c.day.between(first, last))
    return {row.day: decoded(row.data) for row in connection.execute(select(CHUNK.c.day, CHUNK.c.data).where(held))}


def _merge_days(connection: Connection, series_id: int, new: Readings, how: Merging) -> Counts:
    counts = Counts()
    chunks = _chunks(connection, series_id, new)
    made, changed = [], []
    for day, fresh in _by_day(new, import_id=how.import_id):
        if day not in chunks:
            counts += Counts(added=fresh.size)
            made.append(_chunk(series_id, day, fresh))
            continue
        held = chunks[day]
        found = merged(held, fresh, replaces=how.replaces)
        counts += Counts(added=found.added, equal=found.equal, different=found.different)
        if found.added or found.replaced.size:
            changed.append(_chunk(series_id, day, found.held))
        if found.replaced.size:
            _lay_beneath(connection, series_id, day, how.import_id, found.replaced)
        elif how.lies_beneath and found.different:
            for top in np.unique(held["import_id"]).tolist():
                above = held[held["import_id"] == top]
                differing = fresh[np.isin(fresh["at_ms"], above["at_ms"])]
                place = np.searchsorted(above["at_ms"], differing["at_ms"])
                _lay_beneath(connection, series_id, day, top, differing[above["value"][place] != differing["value"]])
    if made:
        connection.execute(insert(CHUNK), made)
    for chunk in changed:
        _replace(connection, chunk)
    return counts


def _lay_beneath(connection: Connection, series_id: int, day: int, import_id: int, rows: Rows) -> None:
    """Keep rows that an import's values stand over; of an instant the one that lies there already stays."""
    where = and_(REPLACED.c.import_id == import_id, REPLACED.c.series_id == series_id, REPLACED.c.day == day)
    before = connection.execute(select(REPLACED.c.data).where(where)).scalar()
    if before is not None:
        lying = decoded(before)
        rows = in_order(lying, rows[~np.isin(rows["at_ms"], lying["at_ms"])])
        connection.execute(update(REPLACED).where(where).values(data=pack(rows.tobytes())))
    elif rows.size:
        place = {"import_id": import_id, "series_id": series_id, "day": day}
        connection.execute(insert(REPLACED), [{**place, "data": pack(rows.tobytes())}])


def take_out(connection: Connection, home_id: str, import_id: int) -> int:
    """Put exactly an import's values aside and what it replaced back in its place; return how many went."""
    gone = 0
    for series_id in connection.execute(select(SERIES.c.id).where(SERIES.c.home_id == home_id)).scalars().all():
        beneath: dict[int, dict[int, Rows]] = {}
        for row in connection.execute(select(REPLACED).where(REPLACED.c.series_id == series_id)).all():
            beneath.setdefault(row.day, {})[row.import_id] = decoded(row.data)
        held = connection.execute(select(CHUNK.c.day, CHUNK.c.data).where(CHUNK.c.series_id == series_id)).all()
        for row in held:
            gone += _take_day_out(
                connection, series_id, row.day, decoded(row.data), beneath.get(row.day, {}), import_id
            )
    return gone


def _take_day_out(
    connection: Connection, series_id: int, day: int, held: Rows, beneath: dict[int, Rows], import_id: int
) -> int:
    found = taken_out(held, beneath, import_id)
    if not found.aside.size and import_id not in beneath:
        return 0
    place = {"series_id": series_id, "day": day}
    if found.aside.size:
        aside = {**place, "import_id": import_id, "data": pack(found.aside.tobytes())}
        connection.execute(insert(TAKEN_BACK), [aside])
    if found.held.size:
        _replace(connection, _chunk(series_id, day, found.held))
    else:
        connection.execute(delete(CHUNK).where(CHUNK.c.series_id == series_id, CHUNK.c.day == day))
    if beneath:
        connection.execute(delete(REPLACED).where(REPLACED.c.series_id == series_id, REPLACED.c.day == day))
    if found.replaced:
        left = [{**place, "import_id": top, "data": pack(rows.tobytes())} for top, rows in found.replaced.items()]
        connection.execute(insert(REPLACED), left)
    return int(found.aside.size)


def _replace(connection: Connection, chunk: dict[str, object]) -> None:
    where = and_(CHUNK.c.series_id == chunk["series_id"], CHUNK.c.day == chunk["day"])
    connection.execute(update(CHUNK).where(where).values(**chunk))


def _chunk(series_id: int, day: int, rows: Rows) -> dict[str, object]:
    """Return a day's readings as the database holds them."""
    return {
        "series_id": series_id,
        "day": day,
        "count": rows.size,
        "first_ms": int(rows["at_ms"][0]),
        "last_ms": int(rows["at_ms"][-1]),
        "data": pack(rows.tobytes()),
    }


def decoded(data: bytes) -> Rows:
    """Return a chunk's rows; ``ReadingError`` if its bytes are damaged."""
    try:
        return np.frombuffer(unpack(data), dtype=READING_ROW)
    except (ZstdError, ValueError) as error:
        raise ReadingError(
            "a day of this home's readings is damaged and cannot be read; restore a backup into another folder, or "
            "take the import back under Survey and import its file again"
        ) from error
