"""One state machine that tells a machine's cycles, sample by sample or over a whole log (H2)."""

from dataclasses import dataclass
from math import ceil, inf

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import OutOfRange, within
from warmeter.core.units import S_PER_DAY

LEAD_SHARE = 0.1  # of the least energy of a cycle: less than this before a rest is not its beginning


@dataclass(frozen=True, slots=True, kw_only=True)
class CycleSetting:
    """What tells one machine's cycles.

    Parameters
    ----------
    on_w, off_w : float
        It works at or above the first, is quiet at or below the second [W].
    dwell_on_s : float
        It must have worked this long in all before a cycle is told [s].
    wait_s : float
        Quiet for this long ends a cycle: longer than the machine's own pauses [s].
    rest_w : float
        What it draws at rest: energies here are counted above it [W].
    least_j : float
        A cycle takes at least this energy; less is a lamp, a tick, a key pressed [J].
    tail_j : float
        After ``grace_s`` of quiet, a burst of less than this does not count as work [J].
    grace_s : float
        Quiet no longer than this breaks nothing [s].
    longest_gap_s : float
        Not heard for longer than this cuts a cycle [s].
    """

    on_w: float
    off_w: float
    dwell_on_s: float = 0.0
    wait_s: float
    rest_w: float = 0.0
    least_j: float = 0.0
    tail_j: float = 0.0
    grace_s: float = 0.0
    longest_gap_s: float = inf

    def __post_init__(self) -> None:
        if not 0 <= self.off_w <= self.on_w:
            raise OutOfRange("lower threshold", self.off_w, 0.0, self.on_w, "W")
        for name in ("dwell_on_s", "wait_s", "grace_s"):
            within(name, getattr(self, name), 0.0, S_PER_DAY, "s")


@dataclass(frozen=True, slots=True)
class DetectorEvent:
    """A cycle in steps [start, end); ``end`` is None while it still runs, ``told`` its confirmation.

    ``is_cut_before`` and ``is_cut_after`` say that a gap or an end of the log hides a part of it.
    """

    start: int
    end: int | None
    told: int | None
    is_cut_before: bool = False
    is_cut_after: bool = False


# Places in the state that passes from one stretch of samples to the next.
_IS_ON, _START, _QUIET, _QUIET_FROM, _CUT, _AFTER_GAP, _STATE = 1, 2, 6, 7, 10, 11, 14
_NEED_GRACE = 7  # place among the numbers


@njit(cache=True, nogil=True)
def _walk(power, step_s, numbers, state, rows):  # type: ignore[no-untyped-def]
    on_w, off_w, rest_w, least_j, tail_j = numbers[0], numbers[1], numbers[2], numbers[3], numbers[4]
    need_on, need_off, need_grace, need_gap = numbers[5], numbers[6], numbers[7], numbers[8]
    k0, is_on, start, run, energy, low = state[0], state[1] > 0, state[2], state[3], state[4], state[5]
    quiet, quiet_from, burst, gap, cut, after_gap = state[6], state[7], state[8], state[9], state[10], state[11]
    calm, before_gap = state[12], state[13]
    found = 0
    for i in range(power.shape[0]):
        p, k = power[i], k0 + i
        is_gap = np.isnan(p)
        if is_gap:
            gap += 1
        if is_on:
            if is_gap:
                # Quiet for longer than a drum's rest when the gap began: its work had ended there.
                if gap == 1:
                    before_gap = quiet_from if 2 * quiet > need_grace and quiet > 0 else -1.0
                quiet, burst, calm = 0.0, 0.0, 0.0
                if gap >= need_gap:
                    is_known = before_gap >= 0
                    rows[found, 0], rows[found, 2] = start, k + 1
                    rows[found, 1] = before_gap if is_known else k - gap + 1
                    rows[found, 3] = cut + (0 if is_known else 2)
                    found += 1
                    is_on, run, energy, low = False, 0.0, 0.0, 0.0
            elif p > off_w + 1e-9:
                burst += (p - rest_w) * step_s
                calm = 0.0
                if quiet <= need_grace or burst >= tail_j:
                    quiet, burst = 0.0, 0.0
                else:
                    quiet += 1
            else:
                if quiet == 0:
                    quiet_from = k
                quiet, calm = quiet + 1, calm + 1
                if calm > need_grace:
                    burst = 0.0
            if is_on and quiet >= need_off:
                rows[found, 0], rows[found, 1], rows[found, 2] = start, quiet_from, k + 1
                rows[found, 3] = cut
                found += 1
                is_on, run, energy, low, quiet = False, 0.0, 0.0, 0.0, 0.0
                burst, calm = 0.0, 0.0
        elif (not is_gap) and p >= on_w - 1e-9:
            if run == 0:
                start, cut = k, 1.0 if after_gap > 0 else 0.0
            run, low = run + 1, 0.0
            energy += (p - rest_w) * step_s
            if run >= need_on and energy >= least_j:
                is_on, quiet, burst, calm = True, 0.0, 0.0, 0.0
        elif run > 0:
            low += 1
            # A lamp just before the work is no part of it.
            if low > need_grace or energy < LEAD_SHARE * least_j:
                run, energy, low = 0.0, 0.0, 0.0
        if is_gap:
            after_gap = 1.0
        else:
            gap, after_gap = 0.0, 0.0
    state[0], state[1], state[2], state[3], state[4], state[5] = k0 + power.shape[0], is_on, start, run, energy, low
    state[6], state[7], state[8], state[9], state[10], state[11] = quiet, quiet_from, burst, gap, cut, after_gap
    state[12], state[13] = calm, before_gap
    return found


