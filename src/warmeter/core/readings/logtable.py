"""The lines of a log read into columns, block by block: fast where lines are alike, line by line where not.

Rules: an empty cell is a gap. A time that stands twice is taken once if its values agree, else its first value
is taken and the other refused. An hour that the clock repeats is split by the order in the file; if it stands
there once, its lines wait for a choice. A time that the clock skips is refused.
"""

import itertools
import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmeter.core.errors import ReadingError, WarmeterError
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.csvlog import (
    Column,
    Plan,
    ReadLog,
    Refusal,
    TakenSeries,
    cells,
    date_pattern,
    number,
    wall_time,
)
from warmeter.core.readings.record import USUAL_HOLD_S, Readings, SeriesRecord
from warmeter.core.readings.resample import usual_step_s
from warmeter.core.readings.state_words import without_state_words
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_H, array_to_stored, is_energy, to_stored

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Outcome = Literal["refused", "taken once", "gap", "split"]
Progress = Callable[[int], None]
BLOCK_LINES = 50_000
MOST_STEP_S = 366 * 86_400
_NO_OFFSET = np.iinfo(np.int64).min
_NOWHERE = np.iinfo(np.int64).min
_TAKEN, _EMPTY, _REFUSED, _OTHERS = 0, 1, 2, 3
_EPOCH_START = datetime(1970, 1, 1)


@dataclass(slots=True)
class _Notes:
    """Refusals, neighbouring lines with the same reason folded into one."""

    found: list[Refusal] = field(default_factory=list)

    def add(self, line: int, outcome: Outcome, reason: str) -> None:
        if self.found:
            last = self.found[-1]
            if (last.outcome, last.reason) == (outcome, reason) and line in (last.last, last.last + 1):
                self.found[-1] = replace(last, last=line)
                return
        self.found.append(Refusal(first=line, last=line, outcome=outcome, reason=reason))

    def add_runs(self, lines: Ints, outcome: Outcome, reason: str) -> None:
        """Add many lines, rising, neighbours folded into one."""
        edges = np.flatnonzero(np.diff(lines) > 1)
        for first, last in zip(lines[np.append(0, edges + 1)], lines[np.append(edges, -1)], strict=True):
            self.found.append(Refusal(first=int(first), last=int(last), outcome=outcome, reason=reason))


@dataclass(slots=True)
class _Rows:
    """Lines in columns: line number, wall time and offset [ms], and for each taken column value and state."""

    line: Ints
    wall_ms: Ints
    offset_ms: Ints
    value: Floats
    state: NDArray[np.uint8]

    def only(self, wanted: NDArray[np.intp] | NDArray[np.bool_] | slice) -> "_Rows":
        return _Rows(
            self.line[wanted],
            self.wall_ms[wanted],
            self.offset_ms[wanted],
            self.value[:, wanted],
            self.state[:, wanted],
        )


def read(lines: Iterable[str], plan: Plan, clock: LocalClock, progress: Progress | None = None) -> ReadLog:
    """Return what a plan takes of a file's lines.

    Parameters
    ----------
    lines : iterable of str
        Whole file, line ends removed.
    plan : Plan
        How to read it.
    clock : LocalClock
        The home's clock.
    progress : callable, optional
        Told how many lines were read after each block; what it raises stops the reading.

    Raises
    ------
    ReadingError
        If the plan names no column to take, one twice, or a column that is not there.
    """
    _check_plan(plan)
    notes = _Notes()
    rows = _rows(lines, plan, notes, progress)
    count = rows.line.size
    rows = _within(rows, plan, notes)
    if rows.line.size > 1 and rows.wall_ms[0] > rows.wall_ms[-1]:
        rows = rows.only(slice(None, None, -1))
    at_ms = _placed(rows, plan, clock, notes)
    if (at_ms == _NOWHERE).any() or (np.diff(at_ms) < 0).any():
        order = np.lexsort((rows.line, at_ms))
        order = order[at_ms[order] != _NOWHERE]
        rows, at_ms = rows.only(order), at_ms[order]
    series = tuple(_series(rows, at_ms, k, column, notes) for k, column in enumerate(plan.taken))
    times = [int(t) for s in series for t in (s.readings.at_ms[:1].tolist() + s.readings.at_ms[-1:].tolist())]
    return ReadLog(
        series=series,
        refusals=tuple(sorted(notes.found, key=lambda r: (r.first, r.reason))),
        lines=count,
        first_ms=min(times, default=None),
        last_ms=max(times, default=None),
    )


