"""A log as a text table: how it can be read, and what comes of it.

``log_proposal`` proposes how to read a file; every part of it can be changed. ``logtable.read`` reads it so.
"""

import csv
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from warmeter.core.errors import ReadingError
from warmeter.core.readings.record import Kind, Readings, SeriesRecord, Stamp

ClockKind = Literal["home", "utc", "offset", "in file"]
FoldChoice = Literal["ask", "first", "second"]
DELIMITERS = (",", ";", "\t", "|")
DATE_FORMATS: dict[str, str] = {
    "year-month-day": r"(?P<y>\d{4})[-/.](?P<m>\d{1,2})[-/.](?P<d>\d{1,2})",
    "day/month/year": r"(?P<d>\d{1,2})[-/.](?P<m>\d{1,2})[-/.](?P<y>\d{4}|\d{2}(?!\d))",
    "month/day/year": r"(?P<m>\d{1,2})[-/.](?P<d>\d{1,2})[-/.](?P<y>\d{4}|\d{2}(?!\d))",
    "day month by name": r"(?:[A-Za-z]{3,9},? )?(?P<d>\d{1,2})\.?[ -](?P<name>[A-Za-z]{3,9})\.?,?[ -](?P<y>\d{4})",
    "month by name day": r"(?:[A-Za-z]{3,9},? )?(?P<name>[A-Za-z]{3,9})\.? (?P<d>\d{1,2})(?:st|nd|rd|th)?,? (?P<y>\d{4})",
}
MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
# Cells that say that there is no reading.
NO_READING = frozenset({"", "-", "--", "nan", "null", "none", "n/a", "na", "unavailable", "unknown", "#n/a", "no data"})
LONGEST_NUMBER = 60
_UNIT_BEHIND = re.compile(r"([+-]?[\d.,\u2009\u00a0 ]*\d)\s*([^\d\s.,eE].*)")
DAY_FIRST, MONTH_FIRST = "day/month/year", "month/day/year"
_TIME = (
    r"(?:(?:T|,? +(?:at )?)(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2})(?:[.,](?P<f>\d{1,6})\d*)?)?"
    r"(?:\s*(?P<half>[AaPp])\.?[Mm]\.?)?)?"
    r"\s*(?P<tz>Z|UTC|[+-]\d{2}:?\d{2})?"
)
_WITH_THOUSANDS = re.compile(r"[+-]?\d{1,3}(,\d{3})+(\.\d+)?")
_WITH_BLANKS = re.compile(r"(?<=\d)[ \u2009\u00a0\u202f](?=\d{3})")
_EPOCH = re.compile(r"\d{9,10}(\.\d+)?|\d{12,13}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """What one column of the file carries; ``quantity`` empty leaves it out.

    Of a file with several series in one column, ``channel`` is the words that mark this one's lines.
    """

    index: int
    heading: str
    quantity: str = ""
    unit: str = ""
    kind: Kind = "instant"
    stamp: Stamp = "instant"
    subject: str = ""
    channel: str = ""


# Bounds of times where nothing else is said: the years 1990 to 2100; reading in a file keeps to two years ahead.
EARLIEST_MS, LATEST_MS = 631_152_000_000, 4_102_444_800_000


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportMapping:
    """How a file is to be read.

    Parameters
    ----------
    delimiter, decimal : str
        Column and decimal sign.
    heading_line : int
        Line of the headings, 1 for the first; 0 for none.
    time_column : int
        Index of the time, or of the date alone.
    clock_column : int
        Index of the time of day where it stands by itself; -1 where it stands with the date.
    channel_columns : tuple of int
        Indexes of the words that say which of several series a line belongs to.
    date_format : str
        Key of ``DATE_FORMATS``, or ``epoch``.
    clock : str
        The home's clock, UTC, a fixed offset, or offsets that stand in the file.
    offset_min : int
        Of a fixed offset [min].
    repeated_hour : str
        Which coming is meant where a repeated hour stands once.
    columns : tuple of Column
        The rest.
    earliest_ms, latest_ms : int
        Times outside are left out and told: what lies there is nearly always a clock that was not set [ms UTC].
    replaces : bool
        Whether a value takes the place of a different one that is there at the same time; else that one is kept.
    """

    delimiter: str
    decimal: Literal[".", ","]
    heading_line: int
    time_column: int
    date_format: str
    clock: ClockKind
    offset_min: int = 0
    repeated_hour: FoldChoice = "ask"
    columns: tuple[Column, ...] = ()
    clock_column: int = -1
    channel_columns: tuple[int, ...] = ()
    earliest_ms: int = EARLIEST_MS
    latest_ms: int = LATEST_MS
    replaces: bool = False

    @property
    def taken(self) -> tuple[Column, ...]:
        """Columns that carry a quantity."""
        return tuple(column for column in self.columns if column.quantity)


@dataclass(frozen=True, slots=True, kw_only=True)
class Refusal:
    """Lines first to last that were not taken as they stand, and why.

    ``outcome`` is "refused", "taken once", "gap" or "split".
    """

    first: int
    last: int
    outcome: Literal["refused", "taken once", "gap", "split"]
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenSeries:
    """One column's readings with its record; ``left_out`` how many of its cells were refused or stood twice."""

    record: SeriesRecord
    readings: Readings
    heading: str
    left_out: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadLog:
    """What a plan makes of a file."""

    series: tuple[TakenSeries, ...]
    refusals: tuple[Refusal, ...]
    lines: int
    first_ms: int | None
    last_ms: int | None


def cells(line: str, delimiter: str) -> list[str]:
    """Return the cells of a line.

    Raises
    ------
    ReadingError
        If its quotes cannot be read.
    """
    if '"' not in line:
        return [cell.strip() for cell in line.split(delimiter)]
    try:
        return [cell.strip() for cell in next(csv.reader([line], delimiter=delimiter), [])]
    except csv.Error as error:
        raise ReadingError("this line's quotes do not close") from error


def channel_of(row: Sequence[str], mapping: ImportMapping) -> str:
    """Return the words of a line that say which series it belongs to, "" where none do."""
    return " ".join(row[k].strip() for k in mapping.channel_columns if k < len(row) and row[k].strip())


def number(text: str, decimal: str) -> float:
    """Return a number written with a decimal sign.

    Raises
    ------
    ReadingError
        If it is none.

    Examples
    --------
    >>> number("21,5", ",")
    21.5
    """
    if len(text) > LONGEST_NUMBER:
        raise ReadingError(f"{text[:20]!r}… is not a number")
    plain = text.replace("\u2212", "-")
    if not plain.isascii() or " " in plain:
        plain = _WITH_BLANKS.sub("", plain)
    if decimal == ",":
        plain = plain.replace(".", "").replace(",", ".") if "," in plain else plain
    elif _WITH_THOUSANDS.fullmatch(plain):
        plain = plain.replace(",", "")
    if not re.fullmatch(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?", plain):
        raise ReadingError(f"{text!r} is not a number")
    return float(plain)


def without_unit(text: str) -> tuple[str, str]:
    """Return the number of a cell and the unit that stands behind it, "" where none does.

    Examples
    --------
    >>> without_unit("21.5 °C"), without_unit("45%"), without_unit("21,5")
    (('21.5', '°C'), ('45', '%'), ('21,5', ''))
    """
    match = _UNIT_BEHIND.fullmatch(text) if len(text) <= LONGEST_NUMBER else None
    return (match[1].strip(), match[2].strip()) if match else (text, "")


@dataclass(frozen=True, slots=True)
class LocalTimestamp:
    """A time as written: on the wall clock, and its offset where one stands with it."""

    wall: datetime
    offset: timedelta | None


def date_pattern(date_format: str) -> re.Pattern[str]:
    """Return how times of a date form are written; ``ReadingError`` if there is no such form."""
    if date_format not in DATE_FORMATS:
        raise ReadingError(f"{date_format!r} is no date form")
    return re.compile(DATE_FORMATS[date_format] + _TIME)


def local_timestamp(text: str, pattern: re.Pattern[str] | None) -> LocalTimestamp:
    """Return a written time; without a pattern, seconds or milliseconds since 1970. ``ReadingError`` if it is none."""
    if pattern is None:
        if not _EPOCH.fullmatch(text):
            raise ReadingError(f"{text!r} is not a number of seconds or milliseconds since 1970")
        seconds = float(text) / (1000 if len(text.split(".", maxsplit=1)[0]) > 10 else 1)
        return LocalTimestamp(datetime(1970, 1, 1) + timedelta(seconds=seconds), timedelta(0))
    match = pattern.fullmatch(text)
    if not match:
        raise ReadingError(f"{text!r} is not a date and time in the form chosen")
    part = match.groupdict()
    hour, minute, second = int(part["H"] or 0), int(part["M"] or 0), int(part["S"] or 0)
    if part["half"]:
        if not 1 <= hour <= 12:
            raise ReadingError(f"{text!r} is no time of day")
        hour = hour % 12 + (12 if part["half"] in "Pp" else 0)
    try:
        day = datetime(full_year(int(part["y"])), _month_of(part), int(part["d"]))
    except ValueError as error:
        raise ReadingError(f"{text!r} is no date") from error
    if hour > 24 or minute > 59 or second > 60 or (hour == 24 and minute + second > 0):
        raise ReadingError(f"{text!r} is no time of day")
    micro = int((part["f"] or "0").ljust(6, "0"))
    wall = day + timedelta(hours=hour, minutes=minute, seconds=second, microseconds=micro)
    return LocalTimestamp(wall, _offset(part["tz"]))


def full_year(year: int) -> int:
    """Return a year of which only the last two digits may be written: this century is meant."""
    return year + 2000 if year < 100 else year


def month_number(name: str) -> int:
    """Return the number of a month by its English name or the beginning of it, 0 if it is none."""
    return next((k for k, month in enumerate(MONTHS, 1) if name.lower().startswith(month)), 0)


def _month_of(part: Mapping[str, str | None]) -> int:
    return int(part["m"] or 0) if "m" in part else month_number(part.get("name") or "")


def _offset(text: str | None) -> timedelta | None:
    if text is None:
        return None
    if text in ("Z", "UTC"):
        return timedelta(0)
    digits = text[1:].replace(":", "")
    size = timedelta(hours=int(digits[:2]), minutes=int(digits[2:]))
    return -size if text[0] == "-" else size


def wall_time(text: str, date_format: str) -> datetime | None:
    """Return the local time that a text says in a date form or as ``epoch``; None if it says none."""
    try:
        return local_timestamp(text, None if date_format == "epoch" else date_pattern(date_format)).wall
    except ReadingError:
        return None


def date_forms_of(texts: Sequence[str]) -> tuple[str, ...]:
    """Return the date forms in which the most of some texts are times, one or two where day and month can be exchanged."""
    counts = {form: sum(wall_time(text, form) is not None for text in texts) for form in (*DATE_FORMATS, "epoch")}
    most = max(counts.values())
    return tuple(form for form, count in counts.items() if count == most) if most else ()


def delimiter_of(lines: Sequence[str]) -> str:
    """Return the sign that parts the cells of most lines."""
    whole = [line for line in lines if line.count('"') % 2 == 0]
    return max(DELIMITERS, key=lambda d: (sum(_is_parted(line, d) for line in whole), -DELIMITERS.index(d)))


def _is_parted(line: str, delimiter: str) -> bool:
    try:
        return len(cells(line, delimiter)) > 1
    except ReadingError:
        return False
