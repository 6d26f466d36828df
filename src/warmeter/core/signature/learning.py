"""A machine's cycles learnt from its log alone: rest, thresholds, pauses and what is no cycle at all.

Nothing is told beforehand. The log is parted into blocks of work; then three questions are asked of it.
What is too small to be a cycle? Which block never follows a long rest, and so must belong to the block
before? What does the machine draw when its work is over, but its display is still lit?
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.errors import NeverAtStandby, NotKnowable
from warmeter.core.signature.detector import CycleDetector, CycleSetting, steps_of
from warmeter.core.signature.standby_power import StandbyPower, standby_power_of
from warmeter.core.units import S_PER_H

LEAST_HOURS = 6.0
GRACE_S = 60.0  # quiet no longer than this is a drum at its turn, not a pause
LONGEST_PAUSE_S = 7200.0  # no soak or drying pause of a household machine is longer
LONGEST_GAP_S = 120.0  # unheard for longer than this, a cycle is cut
NEVER_RESTS = 3.0  # work must draw this many times what rest does
MINOR_SHARE, WEAK_SHARE, WEAK_POWER = 0.01, 0.05, 0.35
IDLE_CAP_W, IDLE_SHARE, LIT_S = 6.0, 0.1, 20.0
EDGE_S = 60.0
LIKE = 0.3  # natural logarithm: a third more power in its first minute is another beginning
MOSTLY = 0.5
CLEAR = 1.3
ONCE_S = 900.0
PAUSE_MARGIN = 1.25
NEAR_IDLE = 0.4  # idling is steady and low work is not: the threshold stands nearer to idling


@dataclass(frozen=True, slots=True, kw_only=True)
class LearntCycles:
    """What a log taught about a machine's cycles.

    Parameters
    ----------
    rest : Rest
        Its power at rest.
    idle_w : float
        Most that it draws between its pieces of work: at rest, in pauses, with its display lit [W].
    work_w : float
        Least that it draws at work [W].
    setting : CycleSetting
        What tells its cycles.
    longest_pause_s : float
        Longest quiet inside a cycle; 0 if it never pauses [s].
    shortest_rest_s : float
        Shortest quiet between two cycles; the log's length where there is none [s].
    has_ticks : bool
        Whether short bursts after a cycle were taken for no work.
    """

    rest: StandbyPower
    idle_w: float
    work_w: float
    setting: CycleSetting
    longest_pause_s: float
    shortest_rest_s: float
    has_ticks: bool


@dataclass(frozen=True, slots=True)
class _Blocks:
    """Stretches of work [start, end) with the energy above rest of each [J]."""

    start: Ints
    end: Ints
    energy_j: Floats

    def only(self, wanted: Flags) -> "_Blocks":
        return _Blocks(self.start[wanted], self.end[wanted], self.energy_j[wanted])

    def mean_w(self, step_s: float) -> Floats:
        return np.asarray(self.energy_j / (np.maximum(self.end - self.start, 1) * step_s), dtype=np.float64)


def learn(power_w: Floats, step_s: float) -> LearntCycles:
    """Return what a log teaches about a machine's cycles.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power over equal steps, NaN where not heard [W].
    step_s : float
        0.5 to 900 [s].

    Raises
    ------
    NotKnowable
        If fewer than 6 h were heard or the power never rises clearly above rest; ``NeverAtStandby`` if it never falls to it.
    """
    heard = power_w[~np.isnan(power_w)]
    if heard.size * step_s < LEAST_HOURS * S_PER_H:
        raise NotKnowable(
            f"Only {heard.size * step_s / S_PER_H:.1f} h of power were received.",
            "Record a day or more with at least two runs, at 10 s to 60 s a reading.",
        )
    rest = standby_power_of(heard)
    rough_w = rest.high_w + max(0.25 * rest.high_w, 0.6)
    grace_s = max(GRACE_S, step_s)
    rough = _blocks(power_w, step_s, rough_w, grace_s, rest.level_w)
    if rough.start.size == 0:
        raise NotKnowable(
            f"The power never rises clearly above its rest of {rest.level_w:.1f} W.",
            "Record while the appliance works, two or three times.",
        )
    rough = rough.only(_is_major(rough, step_s))
    typical_w = _typical(rough.mean_w(step_s), rough.energy_j)
    if typical_w < NEVER_RESTS * max(rest.high_w, 0.1) - rest.level_w:
        raise NeverAtStandby(
            f"It draws {rest.level_w:.0f} W at its least and {typical_w + rest.level_w:.0f} W at work: it never "
            "rests, so it has no runs.",
            "Read its always-on power instead; if it does have runs, record some whole ones.",
        )
    idle_w = _idle(power_w, step_s, rough, rest, typical_w)
    threshold_w, work_w = _threshold(power_w, rough, rest, idle_w)
    blocks = _blocks(power_w, step_s, threshold_w, grace_s, rest.level_w)
    blocks = blocks.only(_is_major(blocks, step_s))
    threshold_w, work_w = _threshold(power_w, blocks, rest, idle_w)
    if not _turns(power_w, blocks, threshold_w):
        grace_s = 0.0
    return _timed(power_w, step_s, rest, idle_w, work_w, threshold_w, grace_s)


def _timed(
    power_w: Floats, step_s: float, rest: StandbyPower, idle_w: float, work_w: float, threshold_w: float, grace_s: float
) -> LearntCycles:
    """Return the whole, once the threshold stands: what is minor, which pauses are bridged, and the wait."""
    blocks = _blocks(power_w, step_s, threshold_w, grace_s, rest.level_w)
    is_major = _is_major(blocks, step_s)
    major = blocks.only(is_major)
    tail_s = _last_burst_delay(blocks, is_major, step_s)
    quiet_s, heads, tails = _between(power_w, step_s, major)
    bridged = _is_pause(quiet_s, heads, tails)
    if tail_s and CLEAR * tail_s > float((quiet_s[~bridged] - tail_s).min(initial=np.inf)):
        tail_s = None
    pauses = [*quiet_s[bridged].tolist(), *([tail_s] if tail_s else [])]
    pause_s = float(max(pauses, default=0.0))
    rests = quiet_s[~bridged] - (tail_s or 0.0)
    rest_s = float(rests.min()) if rests.size else float(power_w.size * step_s)
    minor_j = float(blocks.energy_j[~is_major].max()) if (~is_major).any() else 0.0
    least_j = float(np.sqrt(max(minor_j, 1e-3 * major.energy_j.max()) * major.energy_j.min()))
    setting = CycleSetting(
        on_w=threshold_w,
        off_w=threshold_w,
        wait_s=_wait(pause_s, rest_s, step_s),
        rest_w=rest.level_w,
        least_j=min(least_j, 0.9 * float(major.energy_j.min())),
        tail_j=0.0 if tail_s else min(1.5 * minor_j, 0.5 * float(major.energy_j.min())),
        grace_s=grace_s,
        longest_gap_s=LONGEST_GAP_S,
    )
    return LearntCycles(
        rest=rest,
        idle_w=idle_w,
        work_w=work_w,
        setting=setting,
        longest_pause_s=pause_s,
        shortest_rest_s=rest_s,
        has_ticks=bool((~is_major).any()) and not tail_s,
    )


def _blocks(power_w: Floats, step_s: float, above_w: float, grace_s: float, rest_w: float) -> _Blocks:
    setting = CycleSetting(on_w=above_w, off_w=above_w, wait_s=grace_s, rest_w=rest_w, longest_gap_s=LONGEST_GAP_S)
    machine = CycleDetector(setting, step_s)
    rows, running = machine.ended(power_w), machine.still_on()
    start, end = rows[:, 0], rows[:, 1]
    if running:
        start, end = np.append(start, running.start), np.append(end, running.end or power_w.size)
    return _Blocks(start, end, np.maximum(_energies(power_w, start, end, rest_w) * step_s, 1e-9))


@njit(cache=True, nogil=True)
def _energies(power, start, end, rest_w):  # type: ignore[no-untyped-def]
    out = np.zeros(start.size)
    for i in range(start.size):
        for k in range(start[i], end[i]):
            if not np.isnan(power[k]):
                out[i] += power[k] - rest_w
    return out


def _typical(value: Floats, weight: Floats) -> float:
    """Return the value below which half of the weight lies."""
    order = np.argsort(value)
    return float(value[order][np.searchsorted(np.cumsum(weight[order]), 0.5 * weight.sum())])


def _is_major(blocks: _Blocks, step_s: float) -> Flags:
    """Return which blocks are work: not a hundredth of the typical energy, nor weak and a twentieth of it."""
    typical_j = _typical(blocks.energy_j, blocks.energy_j)
    mean_w = blocks.mean_w(step_s)
    weak = mean_w < WEAK_POWER * _typical(mean_w, blocks.energy_j)
    return (blocks.energy_j >= MINOR_SHARE * typical_j) & ~(weak & (blocks.energy_j < WEAK_SHARE * typical_j))


def _idle(power_w: Floats, step_s: float, rough: _Blocks, rest: StandbyPower, typical_w: float) -> float:
    """Return the most that is drawn once the work is over [W]: of a display that stays lit after it."""
    cap = max(min(IDLE_CAP_W, IDLE_SHARE * typical_w), rest.high_w)
    began = np.minimum(_last_above(power_w, rough.start, rough.end, cap) + 2, rough.end)
    has_tail = (rough.end - began) * step_s >= LIT_S
    if has_tail.sum() * 2 < has_tail.size:
        return rest.high_w
    levels = window_medians(power_w, began[has_tail], rough.end[has_tail])
    return max(rest.high_w, 1.05 * float(np.quantile(levels, 0.9)))


@njit(cache=True, nogil=True)
def _last_above(power, start, end, limit):  # type: ignore[no-untyped-def]
    last = end - 1
    for i in range(start.size):
        while last[i] >= start[i] and not power[last[i]] > limit:
            last[i] -= 1
    return last


@njit(cache=True, nogil=True)
def window_medians(power, first, last):  # type: ignore[no-untyped-def]
    """Return the median of the heard samples of each window [first, last); NaN where there is none."""
    out = np.full(first.size, np.nan)
    for i in range(first.size):
        window = power[first[i] : last[i]]
        heard = window[~np.isnan(window)]
        if heard.size > 0:
            out[i] = np.median(heard)
    return out


def _threshold(power_w: Floats, blocks: _Blocks, rest: StandbyPower, idle_w: float) -> tuple[float, float]:
    """Return a threshold between idling and the least work, and that least work [W]; edges do not count."""
    low = idle_w + max(0.15 * idle_w, 0.6)
    change = np.zeros(power_w.size + 1, dtype=np.int8)
    long = blocks.end - blocks.start > 2
    change[blocks.start[long] + 1] += 1
    change[blocks.end[long] - 1] -= 1
    work = power_w[(np.cumsum(change[:-1], dtype=np.int8) > 0) & (power_w > low)]
    if work.size == 0:
        work = power_w[power_w > low]
    work_w = float(np.quantile(work, 0.01)) if work.size else 2 * low
    floor = max(idle_w, rest.level_w, 0.5)
    return max(low, floor * (work_w / floor) ** NEAR_IDLE), work_w


def _turns(power_w: Floats, blocks: _Blocks, threshold_w: float) -> bool:
    """Return whether a block of work usually holds short quiet stretches, as of a drum that turns to and fro."""
    quiet = np.concatenate([[0], np.cumsum(power_w <= threshold_w)])
    return bool(np.mean(quiet[blocks.end] > quiet[blocks.start]) > 0.2)


def _last_burst_delay(blocks: _Blocks, is_major: Flags, step_s: float) -> float | None:
    """Return the longest delay of a last short burst that closes most cycles [s]; None where there is none.

    A dishwasher drains once more after drying: one burst after nearly every cycle. Turns against creases
    come in rows, a lamp comes now and then: neither belongs to the cycle.
    """
    major_end, minor = blocks.end[is_major], blocks.only(~is_major)
    if major_end.size < 2 or minor.start.size == 0:
        return None
    before = np.searchsorted(major_end, minor.start, side="right") - 1
    near = (before >= 0) & ((minor.start - major_end[before]) * step_s <= LONGEST_PAUSE_S)
    counts = np.bincount(before[near], minlength=major_end.size)
    if (counts == 1).sum() < 0.6 * counts.size or (counts > 1).sum() > 0.25 * counts.size:
        return None
    alone = near & (counts[np.maximum(before, 0)] == 1)
    return float((minor.end[alone] - major_end[before[alone]]).max() * step_s)


def _between(power_w: Floats, step_s: float, major: _Blocks) -> tuple[Floats, Floats, Floats]:
    """Return the heard quiet stretches between blocks [s], how the later block begins and the earlier ends."""
    unheard = np.concatenate([[0], np.cumsum(np.isnan(power_w))])
    missing_s = (unheard[major.start[1:]] - unheard[major.end[:-1]]) * step_s
    known = missing_s <= LONGEST_GAP_S
    quiet_s = np.asarray((major.start[1:] - major.end[:-1]) * step_s, dtype=np.float64)
    heads, tails = _heads(power_w, step_s, major)[1:], _tails(power_w, step_s, major)[:-1]
    return quiet_s[known], heads[known], tails[known]


def _is_pause(quiet_s: Floats, heads: Floats, tails: Floats) -> Flags:
    """Return which quiet stretches are pauses: what follows them never follows a long rest.

    Where beginnings differ too much to tell, what goes before must never go before a long rest. One length
    parts pauses from rests: that with the fewest blocks on the wrong side of it.
    """
    if quiet_s.size < 2:
        return np.zeros(quiet_s.size, dtype=bool)
    long_s = LONGEST_PAUSE_S if (quiet_s > LONGEST_PAUSE_S).sum() > 1 else float(np.quantile(quiet_s, 0.5))
    sure = quiet_s >= long_s
    begins, ends = _likeness(heads, sure), _likeness(tails, sure)
    is_inside = (begins == 0) | ((begins < MOSTLY) & (ends == 0))
    looks_inside = is_inside & ~sure & (quiet_s <= LONGEST_PAUSE_S)
    return quiet_s <= _parting(quiet_s, looks_inside)


def _parting(quiet_s: Floats, looks_inside: Flags) -> float:
    """Return the length up to which quiet is a pause [s], with the fewest blocks on the wrong side of it.

    A pause nearly as long as a rest is none that a waiting time could bridge, and a long one seen but once is none.
    """
    order = np.argsort(quiet_s, kind="stable")
    lengths, inside = quiet_s[order], looks_inside[order]
    wrong = np.concatenate([[0], np.cumsum(np.where(inside, -1, 1))])  # against "no pause at all"
    following = np.append(lengths[1:], np.inf)
    is_sure = (np.cumsum(inside) > 1) | (lengths <= ONCE_S)
    can_part = np.concatenate([[True], inside & is_sure & (following >= CLEAR * lengths)])
    best = int(np.argmin(np.where(can_part, wrong, quiet_s.size + 1)))
    return float(lengths[best - 1]) if best else 0.0


def _likeness(feature: Floats, sure: Flags) -> Floats:
    """Return the share of sure blocks that each block is like."""
    known = np.sort(feature[sure])
    near = np.searchsorted(known, feature + LIKE) - np.searchsorted(known, feature - LIKE)
    return np.asarray(near / known.size, dtype=np.float64)


def _heads(power_w: Floats, step_s: float, blocks: _Blocks) -> Floats:
    """Return how blocks begin: the logarithm of the power in their first minute, after a motor's first surge."""
    first = np.minimum(blocks.start + (1 if step_s > 1 else 3), blocks.end - 1)
    return _log_middles(power_w, first, np.minimum(first + steps_of(EDGE_S, step_s), blocks.end))


def _tails(power_w: Floats, step_s: float, blocks: _Blocks) -> Floats:
    """Return how blocks end: the logarithm of the power in their last minute but for its last reading."""
    last = np.maximum(blocks.end - 1, blocks.start + 1)
    return _log_middles(power_w, np.maximum(last - steps_of(EDGE_S, step_s), blocks.start), last)


def _log_middles(power_w: Floats, first: Ints, last: Ints) -> Floats:
    medians: Floats = window_medians(power_w, first, last)
    return np.log(np.maximum(np.nan_to_num(medians), 0.1))


def _wait(pause_s: float, rest_s: float, step_s: float) -> float:
    """Return a wait between the longest pause and the shortest rest [s], nearer to neither on a log scale."""
    low = max(PAUSE_MARGIN * pause_s, step_s, 30.0)
    return float(min(max(np.sqrt(max(pause_s, 30.0) * rest_s), low), max(low, LONGEST_PAUSE_S)))
