"""Dark and evening as states that last past midnight (J14)."""

from collections.abc import Callable, Iterable
from datetime import date, timedelta
from typing import Literal

import numpy as np

from warmeter.core.arrays import Flags, Ints
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.truth import Stretches, from_stretches
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN, MS_PER_S
from warmeter.core.weather.sun import sun_height_deg, sun_position

Which = Literal["dark", "clock", "first", "last"]
_SCAN_MS = 5 * MS_PER_MIN
_NEAR_DEG = 8.0
NOON_MIN = 720


def dark_stretches(
    *, latitude_deg: float, longitude_deg: float, below_deg: float, start_ms: int, end_ms: int
) -> Stretches:
    """Return stretches of [start, end) in which the sun stands below an angle, to the second.

    Notes
    -----
    The sun's height is looked at every five minutes in hours in which it comes near the angle (it moves 15° an hour
    at most), and its crossings found by halving; a stretch shorter than five minutes may be missed.

    References
    ----------
    docs/methods J14, G1 (no refraction).
    """

    def is_dark(at_ms: Ints) -> Flags:
        return sun_height_deg(at_ms, latitude_deg=latitude_deg, longitude_deg=longitude_deg) < below_deg

    hours = np.append(np.arange(start_ms, end_ms, MS_PER_H, dtype=np.int64), end_ms)
    height = sun_height_deg(hours, latitude_deg=latitude_deg, longitude_deg=longitude_deg)
    near = np.abs(height - below_deg) <= _NEAR_DEG
    scanned = hours[:-1][near[:-1] | near[1:] | ((height[:-1] < below_deg) != (height[1:] < below_deg))]
    fine = (scanned[:, None] + np.arange(0, MS_PER_H, _SCAN_MS)).ravel()
    return _stretches_of(is_dark, np.sort(np.concatenate([hours, fine[fine < end_ms]])))


def bearing_stretches(
    *,
    latitude_deg: float,
    longitude_deg: float,
    from_deg: float,
    until_deg: float,
    over_deg: float,
    start_ms: int,
    end_ms: int,
) -> Stretches:
    """Return stretches of [start, end) in which the sun stands between two bearings and over a height, to the second.

    Notes
    -----
    Looked at every five minutes, its crossings found by halving; a stretch shorter than that may be missed. Bearings
    run from north clockwise; from a larger to a smaller one they go through north.

    References
    ----------
    docs/methods G1 (no refraction).
    """

    def is_there(at_ms: Ints) -> Flags:
        height, bearing = sun_position(at_ms, latitude_deg=latitude_deg, longitude_deg=longitude_deg)
        past = (bearing - from_deg) % 360 <= (until_deg - from_deg) % 360
        return past & (height > over_deg)

    return _stretches_of(is_there, np.append(np.arange(start_ms, end_ms, _SCAN_MS, dtype=np.int64), end_ms))


def _stretches_of(is_true: Callable[[Ints], Flags], at: Ints) -> Stretches:
    """Return stretches in which something holds, looked at at instants, its changes between them found by halving."""
    holds = is_true(at)
    place = np.flatnonzero(holds[1:] != holds[:-1])
    low, high, first = at[place], at[place + 1], holds[place]
    while low.size and int((high - low).max()) > MS_PER_S:
        middle = (low + high) // 2
        same = is_true(middle) == first
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    edges = (high + MS_PER_S - 1) // MS_PER_S * MS_PER_S
    begin = np.append([at[0]] if holds[0] else [], edges[~first]).astype(np.int64)
    until = np.append(edges[first], [at[-1]] if holds[-1] else []).astype(np.int64)
    return begin, until


def evening_stretches(
    clock: LocalClock,
    *,
    latitude_deg: float,
    longitude_deg: float,
    below_deg: float,
    which: Which,
    clock_min: int | None,
    until_min: int,
    start_ms: int,
    end_ms: int,
) -> Stretches:
    """Return the evenings that touch [start, end), cut to it, touching ones joined.

    Parameters
    ----------
    which : str
        Begins when it is ``dark``, at the ``clock`` time, at the ``first`` or at the ``last`` of both.
    clock_min, until_min : int
        Clock time of its beginning, 12:00 or later, and of its end on the next date, 12:00 or earlier [min].

    References
    ----------
    docs/methods J14.
    """
    first, last = clock.local(start_ms).date() - timedelta(days=2), clock.local(end_ms).date() + timedelta(days=1)
    begin, until = dark_stretches(
        latitude_deg=latitude_deg,
        longitude_deg=longitude_deg,
        below_deg=below_deg,
        start_ms=clock.instant(first, 0) - MS_PER_DAY,
        end_ms=clock.instant(last, 0) + 3 * MS_PER_DAY,
    )
    rows = []
    on = first
    while on <= last:
        stretch = _evening_of(clock, on, begin, until, which, clock_min, until_min)
        rows += [stretch] if stretch is not None else []
        on += timedelta(days=1)
    return _cut(rows, start_ms, end_ms)


def _evening_of(
    clock: LocalClock, on: date, begin: Ints, until: Ints, which: Which, clock_min: int | None, until_min: int
) -> tuple[int, int] | None:
    """Return the evening of a local date, None if it has none."""
    noon, next_noon = clock.instant(on, NOON_MIN), clock.instant(on + timedelta(days=1), NOON_MIN)
    place = int(np.searchsorted(until, noon, side="right"))
    dark = None
    if place < begin.size and begin[place] < next_noon:
        dark = max(noon, int(begin[place]))
    by_clock = None if clock_min is None else clock.instant(on, clock_min)
    starts = {"dark": dark, "clock": by_clock}
    known = [at for at in (dark, by_clock) if at is not None]
    starts["first"] = min(known, default=None)
    starts["last"] = None if dark is None or by_clock is None else max(dark, by_clock)
    start, end = starts[which], clock.instant(on + timedelta(days=1), until_min)
    return None if start is None or end <= start else (start, end)


def _cut(rows: Iterable[tuple[int, int]], start_ms: int, end_ms: int) -> Stretches:
    pairs = np.array(list(rows), dtype=np.int64).reshape(-1, 2)
    return from_stretches(pairs[:, 0], pairs[:, 1], start_ms, end_ms).stretches()
