"""Wall times of a log's lines as instants: by the home's clock, by an offset, or by those that stand in the file.

An hour that the clock repeats is split by the order in the file; if it stands there once, its lines wait for a
choice. A time that the clock skips is refused.
"""

from collections.abc import Sequence
from datetime import datetime, timedelta

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.readings.csvlog import ImportMapping
from warmeter.core.readings.logblocks import EPOCH_START, NO_OFFSET, NOWHERE, ReadingNotes, Rows
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_H, MS_PER_MIN


def placed(rows: Rows, mapping: ImportMapping, clock: LocalClock, notes: ReadingNotes) -> Ints:
    """Return each row's instant [ms UTC]; a row that has none is noted."""
    has_offset = rows.offset_ms != NO_OFFSET
    if mapping.date_format == "epoch" or mapping.clock == "utc":
        return np.where(has_offset & (mapping.clock == "in file"), rows.wall_ms - rows.offset_ms, rows.wall_ms)
    if mapping.clock == "offset":
        return rows.wall_ms - mapping.offset_min * MS_PER_MIN
    if mapping.clock == "in file":
        for line in rows.line[~has_offset].tolist():
            notes.add(line, "refused", "this time carries no offset, the others do")
        return np.where(has_offset, rows.wall_ms - rows.offset_ms, NOWHERE)
    return _placed_at_home(rows, mapping, clock, notes)


def _placed_at_home(rows: Rows, mapping: ImportMapping, clock: LocalClock, notes: ReadingNotes) -> Ints:
    at_ms = np.full(rows.line.size, NOWHERE)
    hours, place = np.unique(rows.wall_ms // MS_PER_H, return_inverse=True)
    shift = np.array([_shift_of_hour(int(hour), clock) for hour in hours] or [0], dtype=np.int64)
    plain = shift[place] != NOWHERE if rows.line.size else np.zeros(0, bool)
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
        _split_repeated(night, rows, at_ms, mapping, clock, notes)
    return at_ms


def _wall(rows: Rows, k: int) -> datetime:
    return EPOCH_START + timedelta(milliseconds=int(rows.wall_ms[k]))


def _shift_of_hour(hour: int, clock: LocalClock) -> int:
    """Return what turns a wall time of an hour into its instant [ms], where all of the hour is plain."""
    start = EPOCH_START + timedelta(hours=hour)
    ends = [clock.instants_of(start + timedelta(minutes=m)) for m in (0, 59)]
    if any(len(e) != 1 for e in ends) or ends[1][0] - ends[0][0] != 59 * MS_PER_MIN:
        return NOWHERE
    return ends[0][0] - hour * MS_PER_H


def _split_repeated(
    night: Sequence[int], rows: Rows, at_ms: Ints, mapping: ImportMapping, clock: LocalClock, notes: ReadingNotes
) -> None:
    """Split a repeated hour by order: from the first step back on, the second coming is meant."""
    back = next((k for k in range(1, len(night)) if rows.wall_ms[night[k]] < rows.wall_ms[night[k - 1]]), None)
    if back is not None:
        for k, row in enumerate(night):
            at_ms[row] = clock.instants_of(_wall(rows, row))[0 if k < back else 1]
        line = int(rows.line[night[back]])
        notes.add(line, "split", "the clock goes back: the hour stands twice and is split by its order")
        return
    if mapping.repeated_hour == "ask":
        for row in night:
            words = "this hour comes twice and stands here once: choose which is meant"
            notes.add(int(rows.line[row]), "refused", words)
        return
    for row in night:
        at_ms[row] = clock.instants_of(_wall(rows, row))[0 if mapping.repeated_hour == "first" else 1]
