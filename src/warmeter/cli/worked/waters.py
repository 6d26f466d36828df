"""Worked examples of circuits and water (L)."""

from collections.abc import Callable

from warmeter.cli.worked import Case
from warmeter.core.electric.circuit_load import circuit_load
from warmeter.core.electric.floor_mats import floor_thermostats, relay_modules
from warmeter.core.units import J_PER_KWH
from warmeter.core.water.moist_air import condensate, evaporation
from warmeter.core.water.pipe_freeze import Pipe
from warmeter.core.water.store import WarmWater


def l1(i: Case) -> Case:
    """Load of a circuit."""
    found = circuit_load(
        i["loads_W"],
        voltage_v=i["voltage_V"],
        rating_a=i["breaker_A"],
        continuous_factor=i["continuous_factor"],
        phases=i["phases"],
        power_factor=i["power_factor"],
    )
    return {"current_A": found.current_a, "limit_A": found.limit_a, "ok": found.is_within, "spare_W": found.spare_w}


def l2(i: Case) -> Case:
    """Thermostats of a floor."""
    found = floor_thermostats(
        i["heated_area_m2"] * i["density_W_m2"],
        control_a=i["thermostat_max_A"],
        voltage_v=i["voltage_V"],
        use_factor=i["use_factor"],
    )
    return {
        "power_W": found.power_w,
        "current_A": found.current_a,
        "per_thermostat_W": found.per_thermostat_w,
        "zones": found.count,
    }


def l3(i: Case) -> Case:
    """Relay modules."""
    found = relay_modules(
        i["loads_W"],
        channels_per_module=i["channels_per_module"],
        channel_max_a=i["channel_max_A"],
        voltage_v=i["voltage_V"],
    )
    return {"channels": found.channels, "modules": found.modules, "over_channel": list(found.over_channel)}


def _store(i: Case) -> WarmWater:
    return WarmWater(
        volume_l=i["volume_L"], density_kg_l=i["density_kg_L"], specific_j_kg_k=i["c_J_kgK"], loss_w_k=i["UA_W_K"]
    )


def _time_s(i: Case) -> float | None:
    return _store(i).heat_up_s(
        start_c=i["theta0_C"], target_c=i["theta_target_C"], power_w=i["power_W"], ambient_c=i["ambient_C"]
    )


def l4(i: Case) -> Case:
    """Hot water."""
    time = _time_s(i)
    return {
        "useful_kWh": _store(i).useful_kwh(i["theta0_C"], i["theta_target_C"]),
        "time_s": time,
        "input_kWh": None if time is None else i["power_W"] * time / J_PER_KWH,
    }


def l5(i: Case) -> Case:
    """Tub heat-up."""
    standing, time = _store(i).standing_w(i["theta_target_C"], i["ambient_C"]), _time_s(i)
    return {
        "reachable": time is not None,
        "time_s": time,
        "standing_loss_W": standing,
        "standing_kWh_day": standing * 0.024,
    }


def l6(i: Case) -> Case:
    """Evaporation."""
    found = evaporation(
        area_m2=i["area_m2"],
        water_c=i["water_C"],
        air_c=i["air_C"],
        humidity_pct=i["rh_pct"],
        air_m_s=i["air_speed_m_s"],
        activity=i["activity_factor"],
    )
    return {
        "pw_kPa": found.water_kpa,
        "pa_kPa": found.air_kpa,
        "latent_kJ_kg": found.latent_kj_kg,
        "evaporation_kg_h": found.water_kg_h,
        "loss_W": found.loss_w,
    }


def l7(i: Case) -> Case:
    """Freezing pipe."""
    pipe = Pipe(
        outer_m=i["outer_d_m"],
        inner_m=i["inner_d_m"],
        insulation_m=i["insulation_m"],
        lambda_w_mk=i["lambda_W_mK"],
        air_w_m2k=i["h_out_W_m2K"],
        water_j_m3k=i["rho_c_water_J_m3K"],
        metal_j_m3k=i["rho_c_metal_J_m3K"],
    )
    return {
        "R_K_m_W": pipe.resistance_k_m_w,
        "C_J_mK": pipe.heat_capacity_j_mk,
        "t_to_zero_s": pipe.freezes_after_s(i["theta0_C"], i["theta_ext_C"]),
        "hold_5C_W_m": pipe.held_w_m(i["theta_ext_C"]),
    }


def l8(i: Case) -> Case:
    """Condensate."""
    found = condensate(
        room_c=i["room_C"],
        room_pct=i["room_rh_pct"],
        out_c=i["coil_out_C"],
        out_pct=i["coil_out_rh_pct"],
        flow_m3_h=i["airflow_m3_h"],
        pressure_pa=i["pressure_Pa"],
    )
    return {"w_room_g_kg": found.room_g_kg, "w_out_g_kg": found.out_g_kg, "condensate_kg_h": found.water_kg_h}


METHODS: dict[str, Callable[[Case], Case]] = {
    "L1.circuit_load": l1,
    "L2.floor_cable_zones": l2,
    "L3.relay_modules": l3,
    "L4.hot_water": l4,
    "L5.tub_heat_up": l5,
    "L6.evaporation": l6,
    "L7.pipe_freeze": l7,
    "L8.condensate": l8,
}
