"""Worked examples of sensors and damp air (D)."""

from collections.abc import Callable

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.sensing.calibration import SensorValue, calibrate, counted
from warmeter.core.sensing.humidity import check_mould, damp_air, rh_at
from warmeter.core.sensing.open_window import open_window
from warmeter.core.units import celsius_to, kelvin_to


def d1(i: Case) -> Case:
    """Calibration."""
    line = calibrate([(p["raw_C"], p["true_C"]) for p in i["points"]])
    return {"gain": line.gain, "offset_C": line.offset, "value_C": line.value(i["raw_C"])}


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
    damp = damp_air(i["theta_C"], i["rh_pct"] / 100)
    return {
        "psat_Pa": damp.saturation_pa,
        "p_Pa": damp.vapour_pa,
        "dew_point_C": damp.dew_point_c,
        "abs_humidity_g_m3": damp.absolute_g_m3,
    }


def d7(i: Case) -> Case:
    """The same air elsewhere."""
    there = 100 * rh_at(i["theta_C"], i["rh_pct"] / 100, i["theta2_C"])
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
    times, values = np.array(i["t_s"], dtype=float), np.array(i["theta_C"], dtype=float)
    found = open_window(times, values, window_s=i["window_s"], drop_k=i["drop_K"])
    return {"detected": found.at_s is not None, "t_detect_s": found.at_s, "drop_K": found.drop_k}


METHODS: dict[str, Callable[[Case], Case]] = {
    "D1.calibration": d1,
    "D2.sensor_average": d2,
    "D5.unit_F": d5,
    "D6.humidity": d6,
    "D7.rh_at_other_temp": d7,
    "D8.mould_fRsi": d8,
    "D9.open_window": d9,
}
