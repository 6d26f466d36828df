"""Worked examples of rooms: loss, stores, warm-up, comfort (A3, B, C8 to C12, E, F)."""

from collections.abc import Callable

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.thermal.comfort import degree_hours, hours_beyond
from warmeter.core.thermal.envelope import ventilation_loss_w
from warmeter.core.thermal.network import Link, RcNetwork, exact_step
from warmeter.core.thermal.single_rc import SingleRc
from warmeter.core.thermal.survey import DesignConditions, Element, element_load_w, room_from_survey
from warmeter.core.warmup.lead import lead_table_s, recovery_limit
from warmeter.core.warmup.setback import SetbackCase, SetbackPrices, setback_cost, setback_energy


def _rc(i: Case) -> SingleRc:
    if "R_K_W" in i:
        return SingleRc(resistance_k_w=i["R_K_W"], capacity_j_k=i["C_J_K"])
    return SingleRc(resistance_k_w=1 / i["H_W_K"], capacity_j_k=i["C_J_K"])


def _network(i: Case) -> RcNetwork:
    names = i.get("boundary_order") or list(i.get("boundary_C", {"out": 0}))
    links = [Link(link["a"], link["b"], link["H"]) for link in i["links_W_K"]]
    return RcNetwork(capacities_j_k=i["nodes_J_K"], boundaries=names, links=links)


def _setback(i: Case) -> SetbackCase:
    return SetbackCase(
        loss_w_k=i["H_W_K"],
        capacity_j_k=i["C_J_K"],
        full_heat_w=i["P_max_W"],
        setpoint_c=i["theta_set_C"],
        setback_c=i["theta_setback_C"],
        outdoor_c=i["theta_ext_C"],
        period_s=i["period_s"],
    )


def a3(i: Case) -> Case:
    """Design load."""
    elements = [
        Element(
            name=e["name"],
            area_m2=e["area_m2"],
            u_w_m2k=e["U_W_m2K"],
            to=e["to"],
            factor=e.get("b", e.get("f_gw", 1.0)),
            beyond_c=e.get("theta_adj_C"),
        )
        for e in i["elements"]
    ]
    at = DesignConditions(
        indoor_c=i["theta_int_C"],
        outdoor_c=i["theta_ext_C"],
        annual_mean_c=i["theta_annual_mean_C"],
        bridge_w_m2k=i["dU_tb_W_m2K"],
        air_change_1_h=max(i["n_min_1_h"], i["n_inf_1_h"]),
        reheat_w_m2=i["reheat_W_m2"],
    )
    fall_k = at.indoor_c - at.outdoor_c
    element_w = [element_load_w(element, at) for element in elements]
    air_w = ventilation_loss_w(at.air_change_1_h, i["volume_m3"], fall_k)
    reheat_w = i["floor_area_m2"] * at.reheat_w_m2
    return {
        "element_W": element_w,
        "phi_T_W": sum(element_w),
        "phi_V_W": air_w,
        "phi_RH_W": reheat_w,
        "phi_HL_W": sum(element_w) + air_w + reheat_w,
        "H_W_K": (sum(element_w) + air_w) / fall_k,
    }


def b1(i: Case) -> Case:
    """Single store."""
    room, boundary = _rc(i), {"power_w": i["P_W"], "outdoor_c": i["theta_ext_C"]}
    to = room.time_to_s(start_c=i["theta0_C"], target_c=i["theta_target_C"], **boundary)
    return {
        "tau_s": room.time_constant_s,
        "theta_ss_C": room.steady_c(**boundary),
        "theta_t_C": room.temperature_c(start_c=i["theta0_C"], after_s=i["t_s"], **boundary),
        "reachable": to is not None,
        "t_to_target_s": to,
        "initial_rate_K_h": room.initial_rate_k_h(start_c=i["theta0_C"], **boundary),
    }


def b4(i: Case) -> Case:
    """Network."""
    network = _network(i)
    inputs = np.array([*i["boundary_C"].values(), *(i["heat_W"].get(n, 0.0) for n in network.nodes)])
    start = np.array([i["theta0_C"][n] for n in network.nodes])
    a, b = network.matrices()
    ends = []
    for t in i["times_s"]:
        step = exact_step(a, b, t)
        ends.append(step.state @ start + step.held @ inputs)
    return {
        "theta_C": {n: [float(e[k]) for e in ends] for k, n in enumerate(network.nodes)},
        "steady_C": dict(zip(network.nodes, network.steady_c(inputs).tolist(), strict=True)),
        "time_constants_s": network.time_constants_s().tolist(),
    }


def b5(i: Case) -> Case:
    """Exact step."""
    network = _network(i)
    step = exact_step(*network.matrices(), i["dt_s"])
    return {"node_order": network.nodes, "Ad": step.state.tolist(), "Bd": step.held.tolist()}


