"""How a log can be read, proposed from its lines: delimiter, dates, and what each column could be.

What is not sure is asked: ``mapping`` takes only what is, ``suggested`` what is likely too.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import pairwise
from typing import Literal

from warmeter.core.errors import ReadingError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.column_proposal import ColumnProposal, proposed_column, units_doubt
from warmeter.core.readings.column_subjects import LogSubjects
from warmeter.core.readings.column_values import column_values
from warmeter.core.readings.column_words import unit_named, words_of
from warmeter.core.readings.csvlog import (
    DAY_FIRST,
    MONTH_FIRST,
    Column,
    ImportMapping,
    cells,
    channel_of,
    date_forms_of,
    date_pattern,
    delimiter_of,
    local_timestamp,
    wall_time,
)
from warmeter.core.readings.state_words import is_word_of_states

MOST_CHANNELS = 60
SEVERAL_LINES_A_TIME = 1.5
LEAST_ROWS, MOST_CELLS = 200, 200_000  # so much of a wide file is looked at
_CLOCK = r"\d{1,2}:\d{2}(:\d{2})?(\s*[AaPp]\.?[Mm]\.?)?"
_THOUSANDS = re.compile(r"[+-]?\d{1,3}(,\d{3})+")
# Headings of columns that part several series; each of a heading's words is one of these.
_NAMES_SERIES = frozenset(
    {"sensor", "room", "device", "channel", "name", "topic", "entity", "id", "where", "location", "place", "point"}
    | {"what", "measure", "measurement", "quantity", "property", "attribute", "type", "unit", "units", "series"}
)


@dataclass(frozen=True, slots=True, kw_only=True)
class FileQuestion:
    """What is to be chosen of a whole file before its times and numbers can be trusted: a field of the mapping."""

    field: Literal["date_format", "decimal"]
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LogProposal:
    """How a file could be read.

    ``format`` says how its lines are taken apart; ``columns`` what each could be; ``asks`` what is to be chosen first.
    """

    format: ImportMapping
    columns: tuple[ColumnProposal, ...]
    asks: tuple[FileQuestion, ...]

    @property
    def mapping(self) -> ImportMapping:
        """How it is read where only what is sure is taken."""
        return replace(self.format, columns=tuple(left_open(c.column) if c.asks else c.column for c in self.columns))

    @property
    def suggested(self) -> ImportMapping:
        """How it is read where what is likely is taken too; what belongs to nobody, or to two columns, is left open."""
        seen: set[tuple[str, str]] = set()
        columns = []
        for proposal in self.columns:
            column = proposal.column
            key = (column.quantity, column.subject)
            is_taken = bool(column.quantity) and key not in seen and is_complete(column)
            columns.append(column if is_taken else left_open(column))
            seen.add(key)
        return replace(self.format, columns=tuple(columns))


_DATE_QUESTION = FileQuestion(
    field="date_format", sentence="Every date can be read day first or month first: choose which is meant."
)
_COMMA_QUESTION = FileQuestion(
    field="decimal", sentence="A comma in its numbers can part thousands or decimals: choose which is meant."
)


def is_complete(column: Column) -> bool:
    """Return whether a column has all that it needs to be read in: a quantity, and a subject where that needs one."""
    quantity = QUANTITIES.get(column.quantity)
    return quantity is not None and not (quantity.needs_subject and not column.subject)


def left_open(column: Column) -> Column:
    """Return a column that is left out until somebody says what it is."""
    return Column(index=column.index, heading=column.heading, channel=column.channel)


@dataclass(frozen=True, slots=True)
class _Table:
    """The lines of a file taken apart: rows of cells with their local times and channels, and the headings."""

    rows: list[list[str]]
    walls: list[datetime]
    channels: list[str]
    headings: list[str]

    def heading(self, index: int) -> str:
        """Return a column's heading."""
        return self.headings[index] if index < len(self.headings) else f"column {index + 1}"


