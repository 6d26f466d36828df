"""Reading in a log: kept on disk while it is looked at, taken whole or not at all, taken back."""

import codecs
import hashlib
import itertools
import json
import re
import secrets
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from functools import partial
from pathlib import Path

from pydantic import TypeAdapter
from sqlalchemy import Connection

from warmeter.core.errors import ReadingError
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.log_subjects import log_subjects
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.bill_table import looks_like_bill, table_of_bill
from warmeter.core.readings.csvlog import Column, ImportMapping, ReadLog, cells, channel_of
from warmeter.core.readings.espi import looks_like_espi, read_espi
from warmeter.core.readings.log_proposal import MOST_CHANNELS, LogProposal, propose_mapping
from warmeter.core.readings.logtable import InMemory, read, within_bounds
from warmeter.core.readings.record_log import looks_like_records, table_of
from warmeter.core.units import MS_PER_DAY
from warmeter.core.wording import number
from warmeter.service.app import App, Person
from warmeter.service.limits import LINE_BYTES, LOG_BYTES, LOG_LINES, LOG_TOLD, RECORDS_BYTES, RECORDS_TOLD, size_told
from warmeter.service.readings.log_spool import OnDisk
from warmeter.store.engine import in_transaction
from warmeter.store.homes import Change
from warmeter.store.readings import ImportLine, ImportSource, Merged
from warmeter.store.work import Job

