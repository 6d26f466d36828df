"""Worked examples of circuits and water (L)."""

from collections.abc import Callable

from warmeter.cli.worked import Case
from warmeter.core.electric.circuit_load import circuit_load
from warmeter.core.electric.floor_mats import floor_thermostats, relay_modules
from warmeter.core.units import J_PER_KWH
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


METHODS: dict[str, Callable[[Case], Case]] = {
    "L1.circuit_load": l1,
    "L2.floor_cable_zones": l2,
    "L3.relay_modules": l3,
    "L4.hot_water": l4,
    "L5.tub_heat_up": l5,
}