def _within(rows: _Rows, plan: Plan, notes: _Notes) -> _Rows:
    """Return the lines whose times lie within a plan's bounds; the others are told.

    Wall times count here, which lie a day off at most: what is far outside never comes to a clock's arithmetic.
    """
    is_outside = (rows.wall_ms < plan.earliest_ms - MS_PER_DAY) | (rows.wall_ms > plan.latest_ms + MS_PER_DAY)
    if not is_outside.any():
        return rows
    first, last = (_EPOCH_START + timedelta(milliseconds=at) for at in (plan.earliest_ms, plan.latest_ms))
    words = f"this time lies outside {first:%d %b %Y} to {last:%d %b %Y}; give other bounds if it is meant"
    notes.add_runs(np.sort(rows.line[is_outside]), "refused", words)
    return rows.only(~is_outside)


def within_bounds(found: ReadLog, plan: Plan) -> ReadLog:
    """Return what was read of a file that tells its own times, without what lies outside a plan's bounds."""
    series, out = [], 0
    for each in found.series:
        at = each.readings.at_ms
        keep = (at >= plan.earliest_ms) & (at <= plan.latest_ms)
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


def _check_plan(plan: Plan) -> None:
    if not plan.taken:
        raise ReadingError("no column is mapped to a quantity; choose at least one")
    wanted = [(column.quantity, column.subject) for column in plan.taken]
    twice = next((w for w in wanted if wanted.count(w) > 1), None)
    if twice:
        raise ReadingError(f"two columns are mapped to the same {QUANTITIES[twice[0]].label}; leave one out")
    for column in plan.taken:
        quantity = QUANTITIES[column.quantity]
        if (quantity.of_room or quantity.of_machine or quantity.of_devices) and not column.subject:
            belongs = "room" if quantity.of_room else "machine" if quantity.of_machine else "device"
            raise ReadingError(f"the column {column.heading!r} needs a {belongs} to which it belongs")


def _rows(lines: Iterable[str], plan: Plan, notes: _Notes, progress: Progress | None) -> _Rows:
    parts = [_no_rows(plan)]
    numbered = enumerate(itertools.islice(lines, plan.heading_line, None), plan.heading_line + 1)
    while block := list(itertools.islice(numbered, BLOCK_LINES)):
        parts.append(_block(block, plan, notes))
        if progress:
            progress(block[-1][0])
    return _Rows(
        *(np.concatenate([getattr(p, name) for p in parts]) for name in ("line", "wall_ms", "offset_ms")),
        *(np.concatenate([getattr(p, name) for p in parts], axis=1) for name in ("value", "state")),
    )


def _no_rows(plan: Plan) -> _Rows:
    none, taken = np.zeros(0, np.int64), len(plan.taken)
    return _Rows(none, none, none, np.zeros((taken, 0)), np.zeros((taken, 0), np.uint8))


