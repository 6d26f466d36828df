"""A day fitted to a device that holds so many blocks, in steps of time and with allowed values (O3)."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

from warmeter.core.errors import HomeError
from warmeter.core.units import MIN_PER_DAY

_MILLI = 1000
# Error, pieces, too cold, edges, values: compared in this order, minima of parts make the minimum of the whole.
_Found = tuple[int, int, int, tuple[int, ...], tuple[int, ...]]


@dataclass(frozen=True, slots=True)
class BlockPiece:
    """From this minute on, a setpoint [°C]."""

    from_min: int
    setpoint_c: float


@dataclass(frozen=True, slots=True, kw_only=True)
class MergedDay:
    """A day as a device can hold it, and how far it lies off [K h], too cold and too warm apart."""

    pieces: tuple[BlockPiece, ...]
    error_kh: float
    below_kh: float
    above_kh: float


def merge_blocks(
    day: Sequence[BlockPiece], *, most: int, step_min: int, allowed_c: Sequence[float] | None = None
) -> MergedDay:
    """Return the day of at most so many pieces that lies least off what is written.

    Parameters
    ----------
    day : sequence of Piece
        From 00:00 on, times rising.
    most : int
        Pieces that the device holds, at least 1.
    step_min : int
        Its step of time; divides 1440.
    allowed_c : sequence of float or None
        Setpoints that it can hold; None are those of the day.

    Raises
    ------
    HomeError
        If the day does not begin at 00:00 or its times do not rise, or the device's figures make no sense.

    Notes
    -----
    Of equal errors: fewer pieces, less too cold, earliest edges, lowest values. Exact in minutes and mK; a piece's
    value is a weighted median, not the mean. A programme from the end of the day over (cut, pieces left, value);
    between two changes of what is written the error is linear in an edge's place, so edges lie beside changes.
    """
    starts = [piece.from_min for piece in day]
    if not starts or starts[0] != 0 or starts != sorted(set(starts)) or starts[-1] >= MIN_PER_DAY:
        raise HomeError("a day to be fitted begins at 00:00 and its times rise")
    if most < 1 or step_min < 1 or MIN_PER_DAY % step_min:
        raise HomeError("a device holds one period at least, in steps that divide a day")
    values = sorted({round(v * _MILLI) for v in (allowed_c if allowed_c is not None else [p.setpoint_c for p in day])})
    if not values:
        raise HomeError("a device needs one setpoint that it can hold")
    cuts = _cuts(starts, step_min)
    off, cold = _costs(day, values, cuts)
    slots = len(off)

    # Best of the rest of the day from a cut on, a piece of value v beginning there.
    @cache
    def rest(slot: int, left: int, v: int) -> _Found:
        best: _Found | None = None
        error = below = 0
        for end in range(slot + 1, slots + 1):
            error += off[end - 1][v]
            below += cold[end - 1][v]
            if best is not None and error > best[0]:
                break
            if end == slots:
                found: _Found = (error, 1, below, (cuts[slot],), (values[v],))
                best = found if best is None or found < best else best
            elif left > 1:
                for w in range(len(values)):
                    if w == v:
                        continue
                    tail = rest(end, left - 1, w)
                    found = (
                        error + tail[0],
                        1 + tail[1],
                        below + tail[2],
                        (cuts[slot], *tail[3]),
                        (values[v], *tail[4]),
                    )
                    best = found if best is None or found < best else best
        assert best is not None  # the last slot is always reached unless something better was found before
        return best

    best = min(rest(0, most, v) for v in range(len(values)))
    pieces = tuple(BlockPiece(at, value / _MILLI) for at, value in zip(best[3], best[4], strict=True))
    scale = 60 * _MILLI
    return MergedDay(
        pieces=pieces, error_kh=best[0] / scale, below_kh=best[2] / scale, above_kh=(best[0] - best[2]) / scale
    )


def _cuts(starts: Sequence[int], step_min: int) -> list[int]:
    """Return the minutes at which a piece may begin: on the device's grid, on either side of a written change."""
    found = {0}
    for start in starts:
        found |= {start // step_min * step_min, -(-start // step_min) * step_min}
    return sorted(at for at in found if at < MIN_PER_DAY)


def _costs(
    day: Sequence[BlockPiece], values: Sequence[int], cuts: Sequence[int]
) -> tuple[list[list[int]], list[list[int]]]:
    """Return the error at each value from each cut to the next, and its part that is too cold [mK min]."""
    ends = [piece.from_min for piece in day[1:]] + [MIN_PER_DAY]
    off, cold = [], []
    for begin, until in itertools.pairwise([*cuts, MIN_PER_DAY]):
        parts = [
            (min(end, until) - max(piece.from_min, begin), round(piece.setpoint_c * _MILLI))
            for piece, end in zip(day, ends, strict=True)
            if piece.from_min < until and end > begin
        ]
        off.append([sum(minutes * abs(wanted - v) for minutes, wanted in parts) for v in values])
        cold.append([sum(minutes * max(0, wanted - v) for minutes, wanted in parts) for v in values])
    return off, cold
