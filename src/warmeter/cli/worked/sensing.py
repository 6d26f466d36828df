"""Worked examples of sensors and damp air (D)."""

from collections.abc import Callable

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.sensing.calibration import SensorValue, calibrate, counted
from warmeter.core.sensing.drift import drift_of
from warmeter.core.sensing.health import HealthLimits, sensor_health
from warmeter.core.sensing.humidity import absolute_g_m3, check_mould, dew_points_c, saturation_pa
from warmeter.core.sensing.thermistor import by_beta, steinhart_hart
from warmeter.core.truth.track import Track, moving
from warmeter.core.truth.truth import TRUE
from warmeter.core.units import celsius_to, kelvin_to

_MS = 1000


def d1(i: Case) -> Case:
    """Calibration."""
    line = calibrate([(p["raw_C"], p["true_C"]) for p in i["points"]])
    return {"gain": line.gain, "offset_C": line.offset, "value_C": line.gain * i["raw_C"] + line.offset}


def d2(i: Case) -> Case:
    """Average."""
    sensors = [
        SensorValue(value=s["value_C"], age_s=s["age_s"], weight=s["weight"], is_occupied=s["occupied"])
        for s in i["sensors"]
    ]
    value, used = counted(sensors, "mean" if i["mode"] == "plain" else i["mode"], max_age_s=i["max_age_s"])
    return {"value_C": value, "used": used}


def d5(i: Case) -> Case:
    """Fahrenheit."""
    convert = celsius_to if i["kind"] == "absolute" else kelvin_to
    return {"value_F": convert(i["value_C_or_K"], "F")}


def d6(i: Case) -> Case:
    """Damp air."""
    celsius, rh = np.array([i["theta_C"]], dtype=float), np.array([i["rh_pct"] / 100])
    full = float(saturation_pa(celsius)[0])
    return {
        "psat_Pa": full,
        "p_Pa": float(rh[0]) * full,
        "dew_point_C": float(dew_points_c(celsius, rh)[0]),
        "abs_humidity_g_m3": float(absolute_g_m3(celsius, rh)[0]),
    }


def d7(i: Case) -> Case:
    """The same air elsewhere."""
    here, elsewhere = saturation_pa(np.array([i["theta_C"], i["theta2_C"]], dtype=float)).tolist()
    there = i["rh_pct"] * here / elsewhere
    return {"rh2_pct": there, "condenses": there > 100}


def d8(i: Case) -> Case:
    """Mould."""
    found = check_mould(
        indoor_c=i["theta_int_C"],
        outdoor_c=i["theta_ext_C"],
        rh=i["rh_int_pct"] / 100,
        u_w_m2k=i["U_W_m2K"],
        factor=i["f_rsi"],
        rsi_m2k_w=i["rsi_m2K_W"],
    )
    return {
        "f_rsi": found.factor,
        "theta_si_C": found.surface_c,
        "surface_rh_pct": 100 * found.surface_rh,
        "theta_si_min_C": found.least_surface_c,
        "f_rsi_min": found.least_factor,
        "risk": found.is_at_risk,
    }


def d9(i: Case) -> Case:
    """An open window by the fall of temperature."""
    track = Track(np.array(i["t_s"], dtype=np.int64) * _MS, np.array(i["theta_C"], dtype=float))
    truth = moving(
        track,
        by=i["drop_K"],
        within_ms=i["window_s"] * _MS,
        is_rising=False,
        start_ms=int(track.at_ms[0]),
        end_ms=int(track.at_ms[-1]) + 1,
    )
    begins = truth.stretches(TRUE)[0]
    if not begins.size:
        return {"detected": False, "t_detect_s": None, "drop_K": None}
    at = int(begins[0])
    near = (track.at_ms >= at - i["window_s"] * _MS) & (track.at_ms <= at)
    fall = float(track.value[near].max() - track.value[track.at_ms == at][0])
    return {"detected": True, "t_detect_s": at / _MS, "drop_K": fall}


def d3(i: Case) -> Case:
    """Thermistor by its beta."""
    curve = by_beta(i["R0_ohm"], i["beta_K"], i["T0_C"])
    return {"theta_C": float(curve.celsius(np.array([i["R_ohm"]], dtype=np.float64))[0])}


def d4(i: Case) -> Case:
    """Thermistor by three points."""
    curve = steinhart_hart([(p["theta_C"], p["R_ohm"]) for p in i["points"]])
    read = float(curve.celsius(np.array([i["R_ohm"]], dtype=np.float64))[0])
    return {"A": curve.a, "B": curve.b, "C": curve.c, "theta_C": read}


def d10(i: Case) -> Case:
    """Drift."""
    found = drift_of(i["day"], i["diff_K"])
    return {
        "slope_K_day": found.slope_per_day,
        "per_30d_K": found.per_30_days,
        "drifting": found.exceeds(i["limit_K_per_30d"]),
    }


def d11(i: Case) -> Case:
    """Health of a sensor."""
    low, high = i["range_C"]
    limits = HealthLimits(
        stale_s=i["stale_after_s"],
        stuck_window_s=i["stuck_window_s"],
        stuck_span_s=i["stuck_min_span_s"],
        stuck_samples=i["stuck_min_samples"],
        stuck_range_k=i["stuck_range_K"],
        jump_k_min=i["jump_K_per_min"],
        low_c=low,
        high_c=high,
    )
    at, value = (np.array([s[key] for s in i["samples"]], dtype=np.float64) for key in ("t_s", "value_C"))
    return {"flags": list(sensor_health(at, value, now_s=i["now_s"], limits=limits))}


METHODS: dict[str, Callable[[Case], Case]] = {
    "D1.calibration": d1,
    "D2.sensor_average": d2,
    "D3.thermistor_beta": d3,
    "D4.steinhart_hart": d4,
    "D5.unit_F": d5,
    "D6.humidity": d6,
    "D7.rh_at_other_temp": d7,
    "D8.mould_fRsi": d8,
    "D9.open_window": d9,
    "D10.drift_theil_sen": d10,
    "D11.sensor_health": d11,
}