def steps_of(seconds: float, step_s: float) -> int:
    """Return how many samples make up a waiting time, at least one."""
    return max(1, ceil(seconds / step_s - 1e-9))


class CycleDetector:
    """The state machine: give it samples as they come, it returns the cycles that end."""

    def __init__(self, setting: CycleSetting, step_s: float) -> None:
        self._step_s = step_s
        gap = setting.longest_gap_s
        self._numbers = np.array(
            [
                setting.on_w,
                setting.off_w,
                setting.rest_w,
                setting.least_j,
                setting.tail_j,
                steps_of(setting.dwell_on_s, step_s),
                steps_of(setting.wait_s, step_s),
                ceil(setting.grace_s / step_s - 1e-9),
                steps_of(gap, step_s) if gap < inf else 2**60,
            ],
            dtype=np.float64,
        )
        self._state = np.zeros(_STATE)
        self._state[_AFTER_GAP] = 1.0
        self._is_gap_told = gap < inf

    def push(self, power_w: Floats) -> list[DetectorEvent]:
        """Return the cycles that were told to have ended within some more samples, shape (step,) [W]."""
        rows = self.ended(power_w).tolist()
        return [DetectorEvent(start, end, told, cut in (1, 3), cut >= 2) for start, end, told, cut in rows]

    def ended(self, power_w: Floats) -> Ints:
        """Return what ``push`` does as numbers, shape (cycle, 4): start, end, told, 1 cut before + 2 cut after."""
        rows = np.zeros((power_w.size // 2 + 2, 4))
        found = _walk(np.ascontiguousarray(power_w, dtype=np.float64), self._step_s, self._numbers, self._state, rows)
        return rows[:found].astype(np.int64)

    def still_on(self) -> DetectorEvent | None:
        """Return the cycle that was not told to have ended, if there is one.

        Its end is known, though not told, where it has been quiet for longer than a drum's rest.
        """
        if not self._state[_IS_ON]:
            return None
        start, is_cut = int(self._state[_START]), bool(self._state[_CUT])
        grace = self._numbers[_NEED_GRACE]
        if self._is_gap_told and self._state[_QUIET] > 0.5 * grace:
            return DetectorEvent(start, int(self._state[_QUIET_FROM]), None, is_cut, False)
        return DetectorEvent(start, None, None, is_cut, True)


def cycles_in(power_w: Floats, step_s: float, setting: CycleSetting) -> list[DetectorEvent]:
    """Return the cycles of a whole log, shape (step,) [W]; the last may still run."""
    machine = CycleDetector(setting, step_s)
    ended = machine.push(power_w)
    running = machine.still_on()
    return [*ended, running] if running else ended
