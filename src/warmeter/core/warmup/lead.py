"""When heating must start: closed form (E1, E5) and simulation with a range."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import exp

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.thermal.network import ExactStep
from warmeter.core.thermal.proportional import full_heat_reach_c
from warmeter.core.thermal.simulate import BoundaryConditions, OnOff, Run, controlled_run, latest_starts
from warmeter.core.thermal.single_rc import SingleRc
from warmeter.core.units import MIN_PER_DAY

CAP_MIN = 720  # a lead time at its cap is "too late", never an answer
CAUTIOUS_QUANTILE = 0.8


def lead_table_s(
    room: SingleRc,
    *,
    power_w: float,
    target_c: float,
    start_c: float,
    outdoor_c: Sequence[float],
    max_lead_s: float | None = None,
) -> list[float | None]:
    """Return the single-store lead time for each outdoor temperature [s].

    None where the steady temperature does not pass the target, else 0 where the room is warm
    already, else capped at ``max_lead_s``.

    References
    ----------
    docs/methods E1, from the closed form B1.
    """
    leads: list[float | None] = []
    for outside in outdoor_c:
        if room.steady_c(power_w=power_w, outdoor_c=outside) <= target_c:
            leads.append(None)
            continue
        lead = (
            0.0
            if start_c >= target_c
            else room.time_to_s(start_c=start_c, target_c=target_c, power_w=power_w, outdoor_c=outside)
        )
        leads.append(lead if lead is None or max_lead_s is None else min(lead, max_lead_s))
    return leads


@dataclass(frozen=True, slots=True, kw_only=True)
class RecoveryLimit:
    """How far a room may fall and still recover in time (docs/methods E5).

    Parameters
    ----------
    lowest_start_c : float
        Lowest start temperature [°C].
    max_drop_k : float
        Setpoint less that start [K].
    outdoor_limit_c : float
        Below this outdoor temperature the setpoint is out of reach: hold, do not set back [°C].
    """

    lowest_start_c: float
    max_drop_k: float
    outdoor_limit_c: float


def recovery_limit(
    room: SingleRc, *, power_w: float, target_c: float, outdoor_c: float, max_lead_s: float
) -> RecoveryLimit:
    """Return how far the room may fall for a longest lead."""
    steady = room.steady_c(power_w=power_w, outdoor_c=outdoor_c)
    lowest = steady - (steady - target_c) * exp(max_lead_s / room.time_constant_s)
    return RecoveryLimit(
        lowest_start_c=lowest, max_drop_k=target_c - lowest, outdoor_limit_c=target_c - power_w * room.resistance_k_w
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Lead:
    """A lead time with its range [min]; None is too late.

    Parameters
    ----------
    best : float or None
        Of the best estimate.
    low, high : float or None
        95 % range; ``high`` is None where the slowest draws are too late.
    cautious : float or None
        What four of five draws keep.
    late_share : float
        Share of draws for which even the earliest start is too late.
    reach_c : float or None
        Where the best estimate is too late because the heater is too small: what its full heat would hold for ever
        in that weather [°C]. None where a longer start would do, or is not needed.
    """

    best: float | None
    low: float | None
    high: float | None
    cautious: float | None
    late_share: float
    reach_c: float | None = None


def measure_first(lead: Lead, gap_min: float) -> bool:
    """Return whether a lead is too little known for a start to be set by it.

    Parameters
    ----------
    gap_min : float
        Length of the gap that the start ends, from the block before to the block that is to be warm [min].

    Notes
    -----
    A range that reaches "too late", or is longer than the gap itself, holds no setting.
    """
    if lead.best is None:
        return False
    return lead.high is None or lead.low is None or lead.high - lead.low > gap_min


def lead_of_draws(steps: Floats, step_min: float = 1.0) -> Lead:
    """Return best and range of leads per draw; the first draw is the best estimate, NaN is too late."""
    minutes = np.where(np.isnan(steps), np.inf, steps) * step_min

    def at(share: float) -> float | None:
        value = float(np.quantile(minutes, share, method="higher"))
        return value if np.isfinite(value) else None

    best = float(minutes[0])
    # Half a minute of rounding stands on both sides of any simulated lead.
    return Lead(
        best=best if np.isfinite(best) else None,
        low=at(0.025),
        high=at(0.975),
        cautious=at(CAUTIOUS_QUANTILE),
        late_share=float(np.isinf(minutes).mean()),
    )


def simulated_lead(
    step: ExactStep,
    boundary: BoundaryConditions,
    run: Run,
    control: OnOff,
    *,
    target_c: float,
    due: int,
    not_before: int = 0,
) -> Lead:
    """Return the lead time to a target at step ``due`` of a run of one-minute steps.

    Parameters
    ----------
    run : Run
        The stretch without this warm-up.
    not_before : int
        First step at which heating may start; the cap of 12 h holds besides.
    """
    lead = lead_of_draws(
        latest_starts(
            step,
            boundary,
            run,
            full_heat_w=control.full_heat_w,
            target_c=target_c,
            due=due,
            earliest=max(not_before, due - CAP_MIN, 0),
        )
    )
    return with_reach(lead, step, boundary, control.full_heat_w, target_c=target_c, due=due)


def with_reach(
    lead: Lead, step: ExactStep, boundary: BoundaryConditions, full_heat_w: float, *, target_c: float, due: int
) -> Lead:
    """Return a lead that is too late with what the heater would hold for ever, if that is under the target.

    Outdoors and gains are the means of the 12 h before step ``due``.
    """
    if lead.best is not None:
        return lead
    before = slice(max(0, due - CAP_MIN), due)
    outdoor, gain = boundary.outdoor_c[:, before].mean(axis=1), boundary.gain_w[:, before].mean(axis=1)
    beside = float(boundary.beside[before].mean())
    reach = float(full_heat_reach_c(step, outdoor_c=outdoor, gain_w=gain, full_heat_w=full_heat_w, beside_c=beside)[0])
    return replace(lead, reach_c=reach) if reach < target_c else lead


def lead_from_floor(
    step: ExactStep,
    control: OnOff,
    *,
    floor_c: float,
    target_c: float,
    outdoor_c: float,
    gain_w: Floats,
    hours_of_fall: float,
) -> Lead:
    """Return the lead after so many hours of setback from ``target_c`` at a steady outdoor temperature.

    For tables by outdoor temperature. ``gain_w`` has shape (draw,).
    """
    fall = round(hours_of_fall * 60)
    draws = step.state.shape[0]
    before = 5 * MIN_PER_DAY
    setpoint = np.concatenate([np.full(before, target_c), np.full(fall, floor_c)])
    boundary = BoundaryConditions(
        outdoor_c=np.full((draws, setpoint.size + 1), outdoor_c),
        gain_w=np.repeat(gain_w[:, None], setpoint.size, axis=1),
        setpoint_c=setpoint,
        start_c=np.full((draws, 3), target_c),
    )
    run = controlled_run(step, boundary, control)
    return simulated_lead(step, boundary, run, control, target_c=target_c, due=setpoint.size, not_before=before)
