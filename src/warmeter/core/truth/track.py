"""A quantity as its reports came: each speaks until the next, but not longer than it may."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats, Ints
from warmeter.core.truth.truth import FALSE, TRUE, Truth, from_changes


@dataclass(frozen=True, slots=True)
class Track:
    """Reports of a quantity.

    Parameters
    ----------
    at_ms : (report,) int array
        When each became known, rising [ms UTC].
    value : (report,) float array
        In the stored unit; NaN says that from here on nothing is known.
    """

    at_ms: Ints
    value: Floats


@njit(cache=True, nogil=True)
def _hear(at, value, stale, out_at, out_value):  # type: ignore[no-untyped-def]
    """Copy reports that have a value, the later of two at one instant, with silence after each that was the last for long."""
    found = 0
    for i in range(at.shape[0]):
        if np.isnan(value[i]):
            continue
        if found and out_at[found - 1] == at[i]:
            found -= 1
        elif found and at[i] - out_at[found - 1] > stale:
            out_at[found], out_value[found] = out_at[found - 1] + stale, np.nan
            found += 1
        out_at[found], out_value[found] = at[i], value[i]
        found += 1
    if found:
        out_at[found], out_value[found] = out_at[found - 1] + stale, np.nan
        found += 1
    return found


def heard(track: Track, stale_ms: int) -> Track:
    """Return a track that says not known from so long after a report on, unless another came.

    Reports without a value are no reports; of two at one instant the later counts.
    """
    room = 2 * track.at_ms.size + 1
    at, value = np.empty(room, dtype=np.int64), np.empty(room)
    found = _hear(track.at_ms, track.value, stale_ms, at, value)
    return Track(at[:found], value[:found])


def value_of(track: Track, at_ms: Ints) -> Floats:
    """Return what a track says at instants, NaN before its first report, shape as given."""
    place = np.searchsorted(track.at_ms, at_ms, side="right") - 1
    if track.at_ms.size == 0:
        return np.full(np.shape(at_ms), np.nan)
    return np.where(place >= 0, track.value[np.maximum(place, 0)], np.nan)


@njit(cache=True, nogil=True)
def _subtract(at, value, other_at, other_value, out_at, out_value):  # type: ignore[no-untyped-def]
    i, j, found = 0, 0, 0
    mine, theirs = np.nan, np.nan
    while i < at.shape[0] or j < other_at.shape[0]:
        is_mine = j == other_at.shape[0] or (i < at.shape[0] and at[i] <= other_at[j])
        now = at[i] if is_mine else other_at[j]
        if i < at.shape[0] and at[i] == now:
            mine = value[i]
            i += 1
        if j < other_at.shape[0] and other_at[j] == now:
            theirs = other_value[j]
            j += 1
        out_at[found], out_value[found] = now, mine - theirs
        found += 1
    return found


def difference(one: Track, other: Track) -> Track:
    """Return one heard track less another at every report of either; not known where either is not."""
    room = one.at_ms.size + other.at_ms.size
    at, value = np.empty(room, dtype=np.int64), np.empty(room)
    found = _subtract(one.at_ms, one.value, other.at_ms, other.value, at, value)
    return Track(at[:found], value[:found])


@njit(cache=True, nogil=True)
def _compare(at, value, on_from, on_to, off_below, off_above, is_open, out_at, out_value):  # type: ignore[no-untyped-def]
    """Walk reports; on within [on_from, on_to], off at or beyond the off limits (beyond them if ``is_open``)."""
    state, told, found = 0, -1, 0
    for i in range(at.shape[0]):
        v = value[i]
        if np.isnan(v):
            now = 1
        else:
            if v >= on_from and v <= on_to:
                state = 2
            elif is_open or v <= off_below or v >= off_above:
                state = 0
            now = state
        if now != told:
            out_at[found], out_value[found] = at[i], now
            told = now
            found += 1
    return found


def compared(track: Track, *, low: float, high: float, hysteresis: float, start_ms: int, end_ms: int) -> Truth:
    """Return whether a heard track lies within [low, high], with hysteresis outside (J1).

    Parameters
    ----------
    low, high : float
        It begins to hold within them, inclusive; one of them may be infinite.
    hysteresis : float
        It ends at ``low − hysteresis`` or ``high + hysteresis``, inclusive; with 0 as soon as it lies outside.

    Notes
    -----
    A value that is not known leaves what was: after it, a value within the hysteresis goes on as before.
    """
    out_at, out_value = np.empty(track.at_ms.size, dtype=np.int64), np.empty(track.at_ms.size, dtype=np.int8)
    found = _compare(
        track.at_ms, track.value, low, high, low - hysteresis, high + hysteresis, hysteresis <= 0, out_at, out_value
    )
    return from_changes(out_at[:found], out_value[:found], start_ms, end_ms)


@njit(cache=True, nogil=True)
def _move(at, value, by, within, sign, out_at, out_value):  # type: ignore[no-untyped-def]
    """Tell where it changes whether a report lies ``by`` from the extreme of the reports not older than ``within``."""
    n = at.shape[0]
    line = np.empty(n, dtype=np.int64)
    head, tail, told, found = 0, 0, -1, 0
    for i in range(n):
        v = sign * value[i]
        if np.isnan(v):
            now = 1
        else:
            while tail > head and sign * value[line[tail - 1]] >= v:
                tail -= 1
            line[tail] = i
            tail += 1
            while at[i] - at[line[head]] > within:
                head += 1
            now = 2 if v - sign * value[line[head]] >= by - 1e-9 else 0
        if now != told:
            out_at[found], out_value[found] = at[i], now
            told = now
            found += 1
    return found


def moving(track: Track, *, by: float, within_ms: int, is_rising: bool, start_ms: int, end_ms: int) -> Truth:
    """Return whether a heard track has risen (or fallen) by so much within so long, as of its last report (J13).

    Reports from before the start count for the window only from the start on.
    """
    first = int(np.searchsorted(track.at_ms, start_ms, side="left"))
    at, value = track.at_ms[first:], track.value[first:]
    out_at, out_value = np.empty(at.size, dtype=np.int64), np.empty(at.size, dtype=np.int8)
    found = _move(at, value, by, within_ms, 1.0 if is_rising else -1.0, out_at, out_value)
    return from_changes(out_at[:found], out_value[:found], start_ms, end_ms)


def in_state(track: Track, is_on: bool, start_ms: int, end_ms: int) -> Truth:
    """Return whether a heard sensor of two states says yes (0.5 or more), or no."""
    truth = compared(track, low=0.5, high=np.inf, hysteresis=0.0, start_ms=start_ms, end_ms=end_ms)
    return truth if is_on else truth.negated


def silent(track: Track, for_ms: int, start_ms: int, end_ms: int) -> Truth:
    """Return whether no report came for so long, up to and including that instant; the start counts as one (J13)."""
    spoken = track.at_ms[~np.isnan(track.value)]
    at = np.append(start_ms, spoken[(spoken >= start_ms) & (spoken < end_ms)]).astype(np.int64)
    at = at[np.append(True, at[1:] != at[:-1])]
    due = at + for_ms
    lost = due < np.append(at[1:], end_ms)
    both = np.concatenate([at, due[lost]])
    value = np.concatenate([np.full(at.size, FALSE), np.full(int(lost.sum()), TRUE)]).astype(np.int8)
    order = np.argsort(both, kind="stable")
    return from_changes(both[order], value[order], start_ms, end_ms, FALSE)
