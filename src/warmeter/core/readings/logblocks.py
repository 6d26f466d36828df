"""The lines of a log read into columns, block by block: fast where lines are alike, line by line where not."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.errors import ReadingError, WarmeterError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.column_words import unit_named
from warmeter.core.readings.csvlog import (
    NO_READING,
    Column,
    ImportMapping,
    Refusal,
    cells,
    channel_of,
    date_pattern,
    local_timestamp,
    number,
    without_unit,
)
from warmeter.core.readings.state_words import without_state_words
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, array_to_stored, is_energy, to_stored

Outcome = Literal["refused", "taken once", "gap", "split"]
MOST_NOTES = 5_000
NO_OFFSET = np.iinfo(np.int64).min
NOWHERE = np.iinfo(np.int64).min
TAKEN, EMPTY, REFUSED, OTHERS = 0, 1, 2, 3
EPOCH_START = datetime(1970, 1, 1)


@dataclass(slots=True)
class ReadingNotes:
    """What was not taken as it stands, neighbouring lines with the same reason folded into one; so many at most."""

    found: list[Refusal] = field(default_factory=list)
    more: int = 0

    def add(self, line: int, outcome: Outcome, reason: str) -> None:
        """Add a line."""
        if self.found:
            last = self.found[-1]
            if (last.outcome, last.reason) == (outcome, reason) and line in (last.last, last.last + 1):
                self.found[-1] = replace(last, last=line)
                return
        self._keep(Refusal(first=line, last=line, outcome=outcome, reason=reason))

    def add_runs(self, lines: Ints, outcome: Outcome, reason: str) -> None:
        """Add many lines, rising, neighbours folded into one."""
        edges = np.flatnonzero(np.diff(lines) > 1)
        for first, last in zip(lines[np.append(0, edges + 1)], lines[np.append(edges, -1)], strict=True):
            self._keep(Refusal(first=int(first), last=int(last), outcome=outcome, reason=reason))

    def add_gap(self, line: int, reason: str) -> None:
        """Add the line before a gap."""
        self._keep(Refusal(first=line, last=line, outcome="gap", reason=reason))

    def _keep(self, note: Refusal) -> None:
        if len(self.found) < MOST_NOTES:
            self.found.append(note)
        else:
            self.more += 1

    def told(self) -> tuple[Refusal, ...]:
        """Return all in the order of their lines; how many more there were stands at the end."""
        found = tuple(sorted(self.found, key=lambda r: (r.first, r.reason)))
        if not self.more:
            return found
        reason = f"{self.more:,} more places like these were not taken as they stand"
        return (*found, Refusal(first=0, last=0, outcome="refused", reason=reason))


@dataclass(slots=True)
class Rows:
    """Lines in columns: line number, wall time and offset [ms], and for each taken column value and state."""

    line: Ints
    wall_ms: Ints
    offset_ms: Ints
    value: Floats
    state: NDArray[np.uint8]

    def only(self, wanted: NDArray[np.intp] | Flags | slice) -> "Rows":
        return Rows(
            self.line[wanted],
            self.wall_ms[wanted],
            self.offset_ms[wanted],
            self.value[:, wanted],
            self.state[:, wanted],
        )


def joined(parts: Sequence[Rows]) -> Rows:
    """Return parts of a file, in order, as one."""
    return Rows(
        *(np.concatenate([getattr(p, name) for p in parts]) for name in ("line", "wall_ms", "offset_ms")),
        *(np.concatenate([getattr(p, name) for p in parts], axis=1) for name in ("value", "state")),
    )


def no_rows(mapping: ImportMapping) -> Rows:
    """Return no lines at all, in a plan's columns."""
    none, taken = np.zeros(0, np.int64), len(mapping.taken)
    return Rows(none, none, none, np.zeros((taken, 0)), np.zeros((taken, 0), np.uint8))