FIRST_LINES = 1500
END_BYTES = 40_000
BIG_LINES = 100_000  # beyond, only the beginning is looked at before the whole is read in as a job
LOOKED_AT_LINES = 50_000
SHOWN_REFUSALS = 60
YEARS_AHEAD = 2
_TOKEN = re.compile(r"[0-9a-f]{16}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Upload:
    """A file that lies on disk and is not taken yet."""

    token: str
    file_name: str
    size: int
    digest: str
    lines: int
    encoding: str
    is_espi: bool

    @property
    def is_big(self) -> bool:
        """Whether it is read in as a job, with progress and a stop."""
        return self.lines > BIG_LINES and not self.is_espi


class _Utf8:
    """Whether the parts of a file are UTF-8 so far; else Windows' Latin letters are taken."""

    def __init__(self) -> None:
        self._decoder = codecs.getincrementaldecoder("utf-8")()
        self.holds = True

    def feed(self, part: bytes) -> None:
        """Look at one more part."""
        try:
            self._decoder.decode(part)
        except UnicodeDecodeError:
            self.holds = False


def keep_upload(app: App, file_name: str, parts: Iterable[bytes]) -> Upload:
    """Stream a file to disk, bounded.

    Raises
    ------
    ReadingError
        If it is empty, larger or longer than ``limits`` says, holds an endless line, or is no text.
    """
    app.uploads.mkdir(mode=0o700, parents=True, exist_ok=True)
    sweep_uploads(app)
    token, digest, size, lines, line_size = secrets.token_hex(8), hashlib.sha256(), 0, 0, 0
    path, reads_as_utf8, is_xml = app.uploads / f"{token}.csv", _Utf8(), False
    try:
        path.touch(mode=0o600)
        with path.open("wb") as out:
            for part in parts:
                if size == 0 and b"\x00" in part[:4096]:
                    raise ReadingError("this is no text table; save the log as CSV")
                is_xml = is_xml or (size == 0 and looks_like_espi(part[:4096]))
                size, lines = size + len(part), lines + part.count(b"\n")
                if size > LOG_BYTES or lines > LOG_LINES:
                    raise ReadingError(f"a log is taken {LOG_TOLD}; cut it into months and read them one by one")
                line_size = _open_line(part, line_size)
                if line_size > LINE_BYTES:
                    raise ReadingError(
                        f"line {lines + 1} is longer than {size_told(LINE_BYTES)}, so this is no table of lines; "
                        "save the log as CSV with one reading time a line"
                    )
                digest.update(part)
                reads_as_utf8.feed(part)
                out.write(part)
        if size == 0:
            raise ReadingError("this file is empty; choose another")
    except ReadingError:
        path.unlink(missing_ok=True)
        raise
    upload = Upload(
        token=token,
        file_name=Path(file_name).name[:120] or "log.csv",
        size=size,
        digest=digest.hexdigest(),
        lines=lines,
        encoding="utf-8-sig" if reads_as_utf8.holds else "cp1252",
        is_espi=is_xml,
    )
    about = app.uploads / f"{token}.json"
    about.touch(mode=0o600)
    about.write_text(json.dumps(asdict(upload)), encoding="utf-8")
    return upload


def keep_log(app: App, file_name: str, parts: Iterable[bytes]) -> Upload:
    """Stream a log to disk as ``keep_upload`` does; one of records or of a bill's periods is made a table of, which is read from then on."""
    return keep_upload(app, file_name, _as_table(iter(parts)))


def _as_table(parts: Iterator[bytes]) -> Iterator[bytes]:
    """Return the parts of a file, or of the table that its records make."""
    first = next(parts, b"")
    begin = first[:65_536].decode("utf-8", "replace")
    is_record = looks_like_records(begin)
    if b"\x00" in first[:4096] or not (is_record or looks_like_bill(begin.splitlines())):
        return itertools.chain((first,), parts)
    whole = bytearray(first)
    for part in parts:
        whole += part
        if len(whole) > RECORDS_BYTES:
            raise ReadingError(f"records are taken {RECORDS_TOLD}; cut the file into months, or save a table of lines")
    text = whole.decode("utf-8-sig", "replace")
    table = (table_of(text) if is_record else table_of_bill(text)).encode()
    return (table[k : k + 65_536] for k in range(0, len(table), 65_536))


def _open_line(part: bytes, before: int) -> int:
    """Return how long the line is that a part leaves open, after ``before`` bytes of it [bytes]."""
    end = max(part.rfind(b"\n"), part.rfind(b"\r"))
    return len(part) - end - 1 if end >= 0 else before + len(part)


def sweep_uploads(app: App) -> int:
    """Remove uploads that were not taken within a day and are not being read in; return how many files went."""
    busy = {job.subject for job in app.work.unfinished() if job.kind == "import"}
    count = 0
    for path in app.uploads.iterdir():
        # Other processes take what waits here too.
        with suppress(FileNotFoundError):
            if path.stem not in busy and app.now_ms() - path.stat().st_mtime * 1000 > MS_PER_DAY:
                path.unlink()
                count += 1
    return count


def find_upload(app: App, token: str) -> Upload:
    """Return an upload that waits.

    Raises
    ------
    ReadingError
        If it is not there any more.
    """
    path = app.uploads / f"{token}.json"
    if not _TOKEN.fullmatch(token) or not path.exists():
        raise ReadingError("this file is not waiting any more; choose it again")
    return Upload(**json.loads(path.read_text(encoding="utf-8")))


def upload_bytes(app: App, token: str) -> bytes:
    """Return a waiting upload's bytes; ``ReadingError`` if it is not there any more."""
    return (app.uploads / f"{find_upload(app, token).token}.csv").read_bytes()


def lines_of(app: App, upload: Upload, most: int | None = None) -> Iterator[str]:
    """Yield a file's lines as text, or the first of them; a line is read when it is asked for."""
    path = app.uploads / f"{find_upload(app, upload.token).token}.csv"
    with path.open(encoding=upload.encoding, errors="replace", newline=None) as file:
        for line in itertools.islice(file, most):
            yield line.rstrip("\n")


ESPI_MAPPING = ImportMapping(
    delimiter=",", decimal=".", heading_line=0, time_column=0, date_format="epoch", clock="utc"
)


def proposal(app: App, home: Home, upload: Upload) -> LogProposal:
    """Return how a file could be read, from its first and its last lines; ESPI data says so itself.

    Raises
    ------
    ReadingError
        If no line looks like a time with numbers behind it.
    """
    latest_ms = app.now_ms() + YEARS_AHEAD * 366 * MS_PER_DAY
    if upload.is_espi:
        return LogProposal(format=replace(ESPI_MAPPING, latest_ms=latest_ms), columns=(), asks=())
    lines = [*lines_of(app, upload, FIRST_LINES), *_last_lines(app, upload)]
    found = propose_mapping(lines, log_subjects(home))
    if found.format.channel_columns:
        found = propose_mapping(lines, log_subjects(home), _channels(app, upload, found.format))
    return replace(found, format=replace(found.format, latest_ms=latest_ms))


def named_quantities(device: Device) -> tuple[str, ...]:
    """Return the quantities of two states that a device can tell, the likeliest first; a probe tells its temperature."""
    found = tuple(q.key for q in QUANTITIES.values() if q.is_two_states and device.kind in q.of_devices)
    return device.measures if device.kind == "floor_probe" else found


def _last_lines(app: App, upload: Upload) -> list[str]:
    """Return whole lines of the end of a file that is longer than its first lines."""
    if upload.lines <= FIRST_LINES:
        return []
    with (app.uploads / f"{upload.token}.csv").open("rb") as file:
        file.seek(max(0, upload.size - END_BYTES))
        lines = file.read().decode(upload.encoding, "replace").splitlines()
    return lines[1:][-(upload.lines - FIRST_LINES) :]


def _channels(app: App, upload: Upload, mapping: ImportMapping) -> list[str]:
    """Return the words that part several series, in order of their first line; no more than ``MOST_CHANNELS``."""
    words: dict[str, None] = {}
    for line in itertools.islice(lines_of(app, upload), mapping.heading_line, None):
        with suppress(ReadingError):
            words.setdefault(channel_of(cells(line, mapping.delimiter), mapping))
        if len(words) == MOST_CHANNELS:
            break
    return [w for w in words if w]


def preview(app: App, home: Home, upload: Upload, mapping: ImportMapping) -> ReadLog:
    """Return what would be taken; of a big table, what would be taken of its beginning."""
    if upload.is_espi:
        return within_bounds(read_espi(upload_bytes(app, upload.token)), mapping)
    return read(lines_of(app, upload, LOOKED_AT_LINES if upload.is_big else None), mapping, app.clock(home))


def take(
    app: App,
    home_id: str,
    upload: Upload,
    mapping: ImportMapping,
    person: Person,
    progress: Callable[[int], None] | None = None,
) -> Merged:
    """Take a file whole, in one transaction, as a revision of the home as it is by then.

    ``progress`` is told how many lines were read, and may raise to stop: nothing is kept then.

    Raises
    ------
    ReadingError
        If nothing of it can be taken.
    HomeNotFound
        If the home was taken away meanwhile.
    """
    home, _ = app.homes.load(home_id)
    if upload.is_espi:
        found = within_bounds(read_espi(upload_bytes(app, upload.token)), mapping)
    else:
        store = partial(OnDisk, app.uploads) if upload.is_big else InMemory
        found = read(lines_of(app, upload), mapping, app.clock(home), progress, store=store)
    series = tuple(s for s in found.series if s.readings.at_ms.size)
    if not series:
        raise ReadingError("none of the lines can be taken as mapped; see the reasons and change the mapping")
    at = app.now_ms()
    source = ImportSource(
        home_id=home_id,
        file_name=upload.file_name,
        digest=upload.digest,
        author=person.name,
        at_ms=at,
        mapping=asdict(mapping),
    )

    def merge(connection: Connection) -> Merged:
        newest, base = app.homes.locked(connection, home_id)
        merged = app.readings.add(source, series, connection)
        summary = f"Imported {merged.added} readings from {upload.file_name}"
        if merged.replaced:
            summary += f", {merged.replaced} of them in place of others"
        change = Change(base=base, author=person.name, summary=summary, at_ms=at, import_id=merged.import_id)
        if merged.added:
            app.homes.save(newest, change, connection)
        else:
            connection.rollback()
        return merged

    merged = in_transaction(app.engine, merge)
    for suffix in ("csv", "json"):
        (app.uploads / f"{upload.token}.{suffix}").unlink(missing_ok=True)
    return merged


_MAPPING = TypeAdapter(ImportMapping)


def ask_to_take(app: App, home_id: str, revision: int, upload: Upload, mapping: ImportMapping, person: Person) -> int:
    """Queue the reading of a big file and return the job's id."""
    request = json.dumps({"plan": _MAPPING.dump_python(mapping, mode="json"), "author": person.name})
    job_id = app.work.enqueue(home_id, "import", upload.token, revision, app.now_ms(), request)
    app.jobs.submit(job_id)
    return job_id


def run_import(app: App, job: Job, progress: Callable[[float, str], None]) -> str:
    """Read in a queued file and return what came of it."""
    asked, upload = json.loads(app.work.request(job.id)), find_upload(app, job.subject)

    def tell(lines: int) -> None:
        share = 0.9 * lines / max(upload.lines, 1)
        progress(share, f"Reading in {upload.file_name}: {lines:,} of {upload.lines:,} lines")

    merged = take(app, job.home_id, upload, _MAPPING.validate_python(asked["plan"]), Person(asked["author"]), tell)
    return told_of(merged, upload)


def told_of(merged: Merged, upload: Upload) -> str:
    """Return in words what came of an import."""
    if not merged.added and not merged.different:
        return f"All {number(merged.equal)} readings of {upload.file_name} were there already: nothing was added."
    words = f"{number(merged.added)} readings imported from {upload.file_name}."
    if merged.replaced:
        words += (
            f" {number(merged.replaced)} of them stand in place of others; take the import back, and those stand again."
        )
    if merged.equal:
        words += f" {number(merged.equal)} were there already."
    if merged.different:
        words += f" {number(merged.different)} differ from what is there at the same time; what was there is kept."
    return words


def found_import(
    app: App, home_id: str, import_id: int, connection: Connection | None = None, *, is_taken_back: bool = False
) -> ImportLine:
    """Return an import that stands, or one that was taken back.

    Raises
    ------
    ReadingError
        If there is none such.
    """
    for line in app.readings.imports(home_id, connection):
        if line.id == import_id and line.is_taken_back == is_taken_back:
            return line
    told = "is not taken back" if is_taken_back else "is not there any more"
    raise ReadingError(f"this import {told}; look at the imports under Survey")


def take_back(app: App, home_id: str, import_id: int, person: Person) -> int:
    """Take an import back, so that it can be brought back; return how many readings went.

    Raises
    ------
    ReadingError
        If it does not stand.
    """

    def take(connection: Connection) -> int:
        home, base = app.homes.locked(connection, home_id)
        line = found_import(app, home_id, import_id, connection)
        at = app.now_ms()
        removed = app.readings.take_back(home_id, import_id, at, connection)
        undoes = next(r.number for r in app.homes.revisions(home_id, connection) if r.import_id == import_id)
        summary = f"Taken back: {removed} readings from {line.file_name}"
        change = Change(base=base, author=person.name, summary=summary, at_ms=at, undoes=undoes)
        app.homes.save(home, change, connection)
        return removed

    return in_transaction(app.engine, take)


def bring_back(app: App, home_id: str, import_id: int, person: Person) -> Merged:
    """Bring an import back that was taken back; what came at the same times meanwhile is kept.

    Raises
    ------
    ReadingError
        If it was not taken back, or its readings were not kept (before they were, they went).
    """

    def bring(connection: Connection) -> Merged:
        home, base = app.homes.locked(connection, home_id)
        line = found_import(app, home_id, import_id, connection, is_taken_back=True)
        merged = app.readings.bring_back(home_id, import_id, connection)
        if not merged.added + merged.equal + merged.different:
            raise ReadingError(f"the readings of {line.file_name} were not kept; import the file again")
        revisions = app.homes.revisions(home_id, connection)
        read_in = next(r.number for r in revisions if r.import_id == import_id)
        undoes = next(r.number for r in revisions if r.undoes == read_in)
        summary = f"Brought back: {merged.added} readings from {line.file_name}"
        change = Change(base=base, author=person.name, summary=summary, at_ms=app.now_ms(), undoes=undoes)
        app.homes.save(home, change, connection)
        return merged

    return in_transaction(app.engine, bring)


def changed_mapping(mapping: ImportMapping, columns: dict[int, Column], **settings: object) -> ImportMapping:
    """Return a plan with columns (by their place) and settings replaced."""
    return replace(
        mapping,
        columns=tuple(columns.get(k, c) for k, c in enumerate(mapping.columns)),
        **settings,  # type: ignore[arg-type]
    )
