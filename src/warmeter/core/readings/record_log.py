"""Logs that are no tables: records in JSON, one a line or in a list, and a broker's lines; each made a table of.

A table has the time first and a column for each thing that is told, whose cells are empty where a record does not tell
it. Numbers stay as they are written.
"""

import json
import re
from collections.abc import Iterable, Iterator, Mapping
from itertools import islice

from warmeter.core.csv_cells import csv_text
from warmeter.core.errors import ReadingError
from warmeter.core.readings.csvlog import DATE_FORMATS

TIMES = ("time", "timestamp", "ts", "datetime", "date", "when", "at", "last_changed", "last_updated", "t")
NAMES = ("topic", "entity_id", "sensor", "channel", "device", "name", "id")
VALUES = ("payload", "state", "value", "reading")
UNITS = ("unit", "units", "unit_of_measurement", "uom")
LOOKED_AT = 20
MOST_COLUMNS = 400
_BROKER = re.compile(
    rf"\[?(?P<time>(?:{DATE_FORMATS['year-month-day'].replace('?P<', '?P<_')}[T ]\d{{1,2}}:\d{{2}}(?::\d{{2}}(?:[.,]\d+)?)?"
    r"(?:Z|[+-]\d{2}:?\d{2})?|\d{10}(?:\.\d+)?|\d{13}))\]?[:,]?\s+(?P<topic>[^\s,;{}\[\]]+/[^\s,;{}\[\]]+)[:,]?\s+(?P<payload>\S.*)"
)
_NUMBER = re.compile(r"[+-]?\d+(\.\d+)?([eE][+-]?\d+)?")
_BLANK = "\ufeff \t\r\n"
Record = dict[str, str]


def _is_json(begin: str) -> bool:
    # A broker may set its times in brackets.
    return begin[:1] in ("[", "{") and not _BROKER.match(begin)


def looks_like_records(text: str) -> bool:
    """Return whether a file begins as records do: a list or an object of JSON, or lines of time, topic and payload."""
    begin = text.lstrip(_BLANK)
    if _is_json(begin):
        return True
    lines = [line for line in begin.splitlines()[:LOOKED_AT] if line.strip()]
    return bool(lines) and sum(bool(_BROKER.fullmatch(line.strip())) for line in lines) > len(lines) / 2


def table_of(text: str) -> str:
    """Return the records of a file as a CSV table.

    Raises
    ------
    ReadingError
        If it cannot be read so; the sentence says where.
    """
    begin = text.lstrip(_BLANK)
    records = _from_json(begin) if _is_json(begin) else _from_broker(begin)
    rows = [_spread(record) for record in records]
    if not rows:
        raise ReadingError("no record of this file has a time and something that was told")
    columns = list(dict.fromkeys(key for row in rows for key in row))
    time = _time_key(rows, columns)
    if len(columns) > MOST_COLUMNS:
        raise ReadingError(f"its records tell {len(columns)} things; at most {MOST_COLUMNS} can be read from one file")
    others = [key for key in columns if key != time]
    return csv_text([[time, *others], *([row.get(time, ""), *(row.get(key, "") for key in others)] for row in rows)])


def _from_json(text: str) -> Iterator[Record]:
    """Yield the records of a list, of an object that holds one, or of lines."""
    try:
        whole = _read(text)
    except (json.JSONDecodeError, RecursionError):
        yield from _from_lines(text)
        return
    if isinstance(whole, dict):
        lists = [value for value in whole.values() if isinstance(value, list) and value and isinstance(value[0], dict)]
        whole = max(lists, key=len) if lists else [whole]
    if not isinstance(whole, list) or not all(isinstance(record, dict) for record in whole):
        raise ReadingError("this JSON is no list of records; each needs a time and values with their names")
    yield from (_flat(record) for record in whole)


def _from_lines(text: str) -> Iterator[Record]:
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            record = _read(line)
        except (json.JSONDecodeError, RecursionError) as error:
            raise ReadingError("this is no JSON", number) from error
        if not isinstance(record, dict):
            raise ReadingError("this is no record; it needs a time and values with their names", number)
        yield _flat(record)


def _read(text: str) -> object:
    return json.loads(text, parse_float=str, parse_int=str, parse_constant=lambda _: None)


def _flat(record: Mapping[str, object], before: str = "") -> Record:
    """Return a record's words and numbers by name, those within others behind a point."""
    found: Record = {}
    for key, value in record.items():
        name = f"{before}{key}"
        if isinstance(value, dict):
            found |= _flat(value, f"{name}.")
        elif isinstance(value, bool):
            found[name] = str(int(value))
        elif isinstance(value, str):
            found[name] = value.strip()
        elif value is None:
            found[name] = ""
    return found


def _from_broker(text: str) -> Iterator[Record]:
    for line in text.splitlines():
        match = _BROKER.fullmatch(line.strip())
        if match is None:
            continue
        time, topic, payload = match["time"], match["topic"], match["payload"].strip()
        told: object = payload
        if payload[:1] == "{":
            try:
                told = _read(payload)
            except (json.JSONDecodeError, RecursionError):
                continue
        values = _flat(told, f"{topic}/") if isinstance(told, dict) else {topic: payload.strip('"')}
        yield {"time": time, **values}


def _spread(record: Record) -> Record:
    """Return a record that names one thing and its value as that thing's column, its unit with the name.

    Other numbers of the record are that thing's too and have columns of their own.
    """
    keys = {key.lower(): key for key in record}
    name, value, time = (next((keys[w] for w in words if w in keys), "") for words in (NAMES, VALUES, TIMES))
    if not name or not value:
        return record
    unit = next((text for key, text in record.items() if text and key.lower().rpartition(".")[2] in UNITS), "")
    thing = record[name]
    found = {time: record[time]} if time else {}
    found[f"{thing} {unit}".strip()] = record[value]
    for key, text in record.items():
        if key not in (name, value, time) and _NUMBER.fullmatch(text):
            found[f"{thing} {key}"] = text
    return found


def _time_key(rows: Iterable[Record], columns: list[str]) -> str:
    by_word = {key.lower().rpartition(".")[2]: key for key in reversed(columns)}
    named = next((by_word[word] for word in TIMES if word in by_word), None)
    if named is not None:
        return named
    dated = re.compile(rf"(?:{DATE_FORMATS['year-month-day']})[T ].*|\d{{10}}(\.\d+)?|\d{{13}}")
    for key in columns:
        texts = [row[key] for row in islice(rows, LOOKED_AT) if row.get(key)]
        if texts and all(dated.fullmatch(text) for text in texts):
            return key
    raise ReadingError("no value of these records is a time; call it time, such as 2026-01-20T06:45:00Z")
