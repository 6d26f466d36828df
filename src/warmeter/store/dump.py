"""Tables as JSON lines in a zip with a manifest: what backups and archives are made of.

One member a table, one line a row. Bytes are {"base64": text}, or in the open form {"json": document} and
{"at_ms": [...], "value": [...], "import_id": [...]}; reading takes either. The manifest holds, for each member, its
number of rows and the SHA-256 of its content.
"""

import base64
import json
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import Connection, Table
from zstandard import ZstdError

from warmeter.core.errors import WarmeterError
from warmeter.store.codec import pack, unpack
from warmeter.store.reading_rows import READING_ROW

MANIFEST = "manifest.json"
MOST_LINE = 32 * 1024**2  # a row of the open form: a home's document, or a day of readings
AT_ONCE = 200
Row = dict[str, Any]


class DumpError(WarmeterError):
    """A file cannot be taken as a backup or an archive; the sentence says why."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Manifest:
    """What a dump holds: its format, the database's shape, when it was made [ms UTC], and each member's digest."""

    format: str
    schema: str
    at_ms: int
    members: Mapping[str, tuple[int, str]]

    @property
    def row_count(self) -> int:
        """All rows."""
        return sum(count for count, _ in self.members.values())


class DumpWriter:
    """Writes a dump, table by table."""

    def __init__(self, path: Path) -> None:
        self._zip = zipfile.ZipFile(path, "x", zipfile.ZIP_DEFLATED, compresslevel=1)
        self._members: dict[str, tuple[int, str]] = {}

    def add(self, table: Table, rows: Iterable[Mapping[str, Any]], *, is_open: bool) -> int:
        """Write a table's rows, bytes in the open form or as they are; return how many."""
        digest, count = sha256(), 0
        with self._zip.open(member_of(table), "w", force_zip64=True) as out:
            for row in rows:
                content = {
                    name: value if not isinstance(value, bytes) else _opened(name, value) if is_open else _closed(value)
                    for name, value in row.items()
                }
                line = (json.dumps(content, ensure_ascii=False) + "\n").encode()
                out.write(line)
                digest.update(line)
                count += 1
        self._members[member_of(table)] = (count, digest.hexdigest())
        return count

    def close(self, dump_format: str, schema: str, at_ms: int) -> None:
        """Write the manifest and end the file."""
        members = {name: {"rows": rows, "sha256": digest} for name, (rows, digest) in self._members.items()}
        content = {"format": dump_format, "schema": schema, "at_ms": at_ms, "members": members}
        self._zip.writestr(MANIFEST, json.dumps(content, indent=1))
        self._zip.close()


class DumpReader:
    """Reads a dump whose digests hold, of so many bytes unpacked at most; a context manager."""

    def __init__(self, path: Path, dump_format: str, most_bytes: int | None = None) -> None:
        try:
            self._zip = zipfile.ZipFile(path)
            self.manifest = _manifest(self._zip)
        except (zipfile.BadZipFile, KeyError, ValueError, TypeError, OSError, RecursionError) as error:
            raise DumpError(
                f"this file is no {dump_format.split('/', maxsplit=1)[0]}, or it is cut off ({error})"
            ) from error
        size = sum(each.file_size for each in self._zip.infolist())
        if most_bytes is not None and size > most_bytes:
            raise DumpError(f"this file holds {size / 1024**3:.0f} GB unpacked, more than is taken")
        if self.manifest.format != dump_format:
            raise DumpError(f"this file is of the format {self.manifest.format!r}; {dump_format!r} is read here")

    def __enter__(self) -> "DumpReader":
        return self

    def __exit__(self, *_: object) -> None:
        self._zip.close()

    def verify(self) -> None:
        """Read all of it; ``DumpError`` names the member that is not as it was written."""
        for name, (count, digest) in self.manifest.members.items():
            found, rows = sha256(), 0
            for line in self._lines(name):
                found.update(line)
                rows += 1
            if (rows, found.hexdigest()) != (count, digest):
                raise DumpError(f"{name} in this file is damaged: it is not what was written there")

    def rows(self, table: Table) -> Iterator[Row]:
        """Yield a table's rows, bytes as the database keeps them; none if the dump has no such table."""
        name = member_of(table)
        if name not in self.manifest.members:
            return
        for number, line in enumerate(self._lines(name), 1):
            try:
                row = json.loads(line)
                found = {key: _bytes_of(value) if isinstance(value, dict) else value for key, value in row.items()}
                if not all(isinstance(value, str | int | float | bytes | None) for value in found.values()):
                    raise ValueError("a list where one value belongs")
            except (ValueError, TypeError, KeyError, AttributeError, RecursionError, OverflowError) as error:
                raise DumpError(f"line {number} of {name} cannot be read ({error})") from error
            yield found

    def _lines(self, name: str) -> Iterator[bytes]:
        try:
            with self._zip.open(name) as file:
                while line := file.readline(MOST_LINE + 1):
                    if len(line) > MOST_LINE:
                        raise DumpError(f"a line of {name} is longer than 32 MB")
                    yield line
        except (
            zipfile.BadZipFile,
            KeyError,
            EOFError,
            OSError,
            NotImplementedError,
            RuntimeError,
            zlib.error,
        ) as error:
            raise DumpError(f"{name} in this file is damaged or missing ({error})") from error


def member_of(table: Table) -> str:
    """Return the name of a table's member."""
    return f"{table.name}.jsonl"


def inserted(connection: Connection, table: Table, rows: Iterable[Row]) -> int:
    """Insert rows in parts and return how many; ``DumpError`` if they hold what the table does not know."""
    count, part, known = 0, [], set(table.columns.keys())
    for row in rows:
        if not row.keys() <= known:
            raise DumpError(
                f"{table.name} here knows no {', '.join(sorted(row.keys() - known))}; a newer Warmeter does"
            )
        part.append(row)
        if len(part) == AT_ONCE:
            connection.execute(table.insert(), part)
            count, part = count + len(part), []
    if part:
        connection.execute(table.insert(), part)
    return count + len(part)


def _manifest(file: zipfile.ZipFile) -> Manifest:
    content = json.loads(file.read(MANIFEST))
    members = {str(name): (int(each["rows"]), str(each["sha256"])) for name, each in content["members"].items()}
    return Manifest(
        format=str(content["format"]), schema=str(content["schema"]), at_ms=int(content["at_ms"]), members=members
    )


def _closed(data: bytes) -> Row:
    return {"base64": base64.b64encode(data).decode()}


def _opened(column: str, data: bytes) -> Row:
    """Return stored bytes in the open form; as they are if they cannot be read."""
    try:
        content = unpack(data)
        if column != "data":
            return {"json": json.loads(content)}
        rows = np.frombuffer(content, READING_ROW)
        return {name: rows[name].tolist() for name in READING_ROW.names or ()}
    except (ZstdError, ValueError, RecursionError):
        return _closed(data)


def _bytes_of(value: Row) -> bytes:
    """Return the stored bytes of either form."""
    if "base64" in value:
        return base64.b64decode(value["base64"], validate=True)
    if "json" in value:
        return pack(json.dumps(value["json"], ensure_ascii=False).encode())
    rows = np.zeros(len(value["at_ms"]), READING_ROW)
    for name in READING_ROW.names or ():
        rows[name] = value[name]
    if not (np.isfinite(rows["value"]).all() and (np.diff(rows["at_ms"]) >= 0).all()):
        raise ValueError("readings that are no numbers, or not in order of time")
    return pack(rows.tobytes())
