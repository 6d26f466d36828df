"""A room through a season under its timetable, each rise warmed up in time: one compiled pass at five-minute steps."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Floats, Ints
from warmeter.core.thermal.network import ExactStep
from warmeter.core.thermal.proportional import full_heat_reach_c
from warmeter.core.thermal.simulate import NODES, OnOff, _controlled, _steps_to_target
from warmeter.core.warmup.dangers import MARGIN_K

STEP_MIN = 5
CAP_STEPS = 720 // STEP_MIN


@dataclass(frozen=True, slots=True, kw_only=True)
class SeasonBoundary:
    """What acts on one room at five-minute steps.

    Parameters
    ----------
    outdoor_c : (step + 1,) float array
        Outdoor temperature [°C].
    gain_w : (step,) float array
        Sun and people [W].
    asked_c : (step,) float array
        What the timetable asks, guarded, without warm-ups [°C].
    start_c : (node,) float array
        First state [°C].
    beside_c : (step,) float array or None
        Rooms beside [°C]; None where it is taken alone.
    """

    outdoor_c: Floats
    gain_w: Floats
    asked_c: Floats
    start_c: Floats
    beside_c: Floats | None = None

    @property
    def rises(self) -> Ints:
        """Steps at which more is asked than before."""
        found: Ints = np.flatnonzero(np.diff(self.asked_c) > 1e-9) + 1
        return found


@dataclass(frozen=True, slots=True, kw_only=True)
class SeasonRun:
    """What happened, by step; ``late_min`` is how late the room was ready at each rise, NaN beyond a day [min].

    Parameters
    ----------
    air_c : (step,) float array
        Air at the beginning of each step [°C].
    heat_w : (step,) float array
        Heat [W].
    leads_min : (rise,) float array
        Warm-up before each rise; NaN where 12 h are too late [min].
    """

    air_c: Floats
    heat_w: Floats
    leads_min: Floats
    late_min: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class SeasonLow:
    """A season's coldest air in a room [°C] and its step; the day on which its heater falls short most.

    ``small_day`` is None where full heat for ever would hold each day's most asked at that day's mean outdoors;
    else ``reach_c`` is what it would hold, of ``wanted_c`` asked, at ``small_outdoor_c``.
    """

    lowest_c: float
    step: int
    small_day: int | None
    wanted_c: float
    reach_c: float
    small_outdoor_c: float


@njit(cache=True, nogil=True)
def _latest_start(  # type: ignore[no-untyped-def]
    state, now, then, states, outdoor, gain, beside, full_w, target, earliest, due
):
    """Return the latest step from which full heat reaches the target by ``due``, -1 where none does."""
    scratch = np.empty(3)
    low, high = earliest, due
    middle = earliest
    while True:
        needed = _steps_to_target(
            state, now, then, states[middle], outdoor, gain, beside, full_w, target, middle, due, scratch
        )
        if needed >= 0:
            low = middle
        elif middle == earliest:
            return -1
        else:
            high = middle
        if high - low <= 1:
            return low
        middle = (low + high) // 2


@njit(cache=True, nogil=True)
def _season(  # type: ignore[no-untyped-def]
    state, now, then, outdoor, gain, beside, asked, rises, full_w, band, min_on, min_off, cap, states, heat, leads
):
    limit = np.full(asked.size, np.inf)
    fresh = 0
    for r in range(rises.size + 1):
        due = rises[r] if r < rises.size else asked.size
        _controlled(
            state,
            now,
            then,
            outdoor,
            gain,
            beside,
            asked,
            limit,
            full_w,
            0.0,
            band,
            min_on,
            min_off,
            fresh,
            due,
            states,
            heat,
        )
        fresh = due
        if r == rises.size:
            break
        leads[r] = 0.0
        target = asked[due] - 0.5 * band
        if states[0, due, 0] >= target:
            continue
        earliest = max(0, due - cap)
        start = _latest_start(
            state[0], now[0], then[0], states[0], outdoor[0], gain[0], beside, full_w, target, earliest, due
        )
        leads[r] = np.nan if start < 0 else due - start
        start = max(start, earliest)
        for k in range(start, due):
            asked[k] = max(asked[k], asked[due])
        # The next stretch runs from there again, with the warm-up in it.
        fresh = start


def season_run(step: ExactStep, boundary: SeasonBoundary, control: OnOff) -> SeasonRun:
    """Simulate one room through a season under on/off control.

    Parameters
    ----------
    step : Step
        Compiled at 300 s; only its first draw is used.

    Notes
    -----
    Before each rise the latest start of full heat that brings the air to the lower end of the band in time is found
    by bisection on the run so far, at most 12 h; the weather to come is known, as on the day's strip.
    """
    steps = boundary.asked_c.size
    states, heat = np.empty((1, steps + 1, NODES)), np.zeros((1, steps))
    states[0, 0] = boundary.start_c
    rises = boundary.rises
    leads, asked = np.zeros(rises.size), boundary.asked_c.copy()
    _season(
        np.ascontiguousarray(step.state[:1]),
        np.ascontiguousarray(step.now[:1]),
        np.ascontiguousarray(step.then[:1]),
        boundary.outdoor_c[None, :],
        boundary.gain_w[None, :],
        np.zeros(steps) if boundary.beside_c is None else boundary.beside_c,
        asked,
        rises,
        control.full_heat_w,
        control.band_k,
        control.min_on_steps,
        control.min_off_steps,
        CAP_STEPS,
        states,
        heat,
        leads,
    )
    air = states[0, :, 0]
    return SeasonRun(
        air_c=air[:-1],
        heat_w=heat[0],
        leads_min=leads * STEP_MIN,
        late_min=_lateness(air, boundary.asked_c, rises, control.band_k),
    )


def season_low(step: ExactStep, boundary: SeasonBoundary, control: OnOff, run: SeasonRun, day: Ints) -> SeasonLow:
    """Return how cold a room gets in a season, and whether its heater is too small for a day of it.

    ``step`` has one draw; ``day`` gives each step's day, below 0 before the season counts.
    """
    counted = np.flatnonzero(day >= 0)
    at = int(counted[np.argmin(run.air_c[counted])])
    days = int(day.max()) + 1
    steps = np.bincount(day[counted], minlength=days)
    outdoor = np.bincount(day[counted], weights=boundary.outdoor_c[counted], minlength=days) / steps
    gain = np.bincount(day[counted], weights=boundary.gain_w[counted], minlength=days) / steps
    wanted = np.full(days, -np.inf)
    np.maximum.at(wanted, day[counted], boundary.asked_c[counted])
    full_w, held = (
        control.full_heat_w,
        np.zeros(boundary.asked_c.size) if boundary.beside_c is None else boundary.beside_c,
    )
    beside = np.bincount(day[counted], weights=held[counted], minlength=days) / steps
    reach = np.array(
        [
            full_heat_reach_c(
                step,
                outdoor_c=outdoor[d : d + 1],
                gain_w=gain[d : d + 1],
                full_heat_w=full_w,
                beside_c=float(beside[d]),
            )[0]
            for d in range(days)
        ]
    )
    lacking = wanted - control.band_k / 2 - MARGIN_K - reach
    worst = int(lacking.argmax())
    return SeasonLow(
        lowest_c=float(run.air_c[at]),
        step=at,
        small_day=worst if lacking[worst] > 0 else None,
        wanted_c=float(wanted[worst]),
        reach_c=float(reach[worst]),
        small_outdoor_c=float(outdoor[worst]),
    )


def _lateness(air_c: Floats, asked_c: Floats, rises: Ints, band_k: float) -> Floats:
    """Return how long after each rise the air first comes into the band [min]; NaN if not within a day."""
    found = np.zeros(rises.size)
    for k, rise in enumerate(rises.tolist()):
        ahead = air_c[rise : rise + 288] >= asked_c[rise] - band_k / 2 - 1e-9
        found[k] = float(ahead.argmax()) * STEP_MIN if ahead.any() else np.nan
    return found


def starts_of(heat_w: Floats) -> int:
    """Return how often a source begins to give heat; ``heat_w`` of all its heaters together, shape (step,) [W]."""
    fires = heat_w > 1e-9
    return int((fires[1:] & ~fires[:-1]).sum() + int(fires[0]))
