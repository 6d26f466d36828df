"""A log as a text table: how it can be read, and what comes of it.

``guess`` proposes how to read a file; every part of it can be changed. ``logtable.read`` reads it so.
"""

import csv
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal

from warmeter.core.errors import ReadingError, TimeError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.record import Kind, Readings, SeriesRecord, Stamp
from warmeter.core.readings.state_words import is_state_word
from warmeter.core.units import UNITS_OF, is_energy

ClockKind = Literal["home", "utc", "offset", "in file"]
FoldChoice = Literal["ask", "first", "second"]
MOST_CHANNELS = 8
DELIMITERS = (",", ";", "\t", "|")
DATE_FORMATS: dict[str, str] = {
    "year-month-day": r"(?P<y>\d{4})[-/.](?P<m>\d{1,2})[-/.](?P<d>\d{1,2})",
    "day/month/year": r"(?P<d>\d{1,2})[-/.](?P<m>\d{1,2})[-/.](?P<y>\d{4})",
    "month/day/year": r"(?P<m>\d{1,2})[-/.](?P<d>\d{1,2})[-/.](?P<y>\d{4})",
}
_TIME = (
    r"(?:[T ]+(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2})(?:[.,](?P<f>\d{1,6})\d*)?)?"
    r"(?:\s*(?P<half>[AaPp])\.?[Mm]\.?)?)?"
    r"\s*(?P<tz>Z|UTC|[+-]\d{2}:?\d{2})?"
)
_CLOCK = r"\d{1,2}:\d{2}(:\d{2})?(\s*[AaPp]\.?[Mm]\.?)?"
_EPOCH = re.compile(r"\d{9,10}(\.\d+)?|\d{12,13}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """What one column of the file carries; ``quantity`` empty leaves it out.

    Of a file with several series in one column, ``channel`` is the word that marks this one's lines.
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
    channel_column : int
        Index of the word that says which of several series a line belongs to; -1 for none.
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
    channel_column: int = -1
    earliest_ms: int = EARLIEST_MS
    latest_ms: int = LATEST_MS

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
    """One column's readings with its record; ``lines`` how many lines gave none."""

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
    plain = text.replace("\u2212", "-").replace("\u2009", "").replace("\u00a0", "")
    if decimal == ",":
        plain = plain.replace(".", "").replace(",", ".") if "," in plain else plain
    if not re.fullmatch(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?", plain):
        raise ReadingError(f"{text!r} is not a number")
    return float(plain)


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
        day = datetime(int(part["y"]), int(part["m"]), int(part["d"]))
    except ValueError as error:
        raise ReadingError(f"{text!r} is no date") from error
    if hour > 24 or minute > 59 or second > 60 or (hour == 24 and minute + second > 0):
        raise ReadingError(f"{text!r} is no time of day")
    micro = int((part["f"] or "0").ljust(6, "0"))
    wall = day + timedelta(hours=hour, minutes=minute, seconds=second, microseconds=micro)
    return LocalTimestamp(wall, _offset(part["tz"]))


def _offset(text: str | None) -> timedelta | None:
    if text is None:
        return None
    if text in ("Z", "UTC"):
        return timedelta(0)
    digits = text[1:].replace(":", "")
    size = timedelta(hours=int(digits[:2]), minutes=int(digits[2:]))
    return -size if text[0] == "-" else size


def guess(
    lines: Sequence[str],
    *,
    rooms: Sequence[tuple[str, str]],
    machines: Sequence[tuple[str, str]],
    devices: Sequence[tuple[str, str, str]] = (),
) -> ImportMapping:
    """Propose how to read a file from its first lines.

    Parameters
    ----------
    lines : sequence of str
        First lines of the file.
    rooms, machines : sequences of (id, name)
        To which columns can belong.
    devices : sequence of (id, name, quantity)
        Sensors of two states and probes, to which columns can belong that carry their name.

    Raises
    ------
    ReadingError
        If no line looks like a time with numbers behind it.
    """
    body_lines = [(n, line) for n, line in enumerate(lines, 1) if line.count('"') % 2 == 0]
    delimiter = max(
        DELIMITERS, key=lambda d: (sum(len(cells(line, d)) > 1 for _, line in body_lines), -DELIMITERS.index(d))
    )
    body = [(n, cells(line, delimiter)) for n, line in body_lines]
    first, time_column, date_format = _first_data(body)
    data = [row for n, row in body if n >= first and len(row) > time_column]
    # A comma parts decimals where it is not the delimiter and no cell has a point.
    joined = " ".join(cell for row in data for k, cell in enumerate(row) if k != time_column)
    decimal: Literal[".", ","] = "," if delimiter != "," and re.search(r"\d,\d", joined) else "."
    heading_line = first - 1
    headings = dict(body).get(heading_line, [])
    has_offset = (
        date_format != "epoch" and local_timestamp(data[0][time_column], date_pattern(date_format)).offset is not None
    )
    clock_column = _clock_column(data, time_column)
    channel_column = _channel_column(data, (time_column, clock_column))
    columns = tuple(
        _of_device(k, headings[k] if k < len(headings) else "", devices)
        or _guess_column(k, headings[k] if k < len(headings) else f"column {k + 1}", rooms, machines)
        for k in range(max(len(row) for row in data))
        if k not in (time_column, clock_column, channel_column)
    )
    return ImportMapping(
        delimiter=delimiter,
        decimal=decimal,
        heading_line=heading_line,
        time_column=time_column,
        date_format=date_format,
        clock="in file" if has_offset else ("utc" if date_format == "epoch" else "home"),
        columns=_without_doubles(columns),
        clock_column=clock_column,
        channel_column=channel_column,
    )


def _clock_column(data: Sequence[list[str]], time_column: int) -> int:
    """Return the column of the time of day where it stands by itself after the date; -1 where it does not."""
    if ":" in data[0][time_column]:
        return -1
    following = time_column + 1
    fits = all(len(r) > following and re.fullmatch(_CLOCK, r[following]) for r in data)
    return following if fits else -1


def _channel_column(data: Sequence[list[str]], known: tuple[int, ...]) -> int:
    """Return the column of words that part several series in one file; -1 where every word is a number."""
    for k in range(min(len(row) for row in data)):
        words = {row[k] for row in data}
        are_words = all(re.search(r"[A-Za-z]", w) for w in words)
        if k not in known and len(words) <= MOST_CHANNELS and are_words and not all(is_state_word(w) for w in words):
            return k
    return -1


def with_channels(mapping: ImportMapping, words: Sequence[str]) -> ImportMapping:
    """Return a plan in which each column is one series for each word of the channel column."""
    columns = []
    for column in mapping.columns:
        for word in words:
            heading = f"{column.heading} {word}"
            quantity = next((q for hint, q in _HINTS if q.startswith("grid") and re.search(hint, heading.lower())), "")
            own = replace(column, heading=heading, channel=word)
            columns.append(own if own.quantity == "" or not quantity else replace(own, quantity=quantity))
    return replace(mapping, columns=_without_doubles(columns))


def _first_data(body: Sequence[tuple[int, list[str]]]) -> tuple[int, int, str]:
    for line, row in body:
        for index, cell in enumerate(row[:4]):
            for name in [*DATE_FORMATS, "epoch"]:
                if _reads_as(cell, name) and len(row) > 1:
                    return line, index, _date_form(body, line, index, name)
    raise ReadingError(
        "no line begins with a date and time followed by numbers; save the log as a table with a time in "
        "one column, such as 2026-01-20 06:45"
    )


def _reads_as(cell: str, name: str) -> bool:
    try:
        local_timestamp(cell, None if name == "epoch" else date_pattern(name))
    except (ReadingError, TimeError):
        return False
    return True


def _date_form(body: Sequence[tuple[int, list[str]]], first: int, index: int, name: str) -> str:
    """Return the date form that reads most lines; day before month where both do."""
    texts = [row[index] for line, row in body if line >= first and len(row) > index]
    if name == "epoch" or name == "year-month-day":
        return name
    return max(("day/month/year", "month/day/year"), key=lambda n: sum(_reads_as(t, n) for t in texts))


_HINTS: tuple[tuple[str, str], ...] = (
    (r"vibrat|contact|is on", "machine_is_on"),
    (r"water temp|water °|water_temp", "water_temperature"),
    (r"export|feed[- ]?in|injection|\bb1\b", "grid_export_w"),
    (r"import|usage|consumption|consumed|grid|meter|\be1\b", "grid_import_w"),
    (r"forecast|vorhersage", "outdoor_forecast"),
    (r"(outdoor|outside) humid", "outdoor_humidity"),
    (r"presence|occup|somebody", "is_in"),
    (r"humid|\brh\b|feuchte", "relative_humidity"),
    (r"out|ext|außen|aussen|ambient|weather|\bta\b|outside", "outdoor_temperature"),
    (r"heat|heiz|chauff|\bph\b|radiator|emitter", "heat_w"),
    (r"power|watt|plug|machine|washer|washing|load|leistung|\bw\b", "electric_w"),
    (r"temp|°|\bti\b|room|inside|indoor|raum", "room_temperature"),
)
_UNIT_HINTS = ((r"°f|fahrenheit|\bf\b|_f\b", "°F"), (r"kwh", "kWh"), (r"\bwh\b|_wh\b", "Wh"), (r"kw\b|_kw", "kW"))


def _of_device(index: int, heading: str, devices: Sequence[tuple[str, str, str]]) -> Column | None:
    """Return a column that carries the name of a sensor, the longest name first; None if it has none."""
    text = heading.lower().replace("_", " ")
    for device_id, name, quantity in sorted(devices, key=lambda d: -len(d[1])):
        if name.lower() in text:
            is_state = QUANTITIES[quantity].high == 1.0
            return Column(
                index=index,
                heading=heading,
                quantity=quantity,
                unit=QUANTITIES[quantity].unit,
                kind="held" if is_state else "instant",
                stamp="instant",
                subject=device_id,
            )
    return None


def _guess_column(
    index: int, heading: str, rooms: Sequence[tuple[str, str]], machines: Sequence[tuple[str, str]]
) -> Column:
    text = heading.lower().replace("_", " ")
    named_room = next((i for i, name in rooms if name.lower() in text), "")
    named_machine = next((i for i, name in machines if name.lower() in text), "")
    quantity = next((q for pattern, q in _HINTS if re.search(pattern, text)), "")
    if named_machine and quantity not in ("machine_is_on", "water_temperature"):
        quantity = "electric_w"
    elif named_room and quantity not in ("heat_w", "outdoor_temperature", "relative_humidity", "is_in"):
        quantity = "room_temperature"
    if quantity in ("electric_w", "machine_is_on", "water_temperature") and not machines:
        quantity = ""
    if not quantity and re.search(r"kwh|\bwh\b", text):
        quantity = "grid_import_w"
    if not quantity:
        return Column(index=index, heading=heading)
    found = QUANTITIES[quantity]
    unit = next((u for pattern, u in _UNIT_HINTS if re.search(pattern, text) and u in UNITS_OF[quantity]), found.unit)
    usual: Kind = "held" if found.high == 1.0 else "instant"
    kind: Kind = "sum" if is_energy(unit) else ("mean" if found.is_power else usual)
    subject = ""
    if found.of_room:
        subject = named_room or (rooms[0][0] if rooms else "")
    elif found.of_machine:
        subject = named_machine or machines[0][0]
    return Column(
        index=index,
        heading=heading,
        quantity=quantity,
        unit=unit,
        kind=kind,
        stamp="start" if kind in ("mean", "sum") else "instant",
        subject=subject,
    )


def _without_doubles(columns: Sequence[Column]) -> tuple[Column, ...]:
    """Leave out later columns guessed to be what an earlier one is."""
    seen: set[tuple[str, str]] = set()
    kept = []
    for column in columns:
        key = (column.quantity, column.subject)
        kept.append(replace(column, quantity="") if column.quantity and key in seen else column)
        seen.add(key)
    return tuple(kept)
