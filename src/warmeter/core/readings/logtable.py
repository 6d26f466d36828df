"""A log read section by section, so that a file of any length takes no more memory than one of them.

Rules: an empty cell is a gap. A time that stands twice is taken once if its values agree, else its first value
is taken and the other refused.
"""

import itertools
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from datetime import timedelta
from typing import Protocol

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import ReadingError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.csvlog import Column, ImportMapping, ReadLog, Refusal, TakenSeries
from warmeter.core.readings.logblocks import (
    EPOCH_START,
    NOWHERE,
    REFUSED,
    TAKEN,
    ReadingNotes,
    Rows,
    joined,
    no_rows,
    rows_of_block,
)
from warmeter.core.readings.logtimes import placed
from warmeter.core.readings.record import USUAL_HOLD_S, Readings, SeriesRecord
from warmeter.core.readings.resample import commonest_step_s, median_step_s, steps_between
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN, S_PER_DAY

Progress = Callable[[int], None]
BLOCK_LINES = 50_000
SECTION_LINES = 200_000
GAP_SLICE = 1_000_000
MOST_GAPS = 50
MOST_STEP_S = 366 * S_PER_DAY
NOON_MS = 12 * MS_PER_H


class ColumnStore(Protocol):
    """Holds what was read of one column, section after section."""

    def add(self, at_ms: Ints, value: Floats, line: Ints) -> None:
        """Hold a section's readings: instants [ms UTC], values as written, the lines on which they stand."""

    def whole(self) -> tuple[Ints, Floats, Ints]:
        """Return all that was added, in its order."""


class InMemory:
    """Holds a column in memory."""

    def __init__(self) -> None:
        self._parts: list[tuple[Ints, Floats, Ints]] = []

    def add(self, at_ms: Ints, value: Floats, line: Ints) -> None:
        """Hold a section's readings."""
        self._parts.append((at_ms, value, line))

    def whole(self) -> tuple[Ints, Floats, Ints]:
        """Return all that was added."""
        at_ms, value, line = zip(*self._parts, strict=True)
        return np.concatenate(at_ms), np.concatenate(value), np.concatenate(line)


def read(
    lines: Iterable[str],
    mapping: ImportMapping,
    clock: LocalClock,
    progress: Progress | None = None,
    *,
    store: Callable[[], ColumnStore] = InMemory,
    section_lines: int = SECTION_LINES,
) -> ReadLog:
    """Return what a plan takes of a file's lines.

    Parameters
    ----------
    lines : iterable of str
        Whole file, line ends removed.
    mapping : ImportMapping
        How to read it.
    clock : LocalClock
        The home's clock.
    progress : callable, optional
        Told how many lines were read after each block; what it raises stops the reading.
    store : callable, optional
        Makes what holds a column until the end of the file: in memory where nothing else is said.
    section_lines : int
        So many lines at least are held before they are placed in time; more than none.

    Raises
    ------
    ReadingError
        If the plan names no column to take, one twice, or a column that is not there.
    """
    _check_plan(mapping)
    notes = ReadingNotes()
    sections = _Sections(lines, mapping, notes, progress, section_lines)
    columns = [_OpenColumn(column, store()) for column in mapping.taken]
    for section, is_falling in sections:
        rows = section.only(slice(None, None, -1)) if is_falling else section
        at_ms = placed(rows, mapping, clock, notes)
        if is_falling or (at_ms == NOWHERE).any() or (np.diff(at_ms) < 0).any():
            order = np.lexsort((rows.line, at_ms))
            order = order[at_ms[order] != NOWHERE]
            rows, at_ms = rows.only(order), at_ms[order]
        for k, column in enumerate(columns):
            column.take(rows, at_ms, k, notes)
    series = tuple(column.series(notes) for column in columns)
    times = [int(t) for s in series for t in (s.readings.at_ms[:1].tolist() + s.readings.at_ms[-1:].tolist())]
    return ReadLog(
        series=series,
        refusals=notes.told(),
        lines=sections.count,
        first_ms=min(times, default=None),
        last_ms=max(times, default=None),
    )


