"""Runs of a machine in its power log: on/off events (H2), features (H3), runs without a setting."""

from dataclasses import dataclass
from math import ceil

import numpy as np
from numba import njit
from numpy.typing import NDArray

from warmeter.core.errors import NotKnowable, OutOfRange
from warmeter.core.signature.standby import Standby, standby_of
from warmeter.core.units import J_PER_KWH

Floats = NDArray[np.float64]
TICK_S, TICK_REST_S = 45.0, 120.0  # a drum turned against creases: short, and after a rest
LONGEST_GAP_INSIDE_S = 7200.0  # no soak or drying pause of a household machine is longer


@dataclass(frozen=True, slots=True, kw_only=True)
class OnOffSetting:
    """Two thresholds [W] and two waiting times [s]; ``off_w`` at most ``on_w``."""

    on_w: float
    off_w: float
    dwell_on_s: float
    dwell_off_s: float

    def __post_init__(self) -> None:
        if not 0 <= self.off_w <= self.on_w:
            raise OutOfRange("lower threshold", self.off_w, 0.0, self.on_w, "W")
        if min(self.dwell_on_s, self.dwell_off_s) < 0:
            raise OutOfRange("waiting time", min(self.dwell_on_s, self.dwell_off_s), 0.0, 86_400.0, "s")


@dataclass(frozen=True, slots=True)
class Event:
    """A run in steps [start, end); ``end`` is None while it still runs, ``told`` its confirmation."""

    start: int
    end: int | None
    told: int | None


@njit(cache=True, nogil=True)
def _walk(power, on_w, off_w, need_on, need_off, starts, ends, tolds):  # type: ignore[no-untyped-def]
    found, is_on, run = 0, False, 0
    for k in range(power.shape[0]):
        p = power[k]
        if is_on:
            run = run + 1 if p <= off_w + 1e-9 else 0
            if run == need_off:
                ends[found] = k - need_off + 1
                tolds[found] = k + 1
                found += 1
                is_on, run = False, 0
        else:
            run = run + 1 if p >= on_w - 1e-9 else 0
            if run == need_on:
                starts[found] = k - need_on + 1
                is_on, run = True, 0
    if is_on:
        ends[found] = -1
        tolds[found] = -1
        found += 1
    return found


def on_off_events(power_w: Floats, step_s: float, setting: OnOffSetting) -> list[Event]:
    """Return the runs that a setting finds in a log of equal steps.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power over each step; NaN (a gap) is neither on nor off and breaks a waiting time [W].

    Notes
    -----
    docs/methods H2: a run of ceil(dwell/step) samples, at least one, confirms a change; its first sample
    dates it. ``told`` is when the end was confirmed.
    """
    need_on = max(1, ceil(setting.dwell_on_s / step_s - 1e-9))
    need_off = max(1, ceil(setting.dwell_off_s / step_s - 1e-9))
    room = power_w.size + 1
    starts, ends, tolds = (np.zeros(room, dtype=np.int64) for _ in range(3))
    found = _walk(power_w, setting.on_w, setting.off_w, need_on, need_off, starts, ends, tolds)
    return [
        Event(int(s), None, None) if e < 0 else Event(int(s), int(e), int(t))
        for s, e, t in zip(starts[:found], ends[:found], tolds[:found], strict=True)
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class CycleFeatures:
    """What one run used and how (docs/methods H3)."""

    energy_kwh: float
    duration_s: float
    mean_w: float
    peak_w: float
    time_above_high_s: float
    load_factor: float
    starts_above_high: int


def cycle_features(power_w: Floats, step_s: float, high_w: float = 1000.0) -> CycleFeatures:
    """Return a run's features.

    Raises
    ------
    NotKnowable
        If the run holds no reading.
    """
    heard = power_w[~np.isnan(power_w)]
    if heard.size == 0:
        raise NotKnowable("This run holds no reading.", "Record it again.")
    high = heard >= high_w
    starts = int(high[0]) + int(np.count_nonzero(high[1:] & ~high[:-1]))
    mean, peak = float(heard.mean()), float(heard.max())
    return CycleFeatures(
        energy_kwh=float(heard.sum()) * step_s / J_PER_KWH,
        duration_s=power_w.size * step_s,
        mean_w=mean,
        peak_w=peak,
        time_above_high_s=float(high.sum()) * step_s,
        load_factor=mean / peak if peak > 0 else 0.0,
        starts_above_high=starts,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineRun:
    """A run found without any setting, in steps [start, end), with its pauses.

    Parameters
    ----------
    longest_pause_s : float
        Longest stretch inside it at standby [s].
    is_whole : bool
        Whether neither a gap nor an end of the log cuts it.
    """

    start: int
    end: int
    longest_pause_s: float
    is_whole: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Activity:
    """A log split into runs and rest.

    Parameters
    ----------
    standby : Standby
        Power at rest.
    rest_high_w : float
        What rest never passes but for single ticks [W].
    split_s : float
        A quiet stretch longer than this ends a run [s].
    longest_pause_s, shortest_rest_s : float
        Longest quiet stretch inside a run, shortest between runs [s].
    runs : tuple of MachineRun
        In order.
    """

    standby: Standby
    rest_high_w: float
    split_s: float
    longest_pause_s: float
    shortest_rest_s: float
    runs: tuple[MachineRun, ...]


def activity(power_w: Floats, step_s: float) -> Activity:
    """Split a log into a machine's runs and its rest, without a setting.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power over equal steps, NaN where not heard [W].

    Raises
    ------
    NotKnowable
        If the log is shorter than 6 h, constant, or holds no run.

    Notes
    -----
    The machine is busy above the middle, on a logarithmic scale, between rest and its low working
    power. Quiet stretches between busy ones have two kinds of length, pauses and rests; the widest
    step between neighbouring lengths, on a logarithmic scale, tells them apart (never above 2 h).
    """
    heard = ~np.isnan(power_w)
    if float(heard.sum()) * step_s < 6 * 3600:
        raise NotKnowable(
            f"Only {float(heard.sum()) * step_s / 3600:.1f} h of power were heard.",
            "Record a day or more with at least two runs, at 10 s to 60 s a reading.",
        )
    standby = standby_of(power_w[heard], bin_w=0.5)
    busy_w = _busy_threshold(power_w[heard], standby)
    quiet = _over_ticks(_quiet_stretches(power_w, busy_w), step_s)
    busy_any = heard & (power_w > busy_w)
    if not busy_any.any():
        raise NotKnowable(
            f"The power never rises clearly above its rest of {standby.mode_w:.1f} W.",
            "Record while the machine runs, two or three times.",
        )
    inner = [(b, e) for b, e in quiet if b > 0 and e < power_w.size]
    lengths = np.array([(e - b) * step_s for b, e in inner])
    split = _split_length(lengths)
    runs = _runs(power_w, quiet, split, step_s)
    pauses, rests = lengths[lengths <= split], lengths[lengths > split]
    return Activity(
        standby=standby,
        rest_high_w=busy_w,
        split_s=split,
        longest_pause_s=float(pauses.max()) if pauses.size else 0.0,
        shortest_rest_s=float(rests.min()) if rests.size else float(power_w.size * step_s),
        runs=runs,
    )


def _busy_threshold(power_w: Floats, standby: Standby) -> float:
    """Return what separates rest from work [W]: the geometric middle of standby and low work."""
    floor = max(standby.mode_w, 0.5)
    above = power_w[power_w > max(4 * floor, standby.mode_w + 5.0)]
    if above.size == 0:
        return float(np.inf)
    low_work = float(np.quantile(above, 0.02))
    return max(float(np.sqrt(floor * low_work)), 1.3 * standby.mode_w, standby.mode_w + 1.0)


def _quiet_stretches(power_w: Floats, busy_w: float) -> list[tuple[int, int]]:
    """Return stretches [begin, end) that are not busy; a gap counts as quiet."""
    quiet = ~(power_w > busy_w)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], quiet, [False]]).astype(np.int8)))
    return [(int(b), int(e)) for b, e in zip(edges[::2], edges[1::2], strict=True)]