def _block(block: list[tuple[int, str]], plan: Plan, notes: _Notes) -> _Rows:
    """Return a block's lines in columns; whatever is refused is noted in order of its line."""
    needed = max([plan.time_column, plan.clock_column, plan.channel_column, *(c.index for c in plan.taken)])
    numbers: list[int] = []
    split: list[list[str]] = []
    for line, text in block:
        if not text.strip():
            continue
        try:
            values = text.split(plan.delimiter) if '"' not in text else cells(text, plan.delimiter)
        except ReadingError as error:
            notes.add(line, "refused", str(error))
            continue
        if len(values) > needed:
            numbers.append(line)
            split.append(values)
        elif any(v.strip() for v in values):
            notes.add(line, "refused", "the line ends before its last column: it was cut while writing")
    times = [values[plan.time_column].strip() for values in split]
    if plan.clock_column >= 0:
        times = [f"{t} {values[plan.clock_column].strip()}" for t, values in zip(times, split, strict=True)]
    lines = np.array(numbers, dtype=np.int64)
    wall_ms, offset_ms, is_time = _walls(times, lines, plan, notes, split)
    kept = np.flatnonzero(is_time)
    if kept.size < len(split):
        split = [split[k] for k in kept.tolist()]
    lines = lines[kept]
    columns = [_values(split, lines, column, plan, notes) for column in plan.taken]
    return _Rows(
        lines,
        wall_ms[kept],
        offset_ms[kept],
        np.array([c[0] for c in columns]).reshape(len(columns), -1),
        np.array([c[1] for c in columns], dtype=np.uint8).reshape(len(columns), -1),
    )


def _walls(
    times: Sequence[str], line: Ints, plan: Plan, notes: _Notes, split: Sequence[Sequence[str]]
) -> tuple[Ints, Ints, NDArray[np.bool_]]:
    """Return wall times and offsets [ms], and which texts are times at all."""
    wall, offset = np.full(len(times), _NOWHERE), np.full(len(times), _NO_OFFSET)
    pattern = None if plan.date_format == "epoch" else date_pattern(plan.date_format)
    if pattern is not None and times:
        lengths = np.array([len(t) for t in times])
        for length in np.unique(lengths):
            group = np.flatnonzero(lengths == length)
            _alike(times, group, pattern, wall, offset)
    for k in np.flatnonzero(wall == _NOWHERE).tolist():
        try:
            found = wall_time(times[k], pattern)
        except ReadingError as error:
            if any(v.strip() for v in split[k]):
                notes.add(int(line[k]), "refused", str(error))
            continue
        wall[k] = round((found.wall - _EPOCH_START) / timedelta(milliseconds=1))
        if found.offset is not None:
            offset[k] = round(found.offset / timedelta(milliseconds=1))
    return wall, offset, wall != _NOWHERE


def _alike(times: Sequence[str], group: Ints, pattern: re.Pattern[str], wall: Ints, offset: Ints) -> None:
    """Fill in the times of one length that are written as the first of them; the rest is left to the slow way."""
    first = times[int(group[0])]
    match = pattern.fullmatch(first)
    if match is None or match["S"] == "60" or match["H"] == "24":
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
    ok &= (code[:, same] == np.array([ord(c) for c in first])[same]).all(axis=1)

    def part(name: str) -> Ints:
        low, high = match.span(name)
        value = np.zeros(group.size, dtype=np.int64)
        for place in range(low, high):
            value = value * 10 + (code[:, place] - 48)
        return value

    year, month, day = part("y"), part("m"), part("d")
    hour, minute, second = part("H"), part("M"), part("S")
    ok &= (year >= 1) & (month >= 1) & (month <= 12) & (day >= 1) & (hour <= 23) & (minute <= 59) & (second <= 59)
    start = (np.where(ok, year, 1970) - 1970).astype("M8[Y]").astype("M8[M]") + (np.where(ok, month, 1) - 1)
    days = start.astype("M8[D]") + (np.where(ok, day, 1) - 1)
    ok &= days.astype("M8[M]") == start
    fraction = part("f") * 10 ** max(0, 3 - (match.end("f") - match.start("f"))) if match["f"] else 0
    if match["f"] and match.end("f") - match.start("f") > 3:
        return
    seconds = (hour * 60 + minute) * 60 + second
    ms = days.astype(np.int64) * 86_400_000 + seconds * 1000 + fraction
    wall[group[ok]] = ms[ok]
    if zone[0] >= 0:
        offset[group[ok]] = _zone_ms(code, first, zone)[ok]


def _zone_ms(code: Ints, first: str, zone: tuple[int, int]) -> Ints:
    if first[zone[0]] not in "+-":
        return np.zeros(code.shape[0], dtype=np.int64)
    digits = [k for k in range(zone[0] + 1, zone[1]) if first[k].isdecimal()]
    values = [code[:, k] - 48 for k in digits]
    minutes = (10 * values[0] + values[1]) * 60 + 10 * values[2] + values[3]
    return np.asarray(np.where(code[:, zone[0]] == 45, -minutes, minutes) * 60_000, dtype=np.int64)