def rows_of_block(block: list[tuple[int, str]], mapping: ImportMapping, notes: ReadingNotes) -> Rows:
    """Return a block's lines in columns; whatever is refused is noted in order of its line."""
    wanted = [c.index for c in mapping.taken]
    needed = max([mapping.time_column, mapping.clock_column, *mapping.channel_columns, *wanted])
    numbers: list[int] = []
    split: list[list[str]] = []
    for line, text in block:
        if not text.strip():
            continue
        try:
            values = text.split(mapping.delimiter) if '"' not in text else cells(text, mapping.delimiter)
        except ReadingError as error:
            notes.add(line, "refused", str(error))
            continue
        if len(values) > needed:
            numbers.append(line)
            split.append(values)
        elif any(v.strip() for v in values):
            notes.add(line, "refused", "the line ends before its last column: it was cut while writing")
    times = [values[mapping.time_column].strip() for values in split]
    if mapping.clock_column >= 0:
        times = [f"{t} {values[mapping.clock_column].strip()}" for t, values in zip(times, split, strict=True)]
    lines = np.array(numbers, dtype=np.int64)
    wall_ms, offset_ms, is_time = _walls(times, lines, mapping, notes, split)
    kept = np.flatnonzero(is_time)
    if kept.size < len(split):
        split = [split[k] for k in kept.tolist()]
    lines = lines[kept]
    columns = [_values(split, lines, column, mapping, notes) for column in mapping.taken]
    return Rows(
        lines,
        wall_ms[kept],
        offset_ms[kept],
        np.array([c[0] for c in columns]).reshape(len(columns), -1),
        np.array([c[1] for c in columns], dtype=np.uint8).reshape(len(columns), -1),
    )


def _walls(
    times: Sequence[str], line: Ints, mapping: ImportMapping, notes: ReadingNotes, split: Sequence[Sequence[str]]
) -> tuple[Ints, Ints, Flags]:
    """Return wall times and offsets [ms], and which texts are times at all."""
    wall, offset = np.full(len(times), NOWHERE), np.full(len(times), NO_OFFSET)
    pattern = None if mapping.date_format == "epoch" else date_pattern(mapping.date_format)
    if pattern is not None and times:
        lengths = np.array([len(t) for t in times])
        for length in np.unique(lengths):
            group = np.flatnonzero(lengths == length)
            _alike(times, group, pattern, wall, offset)
    for k in np.flatnonzero(wall == NOWHERE).tolist():
        try:
            found = local_timestamp(times[k], pattern)
        except ReadingError as error:
            if any(v.strip() for v in split[k]):
                notes.add(int(line[k]), "refused", str(error))
            continue
        wall[k] = round((found.wall - EPOCH_START) / timedelta(milliseconds=1))
        if found.offset is not None:
            offset[k] = round(found.offset / timedelta(milliseconds=1))
    return wall, offset, wall != NOWHERE


def _alike(times: Sequence[str], group: Ints, pattern: re.Pattern[str], wall: Ints, offset: Ints) -> None:
    """Fill in the times of one length that are written as the first of them; the rest is left to the slow way."""
    first = times[int(group[0])]
    match = pattern.fullmatch(first)
    if match is None or match["S"] == "60" or match["H"] == "24" or "m" not in match.groupdict():
        return
    texts = np.array([times[k] for k in group.tolist()])
    code = texts.view(np.uint32).reshape(group.size, -1).astype(np.int64)
    is_digit = np.array([c.isdecimal() for c in first])
    digits = code[:, is_digit]
    ok = ((digits >= 48) & (digits <= 57)).all(axis=1)
    zone = match.span("tz")
    same = ~is_digit
    if zone[0] >= 0 and first[zone[0]] in "+-":
        same[zone[0]] = False
        ok &= np.isin(code[:, zone[0]], (43, 45))
    half = match.start("half")
    if half >= 0:
        same[half] = False
        ok &= np.isin(code[:, half], [ord(letter) for letter in "AaPp"])
    ok &= (code[:, same] == np.array([ord(c) for c in first])[same]).all(axis=1)

    def part(name: str) -> Ints:
        low, high = match.span(name)
        value = np.zeros(group.size, dtype=np.int64)
        for place in range(low, high):
            value = value * 10 + (code[:, place] - 48)
        return value

    year, month, day = part("y"), part("m"), part("d")
    if match.end("y") - match.start("y") == 2:
        year += 2000
    hour, minute, second = part("H"), part("M"), part("S")
    if half >= 0:
        ok &= (hour >= 1) & (hour <= 12)
        hour = hour % 12 + np.where(np.isin(code[:, half], (ord("P"), ord("p"))), 12, 0)
    ok &= (year >= 1) & (month >= 1) & (month <= 12) & (day >= 1) & (hour <= 23) & (minute <= 59) & (second <= 59)
    start = (np.where(ok, year, 1970) - 1970).astype("M8[Y]").astype("M8[M]") + (np.where(ok, month, 1) - 1)
    days = start.astype("M8[D]") + (np.where(ok, day, 1) - 1)
    ok &= days.astype("M8[M]") == start
    fraction = part("f") * 10 ** max(0, 3 - (match.end("f") - match.start("f"))) if match["f"] else 0
    if match["f"] and match.end("f") - match.start("f") > 3:
        return
    seconds = (hour * 60 + minute) * 60 + second
    ms = days.astype(np.int64) * MS_PER_DAY + seconds * 1000 + fraction
    wall[group[ok]] = ms[ok]
    if zone[0] >= 0:
        offset[group[ok]] = _zone_ms(code, first, zone)[ok]