class _Sections:
    """The lines of a file in columns, parted between two noons: no hour that a clock repeats is cut in two.

    ``count`` is how many lines with a time there were so far, those outside the plan's bounds too.
    """

    def __init__(
        self, lines: Iterable[str], mapping: ImportMapping, notes: ReadingNotes, progress: Progress | None, least: int
    ) -> None:
        self._numbered = enumerate(itertools.islice(lines, mapping.heading_line, None), mapping.heading_line + 1)
        self._plan, self._notes, self._progress, self._least = mapping, notes, progress, least
        self.count = 0

    def __iter__(self) -> Iterator[tuple[Rows, bool]]:
        """Yield sections, and whether the times of their lines fall."""
        pending, held, is_falling = [no_rows(self._plan)], 0, False
        while block := list(itertools.islice(self._numbered, min(BLOCK_LINES, self._least))):
            rows = rows_of_block(block, self._plan, self._notes)
            self.count += rows.line.size
            pending.append(_within(rows, self._plan, self._notes))
            held += pending[-1].line.size
            if self._progress:
                self._progress(block[-1][0])
            if held < self._least:
                continue
            rows = joined(pending)
            is_falling = _falls(rows, is_falling)
            noons = np.flatnonzero(np.diff((rows.wall_ms - NOON_MS) // MS_PER_DAY))
            cut = int(noons[-1]) + 1 if noons.size else 0
            if cut:
                yield rows.only(slice(cut)), is_falling
            pending = [rows.only(slice(cut, None))]
            held = pending[0].line.size
        rows = joined(pending)
        yield rows, _falls(rows, is_falling)


def _falls(rows: Rows, before: bool) -> bool:
    """Return whether the times of lines fall from the first to the last; as before where they are the same."""
    if not rows.line.size or rows.wall_ms[0] == rows.wall_ms[-1]:
        return before
    return bool(rows.wall_ms[0] > rows.wall_ms[-1])


@dataclass(slots=True)
class _OpenColumn:
    """A column while its file is being read."""

    column: Column
    store: ColumnStore
    left_out: int = 0
    last_ms: int = NOWHERE
    is_rising: bool = True
    steps: Counter[int] = field(default_factory=Counter)

    def take(self, rows: Rows, at_ms: Ints, k: int, notes: ReadingNotes) -> None:
        """Take the column's cells of a section, whose instants rise."""
        state = rows.state[k]
        self.left_out += int((state == REFUSED).sum())
        taken = state == TAKEN
        at, value, line = self._once(at_ms[taken], rows.value[k][taken], rows.line[taken], notes)
        self.store.add(at, value, line)
        if not at.size:
            return
        if self.last_ms != NOWHERE:
            self.is_rising &= bool(at[0] > self.last_ms)
            self.steps.update(steps_between(np.array([self.last_ms, at[0]])))
        self.steps.update(steps_between(at))
        self.last_ms = int(at[-1])

    def _once(self, at: Ints, value: Floats, line: Ints, notes: ReadingNotes) -> tuple[Ints, Floats, Ints]:
        """Return readings with rising instants, those that stand twice told and left out."""
        again = np.zeros(at.size, dtype=bool)
        again[1:] = at[1:] == at[:-1]
        if not again.any():
            return at, value, line
        first = np.maximum.accumulate(np.where(again, 0, np.arange(at.size)))
        for place in np.flatnonzero(again).tolist():
            if value[place] == value[first[place]]:
                notes.add(int(line[place]), "taken once", "this time stands twice with the same value")
            else:
                words = f"{self.column.heading}: this time stands twice; its first value was taken"
                notes.add(int(line[place]), "refused", words)
        self.left_out += int(again.sum())
        return at[~again], value[~again], line[~again]

    def series(self, notes: ReadingNotes) -> TakenSeries:
        """Return the column's readings with their record, once the whole file was read.

        Raises
        ------
        ReadingError
            If a mean or a sum has no even steps.
        """
        column, (at, value, line) = self.column, self.store.whole()
        steps = self.steps
        if not self.is_rising:
            order = np.lexsort((line, at))
            at, value, line = self._once(at[order], value[order], line[order], notes)
            steps = steps_between(at)
        step = 0 if column.kind == "held" else min(commonest_step_s(steps), MOST_STEP_S)
        if not step and column.kind in ("counter", "daily") and steps:
            # What was used between two readings of a counter is known however far they lie apart.
            step = min(median_step_s(steps), MOST_STEP_S)
        record = SeriesRecord(
            quantity=column.quantity,
            unit=column.unit,
            kind=column.kind,
            stamp=column.stamp,
            step_s=step,
            longest_hold_s=max(USUAL_HOLD_S[column.kind], 3 * step),
            subject=column.subject,
        )
        if record.kind in ("mean", "sum") and not step and at.size:
            raise ReadingError(
                f"{column.heading}: a {record.kind} needs even steps, and these lines have none; "
                "map it as held until the next, or as a counter"
            )
        _note_gaps(at, line, record, column, notes)
        return TakenSeries(record=record, readings=Readings(at, value), heading=column.heading, left_out=self.left_out)


def _note_gaps(at_ms: Ints, line: Ints, record: SeriesRecord, column: Column, notes: ReadingNotes) -> None:
    limit = (3 * record.step_s if record.step_s else record.longest_hold_s) * 1000
    found = 0
    for begin in range(0, at_ms.size, GAP_SLICE):
        part = at_ms[begin : begin + GAP_SLICE + 1]
        for k in np.flatnonzero(np.diff(part) > limit)[: MOST_GAPS - found].tolist():
            minutes, place = int(part[k + 1] - part[k]) // MS_PER_MIN, int(line[begin + k])
            notes.add_gap(place, f"{column.heading}: no data for {minutes // 60} h {minutes % 60:02d} min; stays a gap")
            found += 1
        if found == MOST_GAPS:
            return


def _within(rows: Rows, mapping: ImportMapping, notes: ReadingNotes) -> Rows:
    """Return the lines whose times lie within a plan's bounds; the others are told.

    Wall times count here, which lie a day off at most: what is far outside never comes to a clock's arithmetic.
    """
    is_outside = (rows.wall_ms < mapping.earliest_ms - MS_PER_DAY) | (rows.wall_ms > mapping.latest_ms + MS_PER_DAY)
    if not is_outside.any():
        return rows
    first, last = (EPOCH_START + timedelta(milliseconds=at) for at in (mapping.earliest_ms, mapping.latest_ms))
    words = f"this time lies outside {first:%d %b %Y} to {last:%d %b %Y}; give other bounds if it is meant"
    notes.add_runs(np.sort(rows.line[is_outside]), "refused", words)
    return rows.only(~is_outside)


def within_bounds(found: ReadLog, mapping: ImportMapping) -> ReadLog:
    """Return what was read of a file that tells its own times, without what lies outside a plan's bounds."""
    series, out = [], 0
    for each in found.series:
        at = each.readings.at_ms
        keep = (at >= mapping.earliest_ms) & (at <= mapping.latest_ms)
        out += int((~keep).sum())
        series.append(replace(each, readings=Readings(at[keep], each.readings.value[keep])))
    if not out:
        return found
    times = [int(t) for s in series for t in (s.readings.at_ms[:1].tolist() + s.readings.at_ms[-1:].tolist())]
    told = Refusal(first=0, last=0, outcome="refused", reason=f"{out} intervals lie outside the years that are taken")
    return replace(
        found,
        series=tuple(series),
        refusals=(*found.refusals, told),
        first_ms=min(times, default=None),
        last_ms=max(times, default=None),
    )


def _check_plan(mapping: ImportMapping) -> None:
    if not mapping.taken:
        raise ReadingError("no column is mapped to a quantity; choose at least one")
    wanted = [(column.quantity, column.subject) for column in mapping.taken]
    twice = next((w for w in wanted if wanted.count(w) > 1), None)
    if twice:
        raise ReadingError(f"two columns are mapped to the same {QUANTITIES[twice[0]].label}; leave one out")
    for column in mapping.taken:
        quantity = QUANTITIES[column.quantity]
        if quantity.needs_subject and not column.subject:
            belongs = "room" if quantity.of_room else "machine" if quantity.of_machine else "device"
            raise ReadingError(f"the column {column.heading!r} needs a {belongs} to which it belongs")