def _values(
    split: Sequence[Sequence[str]], line: Ints, column: Column, plan: Plan, notes: _Notes
) -> tuple[Floats, NDArray[np.uint8]]:
    """Return a column's numbers as written and the state of each."""
    texts = [values[column.index].strip() for values in split]
    if QUANTITIES[column.quantity].high == 1.0:
        texts = [without_state_words(text) for text in texts]
    state = np.array([_EMPTY if t == "" else _TAKEN for t in texts], dtype=np.uint8)
    if plan.channel_column >= 0 and column.channel:
        mine = np.array([values[plan.channel_column].strip() == column.channel for values in split], dtype=bool)
        state[~mine] = _OTHERS
    value = _plain_numbers(texts, state, plan.decimal)
    wrong = np.flatnonzero((state == _TAKEN) & ~np.isfinite(value))
    for k in wrong.tolist():
        try:
            value[k] = number(texts[k], plan.decimal)
        except WarmeterError as error:
            notes.add(int(line[k]), "refused", f"{column.heading}: {error}")
            state[k] = _REFUSED
    _check_ranges(texts, value, state, line, column, notes)
    return value, state


def _plain_numbers(texts: Sequence[str], state: NDArray[np.uint8], decimal: str) -> Floats:
    """Return numbers of plainly written texts; NaN where a text needs a closer look."""
    out = np.full(len(texts), np.nan)
    taken = np.flatnonzero(state == _TAKEN)
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
    texts: Sequence[str], value: Floats, state: NDArray[np.uint8], line: Ints, column: Column, notes: _Notes
) -> None:
    """Refuse powers, temperatures and the like beyond what the quantity can be."""
    quantity = QUANTITIES[column.quantity]
    if column.unit and is_energy(column.unit):
        to_stored(0.0, quantity=column.quantity, unit=column.unit)
        return
    stored = array_to_stored(value, quantity=column.quantity, unit=column.unit)
    beyond = (state == _TAKEN) & ~((stored >= quantity.low) & (stored <= quantity.high))
    for k in np.flatnonzero(beyond).tolist():
        notes.add(
            int(line[k]),
            "refused",
            f"{column.heading}: {texts[k]} {column.unit} cannot be a {quantity.label} "
            f"(between {quantity.low:g} and {quantity.high:g} {quantity.unit})",
        )
        state[k] = _REFUSED


def _placed(rows: _Rows, plan: Plan, clock: LocalClock, notes: _Notes) -> Ints:
    """Return each row's instant [ms UTC]; a row that has none is noted."""
    has_offset = rows.offset_ms != _NO_OFFSET
    if plan.date_format == "epoch" or plan.clock == "utc":
        return np.where(has_offset & (plan.clock == "in file"), rows.wall_ms - rows.offset_ms, rows.wall_ms)
    if plan.clock == "offset":
        return rows.wall_ms - plan.offset_min * 60_000
    if plan.clock == "in file":
        for line in rows.line[~has_offset].tolist():
            notes.add(line, "refused", "this time carries no offset, the others do")
        return np.where(has_offset, rows.wall_ms - rows.offset_ms, _NOWHERE)
    return _placed_at_home(rows, plan, clock, notes)


