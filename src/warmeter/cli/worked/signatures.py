"""Worked examples of power signatures (H)."""

from collections.abc import Callable
from typing import Any

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.signature.change_points import partition
from warmeter.core.signature.cycles import cycle_features
from warmeter.core.signature.detector import OnOffSetting, on_off_events
from warmeter.core.signature.metrics import match_events, power_error
from warmeter.core.signature.odd import robust_z
from warmeter.core.signature.standby import standby_of
from warmeter.core.signature.states import mixture_levels, split_levels
from warmeter.core.signature.thresholds import tune_threshold


def _floats(values: list[float | None]) -> np.ndarray[Any, np.dtype[np.float64]]:
    return np.array([np.nan if v is None else v for v in values], dtype=np.float64)


def h1(i: Case) -> Case:
    """Standby."""
    s = standby_of(np.array(i["power_W"], float), quantile=i["quantile"], bin_w=i["bin_W"])
    return {"standby_quantile_W": s.quantile_w, "standby_mode_W": s.mode_w, "annual_kWh_from_mode": s.annual_kwh}


def h2(i: Case) -> Case:
    """On/off events."""
    setting = OnOffSetting(
        on_w=i["p_on_W"], off_w=i["p_off_W"], dwell_on_s=i["dwell_on_s"], dwell_off_s=i["dwell_off_s"]
    )
    step = i["step_s"]
    events = on_off_events(_floats(i["power_W"]), step, setting)
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


def h5(i: Case) -> Case:
    """Levels, how many."""
    mixture = mixture_levels(np.array(i["power_W"], float), i["k_max"], i["variance_floor_W2"])
    return {"k": mixture.means.size, "means_W": mixture.means.tolist()}


def h6(i: Case) -> Case:
    """Change points."""
    parts = partition(np.array(i["power_W"], float), i["penalty"], shortest=i.get("min_length", 1))
    return {"breaks": parts.breaks.tolist(), "cost": parts.cost, "levels_W": parts.levels.tolist()}


def h8(i: Case) -> Case:
    """Odd cycles."""
    odd = robust_z(np.array(i["history"], float), np.array(i["new"], float), i["limit"])
    z = [None if np.isnan(v) else float(v) for v in odd.z]
    return {"median": odd.median, "mad": odd.mad, "z": z, "anomaly": odd.is_odd}


def h10(i: Case) -> Case:
    """Event metrics."""
    m = match_events(i["truth_s"], i["detected_s"], i["tolerance_s"])
    return {
        "tp": m.true_positives,
        "fp": m.false_positives,
        "fn": m.false_negatives,
        "precision": m.precision,
        "recall": m.recall,
        "f1": m.f1,
        "mean_abs_error_s": m.mean_abs_error_s,
    }


def h11(i: Case) -> Case:
    """Power metrics."""
    e = power_error(np.array(i["truth_W"], float), np.array(i["estimate_W"], float))
    return {"mae_W": e.mae_w, "rmse_W": e.rmse_w, "relative_energy_error": e.relative_energy, "nde": e.nde}


def h12(i: Case) -> Case:
    """Threshold tuning."""
    t = tune_threshold(np.array(i["power_W"], float), np.array(i["label"]) == 1, i["grid_W"])
    return {"f1": list(t.f1), "best_f1": t.best_f1, "plateau": list(t.plateau_w), "threshold_W": t.threshold_w}


METHODS: dict[str, Callable[[Case], Case]] = {
    "H1.standby": h1,
    "H2.on_off_events": h2,
    "H3.cycle_features": h3,
    "H4.kmeans_1d": h4,
    "H5.mixture_bic": h5,
    "H6.phases": h6,
    "H8.robust_z": h8,
    "H10.event_metrics": h10,
    "H11.energy_metrics": h11,
    "H12.threshold_tuning": h12,
}
