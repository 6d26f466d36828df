"""Worked examples of power signatures (H)."""

from collections.abc import Callable
from typing import Any

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.signature.change_points import partition
from warmeter.core.signature.cycles import cycle_features
from warmeter.core.signature.detector import CycleSetting, cycles_in
from warmeter.core.signature.states import split_levels


def _floats(values: list[float | None]) -> np.ndarray[Any, np.dtype[np.float64]]:
    return np.array([np.nan if v is None else v for v in values], dtype=np.float64)


def h2(i: Case) -> Case:
    """On/off events."""
    setting = CycleSetting(on_w=i["p_on_W"], off_w=i["p_off_W"], dwell_on_s=i["dwell_on_s"], wait_s=i["dwell_off_s"])
    step = i["step_s"]
    events = cycles_in(_floats(i["power_W"]), step, setting)
    return {"events": [{"start_s": e.start * step, "end_s": None if e.end is None else e.end * step} for e in events]}


def h3(i: Case) -> Case:
    """Cycle features."""
    f = cycle_features(_floats(i["power_W"]), i["step_s"], i["high_W"])
    return {
        "energy_kWh": f.energy_kwh,
        "duration_s": f.duration_s,
        "mean_W": f.mean_w,
        "peak_W": f.peak_w,
        "time_above_high_s": f.time_above_high_s,
        "load_factor": f.load_factor,
        "starts_above_high": f.starts_above_high,
    }


def h4(i: Case) -> Case:
    """Levels, exact."""
    levels = split_levels(np.array(i["power_W"], float), i["k"])
    return {"centres_W": levels.centres.tolist(), "counts": levels.counts.tolist(), "sse": levels.sse}


def h6(i: Case) -> Case:
    """Change points."""
    parts = partition(np.array(i["power_W"], float), i["penalty"], shortest=i.get("min_length", 1))
    return {"breaks": parts.breaks.tolist(), "cost": parts.cost, "levels_W": parts.levels.tolist()}


METHODS: dict[str, Callable[[Case], Case]] = {
    "H2.on_off_events": h2,
    "H3.cycle_features": h3,
    "H4.kmeans_1d": h4,
    "H6.phases": h6,
}
