"""Ways to notice water that flows where it should not: at a point, by the flow, by the pressure at night."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats, true_runs
from warmeter.core.home.document import Home
from warmeter.core.home.water import WaterPoint
from warmeter.core.units import MIN_PER_DAY, S_PER_DAY, S_PER_H, S_PER_MIN
from warmeter.core.water.alarm_path import USUAL_SHUT_S, USUAL_TOLD_S, sensors_of, told_after
from warmeter.core.water.litres_until_shut import WaterFlow, litres
from warmeter.core.water.usual_points import flow_of

DetectionWay = Literal["point", "flow", "pressure"]
DRIP_L_MIN = 0.1
DRIP_L_DAY = DRIP_L_MIN * MIN_PER_DAY
# A pressure test at night comes half a day after a leak on average.
NIGHTLY_WAIT_S = 12 * S_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class WayLitres:
    """A way and a leak: the litres until it is shut by a motor valve, None where this way never notices it."""

    way: DetectionWay
    flow_l_min: float
    noticed_s: float | None
    litres: float | None


def detection_ways(home: Home, point: WaterPoint) -> tuple[WayLitres, ...]:
    """Return what each way makes of a burst at a point and of a drip there of 0.1 L/min.

    Notes
    -----
    docs/methods Q4. A drip wets a sensor when as much has run out as a burst brings there. A flow sensor tells after its
    minutes without a pause, of what is at least its least flow; a pressure test at night after half a day on average.
    """
    return tuple(
        _one(home, point, way, flow) for flow in (flow_of(point), DRIP_L_MIN) for way in ("point", "flow", "pressure")
    )


def _one(home: Home, point: WaterPoint, way: DetectionWay, flow_l_min: float) -> WayLitres:
    practice, noticed = home.water_practice, None
    sensors = sensors_of(home, point)
    if way == "point" and sensors:
        until_wet = sensors[0].wet.s * flow_of(point) / flow_l_min
        noticed = until_wet + told_after(home, sensors[0].device).s
    elif way == "flow" and flow_l_min >= practice.flow_least_l_min:
        noticed = practice.flow_min * S_PER_MIN + USUAL_TOLD_S
    elif way == "pressure" and flow_l_min >= practice.pressure_least_l_min:
        noticed = NIGHTLY_WAIT_S + USUAL_TOLD_S
    flows = WaterFlow(flow_l_min=flow_l_min)
    return WayLitres(
        way=way,
        flow_l_min=flow_l_min,
        noticed_s=noticed,
        litres=None if noticed is None else litres(flows, noticed, USUAL_SHUT_S),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class FalseAlarms:
    """What a flow sensor would have told of usual use: times on the log and a year, and the longest use [min]."""

    count: int
    per_year: float
    longest_min: float
    days: float


def flow_false_alarms(flow_l_min: Floats, step_s: float, *, least_l_min: float, after_min: float) -> FalseAlarms | None:
    """Return how often usual use would have been told as a leak on a meter's log; None where nothing was heard.

    Parameters
    ----------
    flow_l_min : (step,) float array
        Mean flow of each step, NaN where not heard; a gap ends a run [L/min].
    step_s : float
        Length of a step [s].
    """
    heard = np.isfinite(flow_l_min)
    if not heard.any():
        return None
    runs = _runs_min(flow_l_min >= least_l_min, step_s)
    days = float(heard.sum()) * step_s / S_PER_DAY
    count = sum(run >= after_min for run in runs)
    return FalseAlarms(count=count, per_year=count * 365 / days, longest_min=max(runs, default=0.0), days=days)


def _runs_min(flows: Sequence[bool] | np.ndarray, step_s: float) -> list[float]:
    """Return how long each run of flow lasted [min]."""
    runs = zip(*true_runs(np.asarray(flows, dtype=bool)), strict=True)
    return [float(end - begin) * step_s / S_PER_MIN for begin, end in runs]
