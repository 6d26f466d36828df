"""Reading in a log: kept on disk while it is looked at, taken whole or not at all, taken back."""

import hashlib
import json
import re
import secrets
from collections.abc import Iterable
from dataclasses import asdict, dataclass, replace
from pathlib import Path

from warmeter.core.errors import ReadingError
from warmeter.core.home.document import Home
from warmeter.core.readings.csvlog import MAX_LINES, Column, Plan, ReadLog, guess, read
from warmeter.service.workbench import Person, Workbench
from warmeter.store.homes import Change
from warmeter.store.readings import ImportSource, Merged

MAX_BYTES = 64 * 1024 * 1024
GUESS_LINES = 200
_TOKEN = re.compile(r"[0-9a-f]{16}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Upload:
    """A file that lies on disk and is not taken yet."""

    token: str
    file_name: str
    size: int
    digest: str


def keep_upload(bench: Workbench, file_name: str, parts: Iterable[bytes]) -> Upload:
    """Stream a file to disk, bounded.

    Raises
    ------
    ReadingError
        If it is empty or larger than 64 MB.
    """
    bench.uploads.mkdir(parents=True, exist_ok=True)
    token, digest, size = secrets.token_hex(8), hashlib.sha256(), 0
    path = bench.uploads / f"{token}.csv"
    try:
        with path.open("wb") as out:
            for part in parts:
                size += len(part)
                if size > MAX_BYTES:
                    raise ReadingError("this file is larger than 64 MB; cut it into months and read them one by one")
                digest.update(part)
                out.write(part)
        if size == 0:
            raise ReadingError("this file is empty; choose another")
    except ReadingError:
        path.unlink(missing_ok=True)
        raise
    upload = Upload(
        token=token, file_name=Path(file_name).name[:120] or "log.csv", size=size, digest=digest.hexdigest()
    )
    (bench.uploads / f"{token}.json").write_text(json.dumps(asdict(upload)), encoding="utf-8")
    return upload


def find_upload(bench: Workbench, token: str) -> Upload:
    """Return an upload that waits.

    Raises
    ------
    ReadingError
        If it is not there any more.
    """
    path = bench.uploads / f"{token}.json"
    if not _TOKEN.fullmatch(token) or not path.exists():
        raise ReadingError("this file is not waiting any more; choose it again")
    return Upload(**json.loads(path.read_text(encoding="utf-8")))


def upload_bytes(bench: Workbench, token: str) -> bytes:
    """Return a waiting upload's bytes; ``ReadingError`` if it is not there any more."""
    return (bench.uploads / f"{find_upload(bench, token).token}.csv").read_bytes()


def lines_of(bench: Workbench, upload: Upload) -> list[str]:
    """Return a file's lines; UTF-8, else Windows' Latin letters.

    Raises
    ------
    ReadingError
        If it is no text or has more than 2 million lines.
    """
    data = upload_bytes(bench, upload.token)
    if b"\x00" in data[:4096]:
        raise ReadingError("this is no text table; save the log as CSV")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    lines = text.splitlines()
    if len(lines) > MAX_LINES:
        raise ReadingError(f"this file has {len(lines)} lines; at most {MAX_LINES} are read at once")
    return lines


def guessed_plan(bench: Workbench, home: Home, upload: Upload) -> Plan:
    """Return how a file would be read."""
    return guess(
        lines_of(bench, upload)[:GUESS_LINES],
        rooms=[(room.id, room.name) for room in home.rooms],
        machines=[(machine.id, machine.name) for machine in home.appliances],
    )


def preview(bench: Workbench, home: Home, upload: Upload, plan: Plan) -> ReadLog:
    """Return what would be taken."""
    return read(lines_of(bench, upload), plan, bench.clock(home))


def take(bench: Workbench, home_id: str, base: int, upload: Upload, plan: Plan, person: Person) -> Merged:
    """Take a file whole, in one transaction, as a revision of the home.

    Raises
    ------
    ReadingError
        If nothing of it can be taken.
    RevisionConflict
        If another window saved meanwhile.
    """
    home, _ = bench.homes.load(home_id)
    found = preview(bench, home, upload, plan)
    series = tuple(s for s in found.series if s.readings.at_ms.size)
    if not series:
        raise ReadingError("none of the lines can be taken as mapped; see the reasons and change the mapping")
    at = bench.now_ms()
    source = ImportSource(
        home_id=home_id,
        file_name=upload.file_name,
        digest=upload.digest,
        author=person.name,
        at_ms=at,
        plan=asdict(plan),
    )
    with bench.engine.begin() as connection:
        merged = bench.readings.add(source, series, connection)
        if merged.added:
            summary = f"Read in {merged.added} readings from {upload.file_name}"
            bench.homes.save(
                home,
                Change(base=base, author=person.name, summary=summary, at_ms=at, import_id=merged.import_id),
                connection,
            )
        else:
            connection.rollback()
    for suffix in ("csv", "json"):
        (bench.uploads / f"{upload.token}.{suffix}").unlink(missing_ok=True)
    return merged


def take_back(bench: Workbench, home_id: str, import_id: int, base: int, person: Person) -> int:
    """Take an import back; return how many readings went."""
    home, _ = bench.homes.load(home_id)
    line = next((i for i in bench.readings.imports(home_id) if i.id == import_id), None)
    if line is None or line.is_taken_back:
        raise ReadingError("this import is not there any more")
    number = next(r.number for r in bench.homes.revisions(home_id) if r.import_id == import_id)
    with bench.engine.begin() as connection:
        removed = bench.readings.take_back(home_id, import_id, bench.now_ms(), connection)
        bench.homes.save(
            home,
            Change(
                base=base,
                author=person.name,
                summary=f"Taken back: readings from {line.file_name}",
                at_ms=bench.now_ms(),
                undoes=number,
            ),
            connection,
        )
    return removed


def changed_plan(plan: Plan, columns: dict[int, Column], **settings: object) -> Plan:
    """Return a plan with columns and settings replaced."""
    return replace(
        plan,
        columns=tuple(columns.get(c.index, c) for c in plan.columns),
        **settings,  # type: ignore[arg-type]
    )
