"""The cycles of a machine's log with what each used and how (H3); a person's corrections are truth."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.signature.detector import DetectorEvent, cycles_in
from warmeter.core.signature.learning import LearntCycles, learn
from warmeter.core.units import J_PER_KWH

Origin = Literal["found", "corrected"]

BLIP_S, BLIP_ENERGY, BLIP_PAUSE, BLIP_HABIT = 60.0, 0.05, 0.5, 0.5


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

    Parameters
    ----------
    power_w : (step,) float array
        Mean power of each step of the run, the steps at its edges included; NaN where not heard [W].
    step_s : float
        Length of a step [s].
    high_w : float
        What counts as high [W].

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
class Cycle:
    """A cycle in steps [start, end).

    Parameters
    ----------
    longest_pause_s : float
        Longest stretch inside it without work [s].
    is_cut_before, is_cut_after : bool
        Whether a gap or an end of the log hides its beginning or its end.
    is_told : bool
        Whether it was quiet long enough after it for its end to be sure.
    origin : str
        Found, or set by a person.
    programme : str
        Name given by a person; empty if none.
    """

    start: int
    end: int
    longest_pause_s: float
    is_cut_before: bool = False
    is_cut_after: bool = False
    is_told: bool = True
    origin: Origin = "found"
    programme: str = ""

    @property
    def is_whole(self) -> bool:
        """Whether nothing hides a part of it."""
        return not (self.is_cut_before or self.is_cut_after)


@dataclass(frozen=True, slots=True, kw_only=True)
class Correction:
    """What a person says of a stretch [start, end) of steps: one cycle, with a name or without, or none at all."""

    start: int
    end: int
    is_cycle: bool = True
    programme: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Activity:
    """A log parted into cycles and rest: what was learnt, and the cycles in order."""

    learnt: LearntCycles
    cycles: tuple[Cycle, ...]

    @property
    def whole(self) -> tuple[Cycle, ...]:
        """Cycles of which nothing is hidden."""
        return tuple(c for c in self.cycles if c.is_whole)


def activity(power_w: Floats, step_s: float, corrections: Sequence[Correction] = ()) -> Activity:
    """Return a log's cycles, found without any setting and corrected as a person says.

    Parameters
    ----------
    power_w : (step,) float array
        Mean power over equal steps, NaN where not heard [W].
    step_s : float
        Length of a step [s].
    corrections : sequence of Correction
        Later ones win; each replaces the found cycles that it touches.

    Raises
    ------
    NotKnowable
        As ``learn`` does.
    """
    learnt = learn(power_w, step_s)
    events = cycles_in(power_w, step_s, learnt.setting)
    ends = [power_w.size if e.end is None else e.end for e in events]
    starts = np.array([e.start for e in events], dtype=np.int64)
    pauses = _longest_rows(power_w, starts, np.array(ends, dtype=np.int64), learnt.setting.off_w) * step_s
    found = [_cycle(e, end, pause) for e, end, pause in zip(events, ends, pauses.tolist(), strict=True)]
    found = _with_blips_joined(found, power_w, step_s)
    return Activity(learnt=learnt, cycles=corrected(power_w, step_s, found, corrections, learnt.setting.off_w))


def _with_blips_joined(found: list[Cycle], power_w: Floats, step_s: float) -> list[Cycle]:
    """Return cycles with a habit of short blips before them joined: a compressor that is tried once before it runs.

    A blip lasts a minute at most, takes a twentieth of the run that follows, and stands nearer to it than half the usual
    pause; it is a habit where half of the runs have one.
    """
    joined: list[Cycle] = []
    blips = 0
    energy = [float(np.nansum(power_w[c.start : c.end])) for c in found]
    pauses = [b.start - a.end for a, b in itertools.pairwise(found)]
    usual_pause = float(np.quantile(pauses, 0.75)) if pauses else 0.0
    k = 0
    while k < len(found):
        first = found[k]
        after = found[k + 1] if k + 1 < len(found) else None
        is_blip = (
            after is not None
            and (first.end - first.start) * step_s <= BLIP_S
            and energy[k] <= BLIP_ENERGY * energy[k + 1]
            and after.start - first.end <= BLIP_PAUSE * usual_pause
        )
        if is_blip and after is not None:
            pause_s = max(first.longest_pause_s, after.longest_pause_s, (after.start - first.end) * step_s)
            joined.append(replace(after, start=first.start, longest_pause_s=pause_s, is_cut_before=first.is_cut_before))
            blips, k = blips + 1, k + 2
        else:
            joined.append(first)
            k += 1
    return joined if blips >= BLIP_HABIT * len(joined) else found


def _cycle(event: DetectorEvent, end: int, longest_pause_s: float) -> Cycle:
    return Cycle(
        start=event.start,
        end=end,
        longest_pause_s=longest_pause_s,
        is_cut_before=event.is_cut_before,
        is_cut_after=event.is_cut_after,
        is_told=event.told is not None,
    )


def corrected(
    power_w: Floats, step_s: float, found: Sequence[Cycle], corrections: Sequence[Correction], off_w: float
) -> tuple[Cycle, ...]:
    """Return cycles as a person has corrected them, in order of time; what lies outside the log says nothing."""
    cycles = list(found)
    for fix in (c for c in corrections if c.start < power_w.size and c.end > 0):
        same = [c for c in cycles if c.start < fix.end and fix.start < c.end]
        cycles = [c for c in cycles if c not in same]
        if fix.is_cycle:
            is_renamed = len(same) == 1 and (same[0].start, same[0].end) == (fix.start, fix.end)
            base = same[0] if is_renamed else _set_cycle(power_w, step_s, fix, off_w)
            cycles.append(replace(base, origin="corrected", programme=fix.programme))
    return tuple(sorted(cycles, key=lambda c: c.start))


def _set_cycle(power_w: Floats, step_s: float, fix: Correction, off_w: float) -> Cycle:
    start, end = max(0, fix.start), min(power_w.size, fix.end)
    pause = float(_longest_rows(power_w, np.array([start]), np.array([end]), off_w)[0]) * step_s
    return Cycle(start=start, end=end, longest_pause_s=pause)


@njit(cache=True, nogil=True)
def _longest_rows(power, start, end, limit_w):  # type: ignore[no-untyped-def]
    """Return the most steps in a row at or below a power, in each stretch [start, end); a gap ends a row."""
    out = np.zeros(start.size)
    for i in range(start.size):
        row = 0
        for k in range(start[i], end[i]):
            row = row + 1 if power[k] <= limit_w else 0
            if row > out[i]:
                out[i] = row
    return out
