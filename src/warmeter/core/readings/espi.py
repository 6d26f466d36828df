"""Utility interval data in the open ESPI form (Atom entries with XML of energy usage), read safely.

Entities and document types are refused before anything is parsed; nothing outside the file is ever fetched.
"""

import math
import re
import xml.etree.ElementTree as ElementTree
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from warmeter.core.errors import ReadingError
from warmeter.core.readings.csvlog import ReadLog, Refusal, TakenSeries
from warmeter.core.readings.record import USUAL_HOLD_S, Kind, Readings, SeriesRecord
from warmeter.core.readings.resample import usual_step_s

_SPACE = "{http://naesb.org/espi}"
_ATOM = "{http://www.w3.org/2005/Atom}"
_UNITS = {"72": "Wh", "38": "W"}  # unit of measure: real energy, real power
_REVERSE = "19"  # flow direction: from the home to the grid
_COUNTERS = {"1", "3"}  # accumulation: bulk quantity, cumulative; else energy of the interval
MOST_READINGS = 3_000_000
MOST_POWER = 12  # pico to tera
MOST_S = 1e11  # some three thousand years
_MULTIPLIER = re.compile(r"-?[0-9]{1,3}")


@dataclass(frozen=True, slots=True)
class _Type:
    """What readings of a type are: unit, factor to it, whether out of the home, and kind."""

    unit: str
    factor: float
    is_export: bool
    kind: Kind


def looks_like_espi(first: bytes) -> bool:
    """Return whether a file begins like ESPI data."""
    return first.lstrip().startswith(b"<") and b"naesb.org/espi" in first


def read_espi(data: bytes) -> ReadLog:
    """Return the interval readings of an ESPI file, consumption and export each as one series.

    Parameters
    ----------
    data : bytes
        The whole file.

    Raises
    ------
    ReadingError
        If it holds a document type or an entity, is no well-formed XML, or holds no interval reading.

    Notes
    -----
    Interval starts are seconds since 1970, UTC. A value counts times ten to the power of its type's multiplier.
    An interval block belongs to the reading type whose meter reading links to it; where a file has one type
    only, to that.
    """
    lowered = data[:4096].lower() + (b"<!doctype" if b"<!DOCTYPE" in data or b"<!ENTITY" in data else b"")
    if b"<!doctype" in lowered or b"<!entity" in lowered:
        raise ReadingError("this XML brings a document type or entities of its own; such a file is not read")
    try:
        root = ElementTree.fromstring(data)  # noqa: S314
    except ElementTree.ParseError as error:
        raise ReadingError(f"this XML is not well formed ({error}); save it again from the utility's page") from error
    types = _types(root)
    found: dict[tuple[bool, str, Kind], list[tuple[int, int, float]]] = {}
    refused = 0
    for type_, start_s, length_s, value in _readings(root, types):
        if type_ is None:
            refused += 1
            continue
        key = type_.is_export, type_.unit, type_.kind
        found.setdefault(key, []).append((start_s * 1000, length_s, value * type_.factor))
    if not found:
        raise ReadingError("this XML holds no interval readings of energy or power")
    series = tuple(_series(key, rows) for key, rows in sorted(found.items()))
    notes = (Refusal(first=0, last=0, outcome="refused", reason=f"{refused} intervals are of no energy or power"),)
    times = [int(t) for s in series for t in s.readings.at_ms[[0, -1]]]
    lines = sum(s.readings.at_ms.size for s in series) + refused
    return ReadLog(
        series=series, refusals=notes if refused else (), lines=lines, first_ms=min(times), last_ms=max(times)
    )


def _text(part: ElementTree.Element, name: str, default: str = "") -> str:
    found = part.find(f"{_SPACE}{name}")
    return default if found is None or found.text is None else found.text.strip()


def _links(entry: ElementTree.Element, rel: str) -> list[str]:
    return [link.get("href", "") for link in entry.findall(f"{_ATOM}link") if link.get("rel") == rel]


