"""Worked examples of envelopes and emitters (A1 to A6, C1 to C10, M)."""

from collections.abc import Callable

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.emitters.cycling import source_cycle, valve_in_steady_room
from warmeter.core.emitters.heating_curve import heating_curve_c, required_flow_c
from warmeter.core.emitters.lockshield_balance import drop_kpa, preset_kv, target_return, water_flow
from warmeter.core.emitters.radiator import WaterTemperatures, output_by_mean_w, output_w
from warmeter.core.emitters.split_unit import SplitRating, split_output
from warmeter.core.emitters.warm_floor import check_floor, flux_w_m2, surface_c
from warmeter.core.thermal.envelope import effective_air_change_1_h, infiltration_1_h, ventilation_loss_w


def a4(i: Case) -> Case:
    """Infiltration."""
    leaks = infiltration_1_h(n50_1_h=i["n50_1_h"], shield=i["shield_e"], height=i["height_eps"])
    change = effective_air_change_1_h(
        leaks, least_1_h=i["n_min_1_h"], mechanical_1_h=i["n_mech_1_h"], recovery=i["eta_recovery"]
    )
    return {"n_inf_1_h": leaks, "n_eff_1_h": change, "phi_V_W": ventilation_loss_w(change, i["volume_m3"], i["dT_K"])}


def c1(i: Case) -> Case:
    """Radiator."""
    at = WaterTemperatures(i["flow_C"], i["return_C"], i["room_C"])
    norm = WaterTemperatures(i["norm"]["flow_C"], i["norm"]["return_C"], i["norm"]["room_C"])
    return {
        "amtd_K": at.mean_excess_k,
        "lmtd_K": at.log_excess_k,
        "phi_arith_W": output_by_mean_w(i["phi_n_W"], at, exponent=i["exponent"], rated_at=norm),
        "phi_log_W": output_w(i["phi_n_W"], at, exponent=i["exponent"], rated_at=norm),
        "lmtd_norm_K": norm.log_excess_k,
    }


def c3(i: Case) -> Case:
    """Required flow."""
    flow, excess = required_flow_c(
        i["phi_n_W"], i["load_W"], room_c=i["room_C"], spread_k=i["spread_K"], exponent=i["exponent"]
    )
    return {"mean_excess_K": excess, "flow_C": flow, "return_C": flow - i["spread_K"]}


def c4(i: Case) -> Case:
    """Heating curve."""
    curve = heating_curve_c(
        i["phi_n_W"],
        np.array(i["theta_ext_C"], dtype=np.float64),
        loss_w_k=i["H_W_K"],
        room_c=i["room_C"],
        design_outdoor_c=i["theta_ext_design_C"],
        spread_k=i["spread_at_design_K"],
        limits_c=(i["flow_limits_C"][0], i["flow_limits_C"][1]),
        exponent=i["exponent"],
    )
    return {"flow_C": curve.tolist()}


def c5(i: Case) -> Case:
    """Floor."""
    flux = flux_w_m2(i["surface_C"], i["room_C"])
    return {"q_W_m2": flux, "surface_back_C": surface_c(flux, i["room_C"])}


def c6(i: Case) -> Case:
    """Floor limits."""
    found = check_floor(i["load_W"], area_m2=i["area_m2"], room_c=i["room_C"], zone=i["zone"])
    return {
        "q_W_m2": found.flux_w_m2,
        "surface_C": found.surface_c,
        "limit_C": found.limit_c,
        "q_max_W_m2": found.most_w_m2,
        "ok": found.is_within,
        "shortfall_W": found.shortfall_w,
    }


def c7(i: Case) -> Case:
    """Split unit."""
    rating = SplitRating(
        capacity_w=i["rated_capacity_W"],
        efficiency=i["rated_eff"],
        rated_outdoor_c=i["theta_rated_C"],
        capacity_slope_1_k=i["cap_slope_1_K"],
        efficiency_slope_1_k=i["eff_slope_1_K"],
        degradation=i["cd"],
    )
    got = split_output(rating, outdoor_c=i["theta_out_C"], load_w=i["load_W"])
    return {
        "capacity_W": got.capacity_w,
        "full_load_eff": got.full_load_efficiency,
        "plr": got.load_ratio,
        "plf": got.load_factor,
        "delivered_W": got.delivered_w,
        "power_W": got.power_w,
        "eff": got.efficiency,
        "unmet_W": got.unmet_w,
    }


def c9(i: Case) -> Case:
    """Cycling."""
    cycle = source_cycle(
        least_w=i["P_min_W"], load_w=i["load_W"], water_j_k=i["system_C_J_K"], hysteresis_k=i["hysteresis_K"]
    )
    if cycle is None:
        return {}
    return {
        "t_on_s": cycle.on_s,
        "t_off_s": cycle.off_s,
        "cycles_per_h": cycle.starts_1_h,
        "worst_cycles_per_h": cycle.worst_starts_1_h,
        "duty": cycle.duty,
    }


def c10(i: Case) -> Case:
    """Valve."""
    state = valve_in_steady_room(
        closes_c=i["theta_close_C"],
        band_k=i["p_band_K"],
        full_heat_w=i["phi_full_W"],
        loss_w_k=i["H_W_K"],
        outdoor_c=i["theta_ext_C"],
    )
    return {
        "theta_room_C": state.room_c,
        "opening": state.opening,
        "power_W": state.heat_w,
        "saturated": state.is_saturated,
    }


def m1(i: Case) -> Case:
    """Water flow."""
    mass, volume = water_flow(i["load_W"], flow_c=i["flow_C"], return_c=i["return_C"], density_kg_l=i["density_kg_L"])
    return {"mass_kg_s": mass, "volume_L_h": volume}


def m2(i: Case) -> Case:
    """Target return."""
    found = target_return(i["phi_n_W"], i["load_W"], flow_c=i["flow_C"], room_c=i["room_C"], exponent=i["exponent"])
    return {
        "feasible": found.return_c is not None,
        "return_C": found.return_c,
        "mass_kg_h": found.mass_kg_h,
        "max_W": found.most_w,
    }


def m3(i: Case) -> Case:
    """Pressure over a valve."""
    return {
        "dp_kPa": drop_kpa(i["flow_L_h"], i["kv_m3_h"]),
        "kv_for_available": preset_kv(i["flow_L_h"], i["available_kPa"]),
    }


def m4(i: Case) -> Case:
    """Presets of valves."""
    rooms = []
    for room in i["rooms"]:
        _, flow = water_flow(room["load_W"], flow_c=50.0, return_c=50.0 - i["spread_K"], density_kg_l=i["density_kg_L"])
        kv = preset_kv(flow, i["differential_kPa"] - room["pipe_loss_kPa"])
        rooms.append({"name": room["name"], "flow_L_h": flow, "kv": kv})
    return {"rooms": rooms}


METHODS: dict[str, Callable[[Case], Case]] = {
    "A4.infiltration": a4,
    "C1.radiator_output": c1,
    "C3.required_flow_temp": c3,
    "C4.heating_curve": c4,
    "C5.floor_surface": c5,
    "C6.floor_check": c6,
    "C7.split_unit": c7,
    "C9.boiler_cycling": c9,
    "C10.valve_p_band": c10,
    "M1.flow_rate": m1,
    "M2.target_return": m2,
    "M3.kv": m3,
    "M4.preset": m4,
}
