"""How long to wait after a sensor's off: wrong offs against wasted hours (Q1)."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.errors import OutOfRange
from warmeter.core.presence.room_use import RoomSensor, on_stretches
from warmeter.core.truth.truth import Stretches
from warmeter.core.units import J_PER_KWH, MS_PER_DAY, MS_PER_H, MS_PER_S, S_PER_H

NEAR_BEST = 0.1
MOST_WAITS = 10_000
SLACK = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class IdlePrices:
    """What a wrong off costs, what is left on [W], and what a kilowatt-hour of it costs; one currency."""

    wrong_off: float
    power_w: float
    per_kwh: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WaitOutcome:
    """A wait after a sensor's off with what it comes to a week; ``after_motion_s`` counts the sensor's own hold too."""

    wait_s: int
    after_motion_s: float
    wrong_offs_week: float
    wasted_h_week: float
    cost_week: float


@dataclass(frozen=True, slots=True, kw_only=True)
class IdleTime:
    """Outcomes by wait, rising; the cheapest, and the waits around it that cost at most a tenth more [s]."""

    rows: tuple[WaitOutcome, ...]
    best: WaitOutcome
    span_s: tuple[int, int]


def idle_time(
    sensors: Sequence[RoomSensor], use: Stretches, waits_s: Sequence[int], prices: IdlePrices, *, end_ms: int
) -> IdleTime:
    """Return what each wait comes to over [0, end) against when somebody was really there.

    Parameters
    ----------
    sensors : sequence of RoomSensor
        Of the room, times from 0 on [ms]; one's off does not end another's on.
    use : ((stretch,) int array, (stretch,) int array)
        When somebody was there, rising and apart [ms].
    waits_s : sequence of int
        Waits to try, one at least; 0 to 3600 are sensible [s].

    Raises
    ------
    OutOfRange
        Without a wait, or without time.

    Notes
    -----
    Only the beginning of a time in the dark with somebody there is counted, and a late first on not at all. Truth from
    the same sensor proves nothing.

    References
    ----------
    docs/methods Q1; derived.
    """
    if not waits_s:
        raise OutOfRange("number of waits to try", 0, 1, MOST_WAITS)
    if end_ms <= 0:
        raise OutOfRange("time looked at", end_ms, 1, inf, "ms")
    weeks = end_ms / (7 * MS_PER_DAY)
    an_hour = prices.power_w * S_PER_H / J_PER_KWH * prices.per_kwh
    hold_s = max((s.hold_ms for s in sensors), default=0) / MS_PER_S
    rows = []
    for wait in sorted(set(waits_s)):
        begin, until = _joined([on_stretches(s, end_ms) for s in sensors], wait * MS_PER_S, end_ms)
        wrong = int(_within(until[until < end_ms], use).sum())
        wasted_h = (int((until - begin).sum()) - _shared_ms((begin, until), use)) / MS_PER_H
        rows.append(
            WaitOutcome(
                wait_s=wait,
                after_motion_s=hold_s + wait,
                wrong_offs_week=wrong / weeks,
                wasted_h_week=wasted_h / weeks,
                cost_week=(wrong * prices.wrong_off + wasted_h * an_hour) / weeks,
            )
        )
    best = min(range(len(rows)), key=lambda k: (round(rows[k].cost_week, 9), k))
    return IdleTime(rows=tuple(rows), best=rows[best], span_s=_span(rows, best))


def _span(rows: Sequence[WaitOutcome], best: int) -> tuple[int, int]:
    """Return the waits without a break around the best that cost at most a tenth more."""
    least = rows[best].cost_week
    near = [row.cost_week <= least + NEAR_BEST * abs(least) + SLACK for row in rows]
    low = high = best
    while low > 0 and near[low - 1]:
        low -= 1
    while high + 1 < len(rows) and near[high + 1]:
        high += 1
    return rows[low].wait_s, rows[high].wait_s


def _joined(all_on: Sequence[Stretches], wait_ms: int, end_ms: int) -> Stretches:
    """Return stretches of on with the wait added, touching ones joined, cut to [0, end)."""
    rows = sorted(
        (max(0, int(b)), min(end_ms, int(u) + wait_ms))
        for begin, until in all_on
        for b, u in zip(begin, until, strict=True)
        if b < end_ms
    )
    joined: list[list[int]] = []
    for begin, until in rows:
        if begin >= until:
            continue
        if joined and begin <= joined[-1][1]:
            joined[-1][1] = max(joined[-1][1], until)
        else:
            joined.append([begin, until])
    pairs = np.array(joined, dtype=np.int64).reshape(-1, 2)
    return pairs[:, 0], pairs[:, 1]


def _within(at_ms: Ints, stretches: Stretches) -> Ints:
    """Return 1 for each instant that lies in [begin, until)."""
    begin, until = stretches
    place = np.searchsorted(begin, at_ms, side="right") - 1
    if begin.size == 0:
        return np.zeros(at_ms.size, dtype=np.int64)
    return ((place >= 0) & (at_ms < until[np.maximum(place, 0)])).astype(np.int64)


def _shared_ms(one: Stretches, other: Stretches) -> int:
    """Return how long both hold [ms]; each rising and apart."""
    at = np.unique(np.concatenate([*one, *other]))
    if at.size < 2:
        return 0
    both = _within(at[:-1], one) & _within(at[:-1], other)
    return int((both * np.diff(at)).sum())