def _types(root: ElementTree.Element) -> dict[str, _Type | None]:
    """Return each reading type by the address under which meter readings link to it; None for other units."""
    types: dict[str, _Type | None] = {}
    for entry in root.iter(f"{_ATOM}entry"):
        part = entry.find(f"{_ATOM}content/{_SPACE}ReadingType")
        if part is None:
            continue
        unit = _UNITS.get(_text(part, "uom"))
        factor = 10.0 ** _multiplier(_text(part, "powerOfTenMultiplier", "0") or "0")
        is_counter = unit == "Wh" and _text(part, "accumulationBehaviour") in _COUNTERS
        kind: Kind = "counter" if is_counter else ("sum" if unit == "Wh" else "mean")
        known = _Type(unit, factor, _text(part, "flowDirection") == _REVERSE, kind) if unit else None
        for address in _links(entry, "self"):
            types[address] = known
    return types


def _multiplier(text: str) -> int:
    """Return a power of ten of the standard's; ``ReadingError`` if it is none."""
    if _MULTIPLIER.fullmatch(text) is None or abs(int(text)) > MOST_POWER:
        raise ReadingError(
            f"a reading type's powerOfTenMultiplier is {text[:20]!r}; whole numbers from −{MOST_POWER} to {MOST_POWER} are known"
        )
    return int(text)


def _readings(
    root: ElementTree.Element, types: dict[str, _Type | None]
) -> Iterator[tuple[_Type | None, int, int, float]]:
    """Yield type, start [s], length [s] and value of each interval reading."""
    of_meter: dict[str, _Type | None] = {}
    for entry in root.iter(f"{_ATOM}entry"):
        if entry.find(f"{_ATOM}content/{_SPACE}MeterReading") is not None:
            related = [a for a in _links(entry, "related") if a in types]
            for address in _links(entry, "related"):
                of_meter[address] = types[related[0]] if related else None
    only = next(iter(types.values())) if len(types) == 1 else _Type("Wh", 1.0, False, "sum") if not types else None
    count = 0
    for entry in root.iter(f"{_ATOM}entry"):
        blocks = entry.findall(f"{_ATOM}content/{_SPACE}IntervalBlock")
        owner = next((of_meter[a] for rel in ("up", "self") for a in _links(entry, rel) if a in of_meter), only)
        for block in blocks:
            for reading in block.iter(f"{_SPACE}IntervalReading"):
                count += 1
                if count > MOST_READINGS:
                    raise ReadingError(f"this file holds more than {MOST_READINGS} intervals; cut it into years")
                yield owner, *_interval(reading)


def _interval(reading: ElementTree.Element) -> tuple[int, int, float]:
    period = reading.find(f"{_SPACE}timePeriod")
    try:
        if period is None:
            raise ValueError("no time")
        start, length, value = (
            float(text)
            for text in (_text(period, "start"), _text(period, "duration", "0") or "0", _text(reading, "value"))
        )
        if not (abs(start) < MOST_S and 0 <= length < MOST_S and math.isfinite(value)):
            raise ValueError("far outside of any meter's")
        return int(start), int(length), value
    except ValueError as error:
        raise ReadingError(f"an interval has no time or no value that is a number ({error})") from error


def _series(key: tuple[bool, str, Kind], rows: list[tuple[int, int, float]]) -> TakenSeries:
    is_export, unit, kind = key
    at, place = np.unique(np.array([r[0] for r in rows], dtype=np.int64), return_index=True)
    values = np.array([r[2] for r in rows])[place]
    lengths = np.array([r[1] for r in rows])[place]
    step = int(np.median(lengths[lengths > 0])) if (lengths > 0).any() else usual_step_s(at)
    record = SeriesRecord(
        quantity="grid_export_w" if is_export else "grid_import_w",
        unit=unit,
        kind=kind,
        stamp="start",
        step_s=step,
        longest_hold_s=max(USUAL_HOLD_S[kind], 3 * step),
        subject="",
    )
    heading = "export to the grid" if is_export else "import from the grid"
    return TakenSeries(record=record, readings=Readings(at, values), heading=heading, left_out=len(rows) - at.size)
