"""Timetables as files: JSON, CSV and iCalendar, looked at before they are taken as one revision."""

from datetime import date

from pydantic import TypeAdapter, ValidationError

from warmeter.core.csv_cells import csv_text
from warmeter.core.edits.edit import Apply
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.timetable.draft import TimetableImport, with_drafts
from warmeter.core.timetable.timetable_csv import csv_rows, read_csv
from warmeter.core.timetable.timetable_file import TimetableFile, timetable_file, with_file
from warmeter.core.timetable.week_ical import ical_of, read_ical
from warmeter.service.app import App, Person
from warmeter.service.homes.editing import edit_home

FILE_ADAPTER = TypeAdapter(TimetableFile)


def timetable_json(home: Home) -> bytes:
    """Return a home's timetables as JSON."""
    return FILE_ADAPTER.dump_json(timetable_file(home), indent=1)


def timetable_csv(home: Home) -> str:
    """Return a home's timetables as CSV, one line a block."""
    return csv_text(csv_rows(home), "\r\n")


def timetable_ical(home: Home, on: date) -> bytes:
    """Return the week of the timetables that hold on a date as iCalendar."""
    return ical_of(home, on)


def looked_at(home: Home, data: bytes, name: str, on: date) -> TimetableImport:
    """Return a home as it would be with a file's timetables, and what was found in the file.

    Raises
    ------
    HomeError
        If it is none of the three formats, or nothing of it could be taken; with the place where one is known.
    """
    start = data.lstrip(b"\xef\xbb\xbf \t\r\n")[:40]
    if start.startswith(b"{"):
        return with_file(home, _document(data))
    if start.upper().startswith(b"BEGIN:VCALENDAR"):
        return _worth_taking(with_drafts(home, *read_ical(home, data, on)))
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise HomeError(f"{name} is no timetable: neither JSON, nor iCalendar, nor a table in UTF-8") from error
    return _worth_taking(with_drafts(home, *read_csv(home, text.splitlines())))


def _worth_taking(taken: TimetableImport) -> TimetableImport:
    if not taken.zones:
        first = f" ({taken.findings[0].place}: {taken.findings[0].sentence})" if taken.findings else ""
        raise HomeError(f"nothing of this file could be taken{first}; nothing was changed")
    return taken


def _document(data: bytes) -> TimetableFile:
    try:
        return FILE_ADAPTER.validate_json(data)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = ".".join(str(part) for part in first["loc"]) or "the document"
        more = f" and {error.error_count() - 1} more places" if error.error_count() > 1 else ""
        raise HomeError(f"this file cannot be taken: at {place}: {first['msg']}{more}. Nothing was changed") from error


def take_file(app: App, home_id: str, base: int, data: bytes, name: str, on: date, person: Person) -> int:
    """Save a file's timetables as a revision.

    Raises
    ------
    HomeError
        If nothing of it could be taken.
    RevisionConflict
        If another window saved meanwhile.
    """
    command = Apply(change=lambda home: looked_at(home, data, name, on).home, summary=f"Timetables from {name}")
    return edit_home(app, home_id, base, person, command)[1]
