"""A log as a text table: how it is read, what would be taken of it, and what not and why.

``guess`` proposes how to read a file; every part of it can be changed. ``read`` gives readings and
refusals by line. Rules: an empty cell is a gap. A time that stands twice is taken once if its values
agree, else its first value is taken and the other refused. An hour that the clock repeats is split by
the order in the file; if it stands there once, its lines wait for a choice. A time that the clock
skips is refused.
"""

import csv
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta, timezone
from typing import Literal

import numpy as np

from warmeter.core.errors import ReadingError, TimeError, WarmeterError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.record import USUAL_HOLD_S, Kind, Readings, SeriesRecord, Stamp
from warmeter.core.readings.resample import usual_step_s
from warmeter.core.timegrid import LocalClock, to_ms
from warmeter.core.units import UNITS_OF, is_energy, to_stored

ClockKind = Literal["home", "utc", "offset", "in file"]
FoldChoice = Literal["ask", "first", "second"]
MAX_LINES = 2_000_000
DELIMITERS = (",", ";", "\t", "|")
DATE_FORMATS: dict[str, str] = {
    "year-month-day": r"(?P<y>\d{4})[-/.](?P<m>\d{1,2})[-/.](?P<d>\d{1,2})",
    "day/month/year": r"(?P<d>\d{1,2})[-/.](?P<m>\d{1,2})[-/.](?P<y>\d{4})",
    "month/day/year": r"(?P<m>\d{1,2})[-/.](?P<d>\d{1,2})[-/.](?P<y>\d{4})",
}
_TIME = (
    r"(?:[T ]+(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2})(?:[.,](?P<f>\d{1,6})\d*)?)?)?"
    r"\s*(?P<tz>Z|UTC|[+-]\d{2}:?\d{2})?"
)
_EPOCH = re.compile(r"\d{9,10}(\.\d+)?|\d{12,13}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """What one column of the file carries; ``quantity`` empty leaves it out."""

    index: int
    heading: str
    quantity: str = ""
    unit: str = ""
    kind: Kind = "instant"
    stamp: Stamp = "instant"
    subject: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """How a file is to be read.

    Parameters
    ----------
    delimiter, decimal : str
        Column and decimal sign.
    heading_line : int
        Line of the headings, 1 for the first; 0 for none.
    time_column : int
        Index of the time.
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
class _Wall:
    wall: datetime
    offset: timedelta | None


def _pattern(date_format: str) -> re.Pattern[str]:
    if date_format not in DATE_FORMATS:
        raise ReadingError(f"{date_format!r} is no date form")
    return re.compile(DATE_FORMATS[date_format] + _TIME)


def _wall_time(text: str, pattern: re.Pattern[str] | None) -> _Wall:
    if pattern is None:
        if not _EPOCH.fullmatch(text):
            raise ReadingError(f"{text!r} is not a number of seconds or milliseconds since 1970")
        seconds = float(text) / (1000 if len(text.split(".", maxsplit=1)[0]) > 10 else 1)
        return _Wall(datetime(1970, 1, 1) + timedelta(seconds=seconds), timedelta(0))
    match = pattern.fullmatch(text)
    if not match:
        raise ReadingError(f"{text!r} is not a date and time in the form chosen")
    part = match.groupdict()
    hour, minute, second = int(part["H"] or 0), int(part["M"] or 0), int(part["S"] or 0)
    try:
        day = datetime(int(part["y"]), int(part["m"]), int(part["d"]))
    except ValueError as error:
        raise ReadingError(f"{text!r} is no date") from error
    if hour > 24 or minute > 59 or second > 60 or (hour == 24 and minute + second > 0):
        raise ReadingError(f"{text!r} is no time of day")
    micro = int((part["f"] or "0").ljust(6, "0"))
    wall = day + timedelta(hours=hour, minutes=minute, seconds=second, microseconds=micro)
    return _Wall(wall, _offset(part["tz"]))


def _offset(text: str | None) -> timedelta | None:
    if text is None:
        return None
    if text in ("Z", "UTC"):
        return timedelta(0)
    digits = text[1:].replace(":", "")
    size = timedelta(hours=int(digits[:2]), minutes=int(digits[2:]))
    return -size if text[0] == "-" else size


@dataclass(slots=True)
class _Notes:
    """Refusals, neighbouring lines with the same reason folded into one."""

    found: list[Refusal] = field(default_factory=list)

    def add(self, line: int, outcome: Literal["refused", "taken once", "gap", "split"], reason: str) -> None:
        if self.found:
            last = self.found[-1]
            if (last.outcome, last.reason) == (outcome, reason) and line in (last.last, last.last + 1):
                self.found[-1] = replace(last, last=line)
                return
        self.found.append(Refusal(first=line, last=line, outcome=outcome, reason=reason))


@dataclass(slots=True)
class _Row:
    line: int
    wall: _Wall
    values: list[str]
    at_ms: int | None = None


def read(lines: Sequence[str], plan: Plan, clock: LocalClock) -> ReadLog:
    """Return what a plan takes of a file's lines.

    Parameters
    ----------
    lines : sequence of str
        Whole file, line ends removed.
    plan : Plan
        How to read it.
    clock : LocalClock
        The home's clock.

    Raises
    ------
    ReadingError
        If the plan names no column to take, one twice, or a column that is not there.
    """
    _check_plan(plan)
    notes = _Notes()
    rows = _rows(lines, plan, notes)
    _place(rows, plan, clock, notes)
    placed = [row for row in rows if row.at_ms is not None]
    placed.sort(key=lambda row: (row.at_ms, row.line))
    series = tuple(_series(placed, column, plan, notes) for column in plan.taken)
    times = [int(t) for s in series for t in (s.readings.at_ms[:1].tolist() + s.readings.at_ms[-1:].tolist())]
    return ReadLog(
        series=series,
        refusals=tuple(sorted(notes.found, key=lambda r: (r.first, r.reason))),
        lines=len(rows),
        first_ms=min(times, default=None),
        last_ms=max(times, default=None),
    )


def _check_plan(plan: Plan) -> None:
    if not plan.taken:
        raise ReadingError("no column is mapped to a quantity; choose at least one")
    wanted = [(column.quantity, column.subject) for column in plan.taken]
    twice = next((w for w in wanted if wanted.count(w) > 1), None)
    if twice:
        raise ReadingError(f"two columns are mapped to the same {QUANTITIES[twice[0]].label}; leave one out")
    for column in plan.taken:
        quantity = QUANTITIES[column.quantity]
        if (quantity.of_room or quantity.of_machine) and not column.subject:
            belongs = "room" if quantity.of_room else "machine"
            raise ReadingError(f"the column {column.heading!r} needs a {belongs} to which it belongs")


def _rows(lines: Sequence[str], plan: Plan, notes: _Notes) -> list[_Row]:
    pattern = None if plan.date_format == "epoch" else _pattern(plan.date_format)
    needed = max([plan.time_column, *(column.index for column in plan.taken)])
    rows = []
    for line, text in enumerate(lines[plan.heading_line :], plan.heading_line + 1):
        if not text.strip():
            continue
        try:
            values = cells(text, plan.delimiter)
        except ReadingError as error:
            notes.add(line, "refused", str(error))
            continue
        if not any(values):
            continue
        if len(values) <= needed:
            notes.add(line, "refused", "the line ends before its last column: it was cut while writing")
            continue
        try:
            rows.append(_Row(line, _wall_time(values[plan.time_column], pattern), values))
        except ReadingError as error:
            notes.add(line, "refused", str(error))
    if len(rows) > 1 and rows[0].wall.wall > rows[-1].wall.wall:
        rows.reverse()
    return rows


def _place(rows: list[_Row], plan: Plan, clock: LocalClock, notes: _Notes) -> None:
    """Give each row its instant."""
    doubtful: list[_Row] = []
    for row in rows:
        if row.wall.offset is not None and plan.clock == "in file":
            row.at_ms = to_ms((row.wall.wall - row.wall.offset).replace(tzinfo=UTC))
        elif plan.clock == "utc" or (plan.date_format == "epoch"):
            row.at_ms = to_ms(row.wall.wall.replace(tzinfo=UTC))
        elif plan.clock == "offset":
            zone = timezone(timedelta(minutes=plan.offset_min))
            row.at_ms = to_ms(row.wall.wall.replace(tzinfo=zone))
        elif plan.clock == "in file":
            notes.add(row.line, "refused", "this time carries no offset, the others do")
        else:
            instants = clock.instants_of(row.wall.wall)
            if len(instants) == 1:
                row.at_ms = instants[0]
            elif not instants:
                notes.add(row.line, "refused", f"the clock in {clock.zone} skips this time")
            else:
                doubtful.append(row)
    for group in _groups(doubtful):
        _split_repeated(group, plan, clock, notes)


def _groups(rows: list[_Row]) -> Iterable[list[_Row]]:
    """Yield rows of one night's repeated hour together."""
    by_date: dict[object, list[_Row]] = {}
    for row in rows:
        by_date.setdefault((row.wall.wall - timedelta(hours=12)).date(), []).append(row)
    return by_date.values()


def _split_repeated(rows: list[_Row], plan: Plan, clock: LocalClock, notes: _Notes) -> None:
    """Split a repeated hour by order: from the first step back on, the second coming is meant."""
    back = next((k for k in range(1, len(rows)) if rows[k].wall.wall < rows[k - 1].wall.wall), None)
    if back is not None:
        for k, row in enumerate(rows):
            row.at_ms = clock.instants_of(row.wall.wall)[0 if k < back else 1]
        notes.add(rows[back].line, "split", "the clock goes back: the hour stands twice and is split by its order")
        return
    if plan.repeated_hour == "ask":
        for row in rows:
            notes.add(row.line, "refused", "this hour comes twice and stands here once: choose which is meant")
        return
    for row in rows:
        row.at_ms = clock.instants_of(row.wall.wall)[0 if plan.repeated_hour == "first" else 1]


def _series(rows: Sequence[_Row], column: Column, plan: Plan, notes: _Notes) -> TakenSeries:
    times: list[int] = []
    values: list[float] = []
    left_out = 0
    for row in rows:
        text = row.values[column.index]
        if text == "":
            left_out += 1
            continue
        try:
            value = _checked(text, column, plan.decimal)
        except WarmeterError as error:
            notes.add(row.line, "refused", f"{column.heading}: {error}")
            left_out += 1
            continue
        assert row.at_ms is not None
        if times and row.at_ms == times[-1]:
            left_out += 1
            if value == values[-1]:
                notes.add(row.line, "taken once", "this time stands twice with the same value")
            else:
                notes.add(row.line, "refused", f"{column.heading}: this time stands twice; its first value was taken")
            continue
        times.append(row.at_ms)
        values.append(value)
    readings = Readings(np.array(times, dtype=np.int64), np.array(values))
    step = 0 if column.kind == "held" else usual_step_s(readings.at_ms)
    hold = max(USUAL_HOLD_S[column.kind], 3 * step)
    record = SeriesRecord(
        quantity=column.quantity,
        unit=column.unit,
        kind=column.kind,
        stamp=column.stamp,
        step_s=step,
        longest_hold_s=hold,
        subject=column.subject,
    )
    if record.kind in ("mean", "sum") and not step and readings.at_ms.size:
        raise ReadingError(
            f"{column.heading}: a {record.kind} needs even steps, and these lines have none; "
            "map it as held until the next, or as a counter"
        )
    _note_gaps(readings, record, column, rows, notes)
    return TakenSeries(record=record, readings=readings, heading=column.heading, left_out=left_out)


def _checked(text: str, column: Column, decimal: str) -> float:
    """Return the number as written, once its value in the stored unit is plausible."""
    raw = number(text, decimal)
    value = to_stored(raw, quantity=column.quantity, unit=column.unit)
    quantity = QUANTITIES[column.quantity]
    if not is_energy(column.unit) and not quantity.low <= value <= quantity.high:
        raise ReadingError(
            f"{text} {column.unit} cannot be a {quantity.label} "
            f"(between {quantity.low:g} and {quantity.high:g} {quantity.unit})"
        )
    return raw


def _note_gaps(readings: Readings, record: SeriesRecord, column: Column, rows: Sequence[_Row], notes: _Notes) -> None:
    limit = (3 * record.step_s if record.step_s else record.longest_hold_s) * 1000
    gaps = np.flatnonzero(np.diff(readings.at_ms) > limit)
    line_at = {row.at_ms: row.line for row in rows}
    for k in gaps[:50]:
        minutes = int(readings.at_ms[k + 1] - readings.at_ms[k]) // 60_000
        line = line_at[int(readings.at_ms[k])]
        reason = f"{column.heading}: not heard for {minutes // 60} h {minutes % 60:02d} min; stays a gap"
        notes.found.append(Refusal(first=line, last=line, outcome="gap", reason=reason))


def guess(lines: Sequence[str], *, rooms: Sequence[tuple[str, str]], machines: Sequence[tuple[str, str]]) -> Plan:
    """Propose how to read a file from its first lines.

    Parameters
    ----------
    lines : sequence of str
        First lines of the file.
    rooms, machines : sequences of (id, name)
        To which columns can belong.

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
    has_offset = date_format != "epoch" and _wall_time(data[0][time_column], _pattern(date_format)).offset is not None
    columns = tuple(
        _guess_column(k, headings[k] if k < len(headings) else f"column {k + 1}", rooms, machines)
        for k in range(max(len(row) for row in data))
        if k != time_column
    )
    return Plan(
        delimiter=delimiter,
        decimal=decimal,
        heading_line=heading_line,
        time_column=time_column,
        date_format=date_format,
        clock="in file" if has_offset else ("utc" if date_format == "epoch" else "home"),
        columns=_without_doubles(columns),
    )


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
        _wall_time(cell, None if name == "epoch" else _pattern(name))
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
    (r"forecast|vorhersage", "outdoor_forecast"),
    (r"humid|\brh\b|feuchte", "relative_humidity"),
    (r"out|ext|außen|aussen|ambient|weather|\bta\b|outside", "outdoor_temperature"),
    (r"heat|heiz|chauff|\bph\b|radiator|emitter", "heat_w"),
    (r"power|watt|plug|machine|washer|washing|load|leistung|\bw\b", "electric_w"),
    (r"temp|°|\bti\b|room|inside|indoor|raum", "room_temperature"),
)
_UNIT_HINTS = ((r"°f|fahrenheit|\bf\b|_f\b", "°F"), (r"kwh", "kWh"), (r"\bwh\b|_wh\b", "Wh"), (r"kw\b|_kw", "kW"))


def _guess_column(
    index: int, heading: str, rooms: Sequence[tuple[str, str]], machines: Sequence[tuple[str, str]]
) -> Column:
    text = heading.lower().replace("_", " ")
    named_room = next((i for i, name in rooms if name.lower() in text), "")
    named_machine = next((i for i, name in machines if name.lower() in text), "")
    quantity = next((q for pattern, q in _HINTS if re.search(pattern, text)), "")
    if named_machine:
        quantity = "electric_w"
    elif named_room and quantity not in ("heat_w", "outdoor_temperature", "relative_humidity"):
        quantity = "room_temperature"
    if quantity == "electric_w" and not machines:
        quantity = ""
    if not quantity:
        return Column(index=index, heading=heading)
    found = QUANTITIES[quantity]
    unit = next((u for pattern, u in _UNIT_HINTS if re.search(pattern, text) and u in UNITS_OF[quantity]), found.unit)
    kind: Kind = "sum" if is_energy(unit) else ("mean" if found.is_power else "instant")
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