def _zone_ms(code: Ints, first: str, zone: tuple[int, int]) -> Ints:
    if first[zone[0]] not in "+-":
        return np.zeros(code.shape[0], dtype=np.int64)
    digits = [k for k in range(zone[0] + 1, zone[1]) if first[k].isdecimal()]
    values = [code[:, k] - 48 for k in digits]
    minutes = (10 * values[0] + values[1]) * 60 + 10 * values[2] + values[3]
    return np.asarray(np.where(code[:, zone[0]] == 45, -minutes, minutes) * MS_PER_MIN, dtype=np.int64)


def _values(
    split: Sequence[Sequence[str]], line: Ints, column: Column, mapping: ImportMapping, notes: ReadingNotes
) -> tuple[Floats, NDArray[np.uint8]]:
    """Return a column's numbers as written and the state of each."""
    texts = [values[column.index].strip() for values in split]
    if QUANTITIES[column.quantity].states:
        texts = [without_state_words(text, column.quantity) for text in texts]
    state = np.array([EMPTY if not t or t.lower() in NO_READING else TAKEN for t in texts], dtype=np.uint8)
    if mapping.channel_columns and column.channel:
        mine = np.array([channel_of(values, mapping) == column.channel for values in split], dtype=bool)
        state[~mine] = OTHERS
    value = _plain_numbers(texts, state, mapping.decimal)
    wrong = np.flatnonzero((state == TAKEN) & ~np.isfinite(value))
    for k in wrong.tolist():
        try:
            value[k] = _with_unit(texts[k], column, mapping.decimal)
        except WarmeterError as error:
            notes.add(int(line[k]), "refused", f"{column.heading}: {error}")
            state[k] = REFUSED
    _check_ranges(texts, value, state, line, column, notes)
    return value, state


def _with_unit(text: str, column: Column, decimal: str) -> float:
    """Return a number behind which its unit may stand; ``ReadingError`` where it is none, or in another unit."""
    plain, behind = without_unit(text)
    if behind and unit_named(behind) != column.unit:
        raise ReadingError(f"{text!r} is no number in {column.unit}")
    return number(plain, decimal)


def _plain_numbers(texts: Sequence[str], state: NDArray[np.uint8], decimal: str) -> Floats:
    """Return numbers of plainly written texts; NaN where a text needs a closer look."""
    out = np.full(len(texts), np.nan)
    taken = np.flatnonzero(state == TAKEN)
    plain = [texts[k] for k in taken.tolist()]
    if decimal == ",":
        plain = [t.replace(".", "").replace(",", ".") if "," in t else t for t in plain]
    try:
        if "_" not in "".join(plain):
            out[taken] = np.array(list(map(float, plain)), dtype=np.float64)
    except ValueError:
        pass
    return out


def _check_ranges(
    texts: Sequence[str], value: Floats, state: NDArray[np.uint8], line: Ints, column: Column, notes: ReadingNotes
) -> None:
    """Refuse powers, temperatures and the like beyond what the quantity can be."""
    quantity = QUANTITIES[column.quantity]
    if column.unit and is_energy(column.unit):
        to_stored(0.0, quantity=column.quantity, unit=column.unit)
        return
    stored = array_to_stored(value, quantity=column.quantity, unit=column.unit)
    beyond = (state == TAKEN) & ~((stored >= quantity.low) & (stored <= quantity.high))
    for k in np.flatnonzero(beyond).tolist():
        notes.add(
            int(line[k]),
            "refused",
            f"{column.heading}: {texts[k]} {column.unit} cannot be a {quantity.label} "
            f"(between {quantity.low:g} and {quantity.high:g} {quantity.unit})",
        )
        state[k] = REFUSED