def _placed_at_home(rows: _Rows, plan: Plan, clock: LocalClock, notes: _Notes) -> Ints:
    at_ms = np.full(rows.line.size, _NOWHERE)
    hours, place = np.unique(rows.wall_ms // MS_PER_H, return_inverse=True)
    shift = np.array([_shift_of_hour(int(hour), clock) for hour in hours] or [0], dtype=np.int64)
    plain = shift[place] != _NOWHERE if rows.line.size else np.zeros(0, bool)
    at_ms[plain] = rows.wall_ms[plain] + shift[place[plain]]
    doubtful: list[int] = []
    for k in np.flatnonzero(~plain).tolist():
        instants = clock.instants_of(_wall(rows, k))
        if len(instants) == 1:
            at_ms[k] = instants[0]
        elif not instants:
            notes.add(int(rows.line[k]), "refused", f"the clock in {clock.zone} skips this time")
        else:
            doubtful.append(k)
    nights: dict[object, list[int]] = {}
    for k in doubtful:
        nights.setdefault((_wall(rows, k) - timedelta(hours=12)).date(), []).append(k)
    for night in nights.values():
        _split_repeated(night, rows, at_ms, plan, clock, notes)
    return at_ms


def _wall(rows: _Rows, k: int) -> datetime:
    return _EPOCH_START + timedelta(milliseconds=int(rows.wall_ms[k]))


def _shift_of_hour(hour: int, clock: LocalClock) -> int:
    """Return what turns a wall time of an hour into its instant [ms], where all of the hour is plain."""
    start = _EPOCH_START + timedelta(hours=hour)
    ends = [clock.instants_of(start + timedelta(minutes=m)) for m in (0, 59)]
    if any(len(e) != 1 for e in ends) or ends[1][0] - ends[0][0] != 59 * 60_000:
        return _NOWHERE
    return ends[0][0] - hour * MS_PER_H


def _split_repeated(
    night: Sequence[int], rows: _Rows, at_ms: Ints, plan: Plan, clock: LocalClock, notes: _Notes
) -> None:
    """Split a repeated hour by order: from the first step back on, the second coming is meant."""
    back = next((k for k in range(1, len(night)) if rows.wall_ms[night[k]] < rows.wall_ms[night[k - 1]]), None)
    if back is not None:
        for k, row in enumerate(night):
            at_ms[row] = clock.instants_of(_wall(rows, row))[0 if k < back else 1]
        line = int(rows.line[night[back]])
        notes.add(line, "split", "the clock goes back: the hour stands twice and is split by its order")
        return
    if plan.repeated_hour == "ask":
        for row in night:
            words = "this hour comes twice and stands here once: choose which is meant"
            notes.add(int(rows.line[row]), "refused", words)
        return
    for row in night:
        at_ms[row] = clock.instants_of(_wall(rows, row))[0 if plan.repeated_hour == "first" else 1]


def _series(rows: _Rows, at_ms: Ints, k: int, column: Column, notes: _Notes) -> TakenSeries:
    taken = rows.state[k] == _TAKEN
    at, value, line = at_ms[taken], rows.value[k][taken], rows.line[taken]
    again = np.concatenate([[False], at[1:] == at[:-1]]) if at.size else np.zeros(0, bool)
    first = np.maximum.accumulate(np.where(again, 0, np.arange(at.size))) if at.size else np.zeros(0, np.int64)
    for place in np.flatnonzero(again).tolist():
        if value[place] == value[first[place]]:
            notes.add(int(line[place]), "taken once", "this time stands twice with the same value")
        else:
            words = f"{column.heading}: this time stands twice; its first value was taken"
            notes.add(int(line[place]), "refused", words)
    readings = Readings(at[~again], value[~again])
    step = 0 if column.kind == "held" else min(usual_step_s(readings.at_ms), MOST_STEP_S)
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
    _note_gaps(readings, record, column, line[~again], notes)
    left_out = int((rows.state[k] == _EMPTY).sum() + (rows.state[k] == _REFUSED).sum() + again.sum())
    return TakenSeries(record=record, readings=readings, heading=column.heading, left_out=left_out)


def _note_gaps(readings: Readings, record: SeriesRecord, column: Column, line: Ints, notes: _Notes) -> None:
    limit = (3 * record.step_s if record.step_s else record.longest_hold_s) * 1000
    for k in np.flatnonzero(np.diff(readings.at_ms) > limit)[:50].tolist():
        minutes = int(readings.at_ms[k + 1] - readings.at_ms[k]) // 60_000
        reason = f"{column.heading}: not heard for {minutes // 60} h {minutes % 60:02d} min; stays a gap"
        notes.found.append(Refusal(first=int(line[k]), last=int(line[k]), outcome="gap", reason=reason))
