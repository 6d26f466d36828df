"""Worked examples of water (L)."""

from collections.abc import Callable

from warmeter.cli.worked import Case
from warmeter.core.units import J_PER_KWH
from warmeter.core.water.store import WarmWater


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


METHODS: dict[str, Callable[[Case], Case]] = {"L4.hot_water": l4, "L5.tub_heat_up": l5}