def b6(i: Case) -> Case:
    """Steps through a day."""
    network = _network({**i, "boundary_order": ["out"]})
    step = exact_step(*network.matrices(), i["dt_s"])
    heat = np.zeros((len(i["theta_out_C"]), len(network.nodes)))
    heat[:, 0] = i["heat_air_W"]
    inputs = np.column_stack([i["theta_out_C"], heat])
    states = [np.array([i["theta0_C"][n] for n in network.nodes])]
    for held in inputs:
        states.append(step.state @ states[-1] + step.held @ held)
    return {f"{n}_C": [float(state[k]) for state in states[1:]] for k, n in enumerate(network.nodes)}


def b7(i: Case) -> Case:
    """Survey to two nodes."""

    def element(e: Case) -> Element:
        return Element(name="", area_m2=e["area_m2"], u_w_m2k=e["U_W_m2K"])

    room = room_from_survey(
        floor_area_m2=i["floor_area_m2"],
        volume_m3=i["volume_m3"],
        air_change_1_h=i["n_1_h"],
        windows=[element(e) for e in i["windows"]],
        opaque=[element(e) for e in i["opaque"]],
        mass_class=i["mass_class"],
        bridge_w_m2k=i.get("dU_tb_W_m2K", 0.0),
    )
    slow, fast = room.network().time_constants_s()
    opaque = 1 / (1 / room.fabric_out_w_k + 1 / room.air_fabric_w_k)
    total = room.air_out_w_k + opaque
    return {
        "H_air_out_W_K": room.air_out_w_k,
        "H_air_fabric_W_K": room.air_fabric_w_k,
        "H_fabric_out_W_K": room.fabric_out_w_k,
        "C_air_J_K": room.air_j_k,
        "C_fabric_J_K": room.fabric_j_k,
        "H_total_W_K": total,
        "tau_lumped_s": (room.air_j_k + room.fabric_j_k) / total,
        "tau_slow_s": slow,
        "tau_fast_s": fast,
    }


def e1(i: Case) -> Case:
    """Lead table."""
    leads = lead_table_s(
        _rc(i),
        power_w=i["P_W"],
        target_c=i["theta_set_C"],
        start_c=i["theta0_C"],
        outdoor_c=i["theta_ext_C"],
        max_lead_s=i["max_lead_s"],
    )
    return {"lead_s": leads}


def e3(i: Case) -> Case:
    """Setback energy."""
    e = setback_energy(_setback(i))
    return {
        "t_cool_s": e.cool_s,
        "t_hold_s": e.hold_s,
        "lead_s": e.reheat_s,
        "theta_min_C": e.lowest_c,
        "E_hold_kWh": e.hold_kwh,
        "E_setback_kWh": e.setback_kwh,
        "saving_kWh": e.saving_kwh,
        "saving_fraction": e.saving_fraction,
        "naive_bound_kWh": e.naive_bound_kwh,
    }


def e4(i: Case) -> Case:
    """Setback cost."""
    prices = SetbackPrices(
        cop_hold=i["cop_hold"],
        cop_reheat=i["cop_reheat"],
        price_base=i["price_base_per_kWh"],
        price_reheat=i["price_reheat_per_kWh"],
    )
    cost = setback_cost(_setback(i), prices)
    return {
        "cost_hold": cost.hold,
        "cost_setback": cost.setback,
        "setback_pays": cost.setback_pays,
        "lead_s": setback_energy(_setback(i)).reheat_s,
        "breakeven_cop_reheat": cost.breakeven_cop_reheat,
    }


def e5(i: Case) -> Case:
    """Recovery limit."""
    limit = recovery_limit(
        _rc(i), power_w=i["P_W"], target_c=i["theta_set_C"], outdoor_c=i["theta_ext_C"], max_lead_s=i["max_lead_s"]
    )
    return {
        "theta0_min_C": limit.lowest_start_c,
        "max_drop_K": limit.max_drop_k,
        "theta_ext_limit_C": limit.outdoor_limit_c,
    }


def f5(i: Case) -> Case:
    """Degree-hours."""
    theta = np.array(i["theta_C"], float)
    return {
        "K_h": float(degree_hours(theta, i["limit_C"], i["step_s"], i["side"])),
        "hours": hours_beyond(theta, i["limit_C"], i["step_s"], i["side"]),
    }


METHODS: dict[str, Callable[[Case], Case]] = {
    "A3.room_design_load": a3,
    "B1.single_rc": b1,
    "B4.rc_network": b4,
    "B5.exact_discretisation": b5,
    "B6.rc_steps": b6,
    "B7.survey_to_rc": b7,
    "E1.lead_table": e1,
    "E3.setback_energy": e3,
    "E4.setback_cost": e4,
    "E5.recovery_limit": e5,
    "F5.degree_hours": f5,
}