def propose_mapping(lines: Sequence[str], subjects: LogSubjects, channels: Sequence[str] = ()) -> LogProposal:
    """Propose how to read a file from some of its lines.

    Parameters
    ----------
    lines : sequence of str
        The first lines of the file, more behind them if there are.
    subjects : LogSubjects
        To which columns can belong.
    channels : sequence of str, optional
        The words that part several series, where more of the file was looked at than ``lines``.

    Raises
    ------
    ReadingError
        If no line looks like a time with numbers behind it.
    """
    form, table, asks = _form_of(lines)
    known = (form.time_column, form.clock_column, *form.channel_columns)
    width = max(len(row) for row in table.rows)
    proposals: list[ColumnProposal] = []
    for k in range(width):
        if k in known:
            continue
        words = list(channels) or list(dict.fromkeys(table.channels))
        for word in words if form.channel_columns else [""]:
            proposals.append(_proposed(table, form, k, word, subjects))
    proposals = _with_shared_unit(proposals)
    return LogProposal(format=form, columns=tuple(_without_doubles(proposals)), asks=asks)


def _proposed(table: _Table, form: ImportMapping, index: int, channel: str, subjects: LogSubjects) -> ColumnProposal:
    mine = [
        (row[index] if index < len(row) else "", wall)
        for row, wall, word in zip(table.rows, table.walls, table.channels, strict=True)
        if not channel or word == channel
    ]
    values = column_values([cell for cell, _ in mine], [wall for _, wall in mine], form.decimal)
    return proposed_column(index, table.heading(index), values, subjects, channel)