def _split_length(lengths: Floats) -> float:
    """Return the length that parts pauses from rests [s], at the widest step between 1 min and 2 h."""
    inside = np.unique(lengths[lengths <= LONGEST_GAP_INSIDE_S])
    edges = np.concatenate([[60.0], inside[inside > 60.0], [LONGEST_GAP_INSIDE_S]])
    beyond = lengths[lengths > LONGEST_GAP_INSIDE_S]
    if beyond.size:
        edges[-1] = max(float(beyond.min()), LONGEST_GAP_INSIDE_S)
    widest = int(np.argmax(np.diff(np.log(edges))))
    return min(float(np.sqrt(edges[widest] * edges[widest + 1])), LONGEST_GAP_INSIDE_S)


def _over_ticks(quiet: list[tuple[int, int]], step_s: float) -> list[tuple[int, int]]:
    """Return quiet stretches joined over the short ticks that lie between two rests."""
    joined: list[tuple[int, int]] = []
    rest = TICK_REST_S / step_s
    for begin, end in quiet:
        if joined:
            before, until = joined[-1]
            if (begin - until) * step_s <= TICK_S and until - before >= rest and end - begin >= rest:
                joined[-1] = (before, end)
                continue
        joined.append((begin, end))
    return joined


def _runs(power_w: Floats, quiet: list[tuple[int, int]], split_s: float, step_s: float) -> tuple[MachineRun, ...]:
    first = quiet[0][1] if quiet and quiet[0][0] == 0 else 0
    last = quiet[-1][0] if quiet and quiet[-1][1] == power_w.size else power_w.size
    rests = [(b, e) for b, e in quiet if (e - b) * step_s > split_s and first <= b and e <= last]
    starts = [first, *(e for _, e in rests)]
    ends = [*(b for b, _ in rests), last]
    runs = []
    for start, end in zip(starts, ends, strict=True):
        if (end - start) * step_s <= TICK_S:
            continue
        pauses = [(e - b) * step_s for b, e in quiet if start <= b and e <= end]
        margin = max(1, round(split_s / step_s))
        near = power_w[max(0, start - 1) : end + margin]
        is_whole = start > 0 and end + margin <= power_w.size and not bool(np.isnan(near).any())
        runs.append(MachineRun(start=start, end=end, longest_pause_s=max(pauses, default=0.0), is_whole=is_whole))
    return tuple(runs)