def _form_of(lines: Sequence[str]) -> tuple[ImportMapping, _Table, tuple[FileQuestion, ...]]:
    """Return how a file's lines are taken apart, its rows, and what of that is to be chosen."""
    delimiter = delimiter_of(lines)
    body = [(n, cells(line, delimiter)) for n, line in enumerate(lines, 1) if line.count('"') % 2 == 0]
    first, time_column = _first_data(body)
    data = [row for n, row in body if n >= first and len(row) > time_column]
    clock_column = _clock_column(data, time_column)
    date_format, date_asks = _date_form(data, time_column, clock_column)
    decimal, number_asks = _decimal(data, time_column)
    headings = _headings(dict(body), first - 1)
    pattern = None if date_format == "epoch" else date_pattern(date_format)
    rows, walls, has_offset = [], [], False
    for row in data[: max(LEAST_ROWS, MOST_CELLS // len(data[0]))]:
        text = row[time_column] + (f" {row[clock_column]}" if 0 <= clock_column < len(row) else "")
        try:
            found = local_timestamp(text, pattern)
        except ReadingError:
            continue
        rows.append(row)
        walls.append(found.wall)
        has_offset = has_offset or (pattern is not None and found.offset is not None)
    form = ImportMapping(
        delimiter=delimiter,
        decimal=decimal,
        heading_line=first - 1,
        time_column=time_column,
        date_format=date_format,
        clock="in file" if has_offset else ("utc" if date_format == "epoch" else "home"),
        clock_column=clock_column,
        channel_columns=_channel_columns(rows, walls, headings, (time_column, clock_column)),
    )
    return form, _Table(rows, walls, [channel_of(row, form) for row in rows], headings), (*date_asks, *number_asks)


def _headings(body: Mapping[int, list[str]], line: int) -> list[str]:
    """Return the headings of the line before the first data; where that has units alone, those of the line above too."""
    below = body.get(line, [])
    cells_of_units = [cell for cell in below if cell]
    above = body.get(line - 1, [])
    if cells_of_units and above and all(unit_named(cell.strip("()[]")) for cell in cells_of_units):
        return [f"{above[k] if k < len(above) else ''} {cell}".strip() for k, cell in enumerate(below)]
    return below


def _first_data(body: Sequence[tuple[int, list[str]]]) -> tuple[int, int]:
    """Return the first line with a time, and in which column it stands."""
    for line, row in body:
        for index, cell in enumerate(row[:6]):
            if len(row) > 1 and date_forms_of([cell]):
                return line, index
    raise ReadingError(
        "no line begins with a date and time followed by numbers; save the log as a table with a time in "
        "one column, such as 2026-01-20 06:45"
    )


def _clock_column(data: Sequence[list[str]], time_column: int) -> int:
    """Return the column of the time of day where it stands by itself after the date; -1 where it does not."""
    if ":" in data[0][time_column]:
        return -1
    following = time_column + 1
    fits = all(len(r) > following and re.fullmatch(_CLOCK, r[following]) for r in data)
    return following if fits else -1


def _date_form(data: Sequence[list[str]], time_column: int, clock_column: int) -> tuple[str, tuple[FileQuestion, ...]]:
    """Return the date form that reads most lines, and what is to be chosen where two read them all.

    Where days and months could be exchanged in every line, the one whose lines follow each other closer is meant: a
    log goes on from day to day. Where both do, it is asked.
    """
    texts = [row[time_column] + (f" {row[clock_column]}" if 0 <= clock_column < len(row) else "") for row in data]
    forms = date_forms_of(texts)
    spans = {form: _wandering_s([wall for t in texts if (wall := wall_time(t, form))]) for form in forms}
    if len(forms) > 1 and spans[DAY_FIRST] == spans[MONTH_FIRST]:
        return DAY_FIRST, (_DATE_QUESTION,)
    return min(forms, key=lambda form: spans[form]), ()


def _wandering_s(walls: Sequence[datetime]) -> float:
    """Return how far a file's times wander from line to line, in all [s]."""
    return sum(abs((b - a).total_seconds()) for a, b in pairwise(walls))


def _decimal(data: Sequence[list[str]], time_column: int) -> tuple[Literal[".", ","], tuple[FileQuestion, ...]]:
    """Return the decimal sign, and what is to be chosen where a comma could part thousands."""
    texts = [cell for row in data for k, cell in enumerate(row) if k != time_column and "," in cell]
    numbers = [text for text in texts if re.fullmatch(r"[+-]?[\d.]*\d,\d+", text) or _THOUSANDS.fullmatch(text)]
    if not numbers:
        return ".", ()
    if all(_THOUSANDS.fullmatch(text) for text in numbers):
        return ",", (_COMMA_QUESTION,)
    return ",", ()


def _channel_columns(
    data: Sequence[list[str]], walls: Sequence[datetime], headings: Sequence[str], known: tuple[int, ...]
) -> tuple[int, ...]:
    """Return the columns of words that part several series in one file; none where each line tells all of them.

    A column does where its heading says so, or where times stand on several lines and its words are no states.
    """
    times_repeat = len(set(walls)) * SEVERAL_LINES_A_TIME <= len(walls)
    found = []
    for k in range(min(len(row) for row in data)):
        different = {row[k] for row in data}
        if k in known or len(different) > MOST_CHANNELS or "" in different:
            continue
        words = words_of(headings[k]) if k < len(headings) else ()
        is_named = bool(words) and set(words) <= _NAMES_SERIES
        are_words = all(re.search(r"[^\W\d_]|[°%]", word) for word in different)
        are_states = all(is_word_of_states(word) for word in different)
        if is_named or (times_repeat and are_words and not are_states and len(different) > 1):
            found.append(k)
    return tuple(found)


def _with_shared_unit(proposals: Sequence[ColumnProposal]) -> list[ColumnProposal]:
    """Return proposals in which temperatures whose unit is not clear have the one of the file's others."""
    clear = {p.column.unit for p in proposals if p.certainty == "sure" and p.column.unit in ("°C", "°F", "K")}
    if len(clear) != 1:
        return list(proposals)
    (unit,) = clear
    return [
        replace(
            p,
            column=replace(p.column, unit=unit),
            reasons=(*p.reasons, f"its unit is that of the other temperatures, {unit}"),
            doubts=tuple(doubt for doubt in p.doubts if doubt != units_doubt(p.units)),
        )
        if unit in p.units
        else p
        for p in proposals
    ]


def _without_doubles(proposals: Sequence[ColumnProposal]) -> list[ColumnProposal]:
    """Return proposals in which two columns that could be the same are asked for."""
    keys = [(p.column.quantity, p.column.subject) for p in proposals]
    sure = [key for key, p in zip(keys, proposals, strict=True) if p.certainty == "sure"]
    return [
        replace(p, doubts=(*p.doubts, "another column could be the same"))
        if is_complete(p.column) and keys.count(key) > 1 and (p.certainty != "sure" or sure.count(key) > 1)
        else p
        for key, p in zip(keys, proposals, strict=True)
    ]
