"""Worked examples run against the core (``warmeter vectors DIR``)."""

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

import numpy as np

from warmeter.core.signature.cycles import OnOffSetting, cycle_features, on_off_events
from warmeter.core.signature.metrics import match_events
from warmeter.core.signature.standby import standby_of
from warmeter.core.signature.thresholds import tune_threshold
from warmeter.core.tariff.structure import Rate, flat_bill, hours_between, time_of_use
from warmeter.core.tariff.window import cheapest_start, starts_by_cost
from warmeter.core.thermal.comfort import degree_hours, hours_beyond
from warmeter.core.thermal.heat_pump import cop_carnot
from warmeter.core.thermal.network import Link, RcNetwork, exact_step, run_steps
from warmeter.core.thermal.single_rc import SingleRc, time_constant_of_cooling, time_constant_of_two_readings
from warmeter.core.thermal.survey import DesignConditions, Element, design_load, room_from_survey
from warmeter.core.thermal.two_step import TwoStep
from warmeter.core.timegrid import LocalClock, parse_utc, utc_text
from warmeter.core.warmup.lead import lead_table_s, recovery_limit
from warmeter.core.warmup.setback import Prices, SetbackCase, setback_cost, setback_energy
from warmeter.core.weather.sun import clear_sky_w_m2, plane_irradiance, sun_position, window_gain_w

Case = dict[str, Any]
SCHEMA = "warmeter-vectors/1"


def _rc(i: Case) -> SingleRc:
    if "R_K_W" in i:
        return SingleRc(resistance_k_w=i["R_K_W"], capacity_j_k=i["C_J_K"])
    return SingleRc(resistance_k_w=1 / i["H_W_K"], capacity_j_k=i["C_J_K"])


def _network(i: Case) -> RcNetwork:
    names = i.get("boundary_order") or list(i.get("boundary_C", {"out": 0}))
    links = [Link(link["a"], link["b"], link["H"]) for link in i["links_W_K"]]
    return RcNetwork(capacities_j_k=i["nodes_J_K"], boundaries=names, links=links)


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
    load = design_load(elements, at, floor_area_m2=i["floor_area_m2"], volume_m3=i["volume_m3"])
    return {
        "element_W": list(load.element_w),
        "phi_T_W": load.transmission_w,
        "phi_V_W": load.ventilation_w,
        "phi_RH_W": load.reheat_w,
        "phi_HL_W": load.total_w,
        "H_W_K": load.loss_w_k,
    }


def b1(i: Case) -> Case:
    """Single store."""
    room, drive = _rc(i), {"power_w": i["P_W"], "outdoor_c": i["theta_ext_C"]}
    to = room.time_to_s(start_c=i["theta0_C"], target_c=i["theta_target_C"], **drive)
    return {
        "tau_s": room.time_constant_s,
        "theta_ss_C": room.steady_c(**drive),
        "theta_t_C": room.temperature_c(start_c=i["theta0_C"], after_s=i["t_s"], **drive),
        "reachable": to is not None,
        "t_to_target_s": to,
        "initial_rate_K_h": room.initial_rate_k_h(start_c=i["theta0_C"], **drive),
    }


def b2(i: Case) -> Case:
    """Time constant of two readings."""
    tau = time_constant_of_two_readings(
        first_s=i["t1_s"], first_c=i["theta1_C"], second_s=i["t2_s"], second_c=i["theta2_C"], outdoor_c=i["theta_ext_C"]
    )
    return {"tau_s": tau, "tau_h": tau / 3600}


def b3(i: Case) -> Case:
    """Time constant of a cool-down."""
    tau, start = time_constant_of_cooling(np.array(i["t_s"], float), np.array(i["theta_C"]), i["theta_ext_C"])
    return {"tau_s": tau, "theta0_fit_C": start}


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
    states = run_steps(step, np.array([i["theta0_C"][n] for n in network.nodes]), inputs)
    return {f"{n}_C": states[:, k].tolist() for k, n in enumerate(network.nodes)}


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


def c8(i: Case) -> Case:
    """Heat pump."""
    ideal, real = cop_carnot(
        eta=i["eta"],
        flow_c=i["flow_C"],
        source_c=i["source_C"],
        approach_hot_k=i["approach_hot_K"],
        approach_cold_k=i["approach_cold_K"],
    )
    return {"cop_carnot": ideal, "cop": real}


def _two_step(i: Case) -> TwoStep:
    return TwoStep(
        room=_rc(i), power_w=i["P_W"], outdoor_c=i["theta_ext_C"], on_c=i["theta_on_C"], off_c=i["theta_off_C"]
    )


def c11(i: Case) -> Case:
    """Two-step cycle."""
    cycle = _two_step(i).cycle()
    if cycle is None:
        return {"t_on_s": None, "t_off_s": None, "duty": None, "cycles_per_h": None}
    return {"t_on_s": cycle.on_s, "t_off_s": cycle.off_s, "duty": cycle.duty, "cycles_per_h": cycle.cycles_per_h}


def c12(i: Case) -> Case:
    """Minimum times."""
    first = _two_step(i).first_cycle(min_on_s=i["min_on_s"], min_off_s=i["min_off_s"])
    assert first is not None
    return {"first_on_s": first.on_s, "peak_C": first.peak_c, "first_off_s": first.off_s, "trough_C": first.trough_c}


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
    prices = Prices(
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


def g1(i: Case) -> Case:
    """Sun position."""
    at = np.array([parse_utc(i["utc"])])
    elevation, azimuth = sun_position(at, latitude_deg=i["lat_deg"], longitude_deg=i["lon_deg_east"])
    return {"elevation_deg": float(elevation[0]), "azimuth_deg": float(azimuth[0])}


def g2(i: Case) -> Case:
    """Irradiance on a plane."""
    p = plane_irradiance(
        elevation_deg=i["sun_elevation_deg"],
        azimuth_deg=i["sun_azimuth_deg"],
        tilt_deg=i["tilt_deg"],
        surface_azimuth_deg=i["surface_azimuth_deg"],
        direct_w_m2=i["dni_W_m2"],
        diffuse_w_m2=i["dhi_W_m2"],
        albedo=i["albedo"],
    )
    return {
        "cos_incidence": p.cos_incidence,
        "beam_W_m2": p.beam_w_m2,
        "diffuse_W_m2": p.diffuse_w_m2,
        "ground_W_m2": p.ground_w_m2,
        "total_W_m2": p.total_w_m2,
        "ghi_W_m2": p.horizontal_w_m2,
    }


def g3(i: Case) -> Case:
    """Window gain."""
    gain = window_gain_w(
        g_value=i["g"],
        area_m2=i["area_m2"],
        frame_fraction=i["frame_fraction"],
        shade_factor=i["shade_factor"],
        incidence_factor=i["incidence_factor"],
        irradiance_w_m2=i["irradiance_W_m2"],
    )
    return {"gain_W": gain}


def g5(i: Case) -> Case:
    """Clear sky."""
    return {"ghi_W_m2": float(clear_sky_w_m2(np.array(i["sun_elevation_deg"], float)))}


def h1(i: Case) -> Case:
    """Standby."""
    s = standby_of(np.array(i["power_W"], float), quantile=i["quantile"], bin_w=i["bin_W"])
    return {"standby_quantile_W": s.quantile_w, "standby_mode_W": s.mode_w, "annual_kWh_from_mode": s.annual_kwh}


def _floats(values: list[float | None]) -> np.ndarray[Any, np.dtype[np.float64]]:
    return np.array([np.nan if v is None else v for v in values], dtype=np.float64)


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


def h12(i: Case) -> Case:
    """Threshold tuning."""
    t = tune_threshold(np.array(i["power_W"], float), np.array(i["label"]) == 1, i["grid_W"])
    return {"f1": list(t.f1), "best_f1": t.best_f1, "plateau": list(t.plateau_w), "threshold_W": t.threshold_w}


def _decimal(value: float) -> Decimal:
    return Decimal(repr(value))


def i1(i: Case) -> Case:
    """Flat bill."""
    b = flat_bill(
        energy_kwh=_decimal(i["energy_kWh"]),
        price_per_kwh=_decimal(i["price_per_kWh"]),
        standing_per_day=_decimal(i["standing_per_day"]),
        days=i["days"],
        vat=_decimal(i["vat"]),
        rounding=i["rounding"],
    )
    return {
        "energy": float(b.energy),
        "standing": float(b.standing),
        "vat": float(b.vat),
        "total": float(b.total),
        "total_if_rounded_once": float(b.total_if_rounded_once),
    }


def i2(i: Case) -> Case:
    """Time of use."""
    rates = [
        Rate(
            name=r["name"],
            months=tuple(r["months"]),
            days=tuple(r["days"]),
            from_min=r["from_min"],
            to_min=r["to_min"],
            price_per_kwh=_decimal(r["price_per_kWh"]),
        )
        for r in i["rules"]
    ]
    usage = time_of_use(
        rates,
        parse_utc(i["start_utc"]),
        60,
        [_decimal(e) for e in i["hourly_kWh"]],
        clock=LocalClock(i["tz"]),
        holidays=frozenset(date.fromisoformat(d) for d in i["holidays"]),
    )
    return {
        "kWh_by_rule": {name: float(kwh) for name, kwh in usage.kwh_by_rate.items()},
        "energy_cost": float(usage.energy_cost),
    }


def i7(i: Case) -> Case:
    """Clock days."""
    clock, on = LocalClock(i["tz"]), date.fromisoformat(i["local_date"])
    day = clock.day(on)
    cheap = hours_between(clock, on, 60 * i["cheap_from_hour"], 60 * i["cheap_to_hour"])
    rates = [
        Rate(
            name="cheap",
            from_min=60 * i["cheap_from_hour"],
            to_min=60 * i["cheap_to_hour"],
            price_per_kwh=_decimal(i["price_cheap"]),
        ),
        Rate(name="else", price_per_kwh=_decimal(i["price_else"])),
    ]
    quarter = [_decimal(i["load_kW"]) / 4] * round(day.hours * 4)
    cost = time_of_use(rates, day.start_ms, 15, quarter, clock=clock).energy_cost
    return {
        "hours": day.hours,
        "start_utc": utc_text(day.start_ms),
        "end_utc": utc_text(day.end_ms),
        "cheap_hours": cheap,
        "cost": float(cost),
    }


def i8(i: Case) -> Case:
    """Cheapest window."""
    prices = np.repeat(np.array(i["price_per_kWh"], float), i["price_step_min"])
    starts = starts_by_cost(
        prices,
        np.array(i["profile_kWh"], float),
        i["profile_step_min"],
        earliest_min=i["earliest_min"],
        latest_end_min=i["latest_end_min"],
    )
    best = cheapest_start(starts)
    return {"start_min": best.start_min, "cost": float(best.cost)}


METHODS: dict[str, Callable[[Case], Case]] = {
    "A3.room_design_load": a3,
    "B1.single_rc": b1,
    "B2.tau_two_readings": b2,
    "B3.tau_regression": b3,
    "B4.rc_network": b4,
    "B5.exact_discretisation": b5,
    "B6.rc_steps": b6,
    "B7.survey_to_rc": b7,
    "C8.cop_carnot": c8,
    "C11.hysteresis_cycle": c11,
    "C12.min_on_off": c12,
    "E1.lead_table": e1,
    "E3.setback_energy": e3,
    "E4.setback_cost": e4,
    "E5.recovery_limit": e5,
    "F5.degree_hours": f5,
    "G1.sun_position": g1,
    "G2.plane_irradiance": g2,
    "G3.window_gain": g3,
    "G5.clear_sky": g5,
    "H1.standby": h1,
    "H2.on_off_events": h2,
    "H3.cycle_features": h3,
    "H10.event_metrics": h10,
    "H12.threshold_tuning": h12,
    "I1.flat_bill": i1,
    "I2.time_of_use": i2,
    "I7.dst_day": i7,
    "I8.cheapest_window": i8,
}


@dataclass(frozen=True, slots=True)
class Outcome:
    """What one case came to; ``misses`` are empty when it passed, None when not supported."""

    case_id: str
    misses: tuple[str, ...] | None


def run_case(case: Case) -> Outcome:
    """Run one worked example."""
    method = METHODS.get(case["method"])
    if method is None:
        return Outcome(case["id"], None)
    try:
        got = method(case["inputs"])
    except Exception as error:  # a case that breaks the core is a miss to be listed, not the end of the run
        return Outcome(case["id"], (f"{type(error).__name__}: {error}",))
    misses = []
    for name, expected in case["expected"].items():
        tolerance = case["tolerance"].get(name, case["tolerance"]["default"])
        if name not in got:
            misses.append(f"{name}: not given")
        else:
            misses += _differences(name, got[name], expected, tolerance)
    return Outcome(case["id"], tuple(misses))


def _differences(name: str, got: Any, expected: Any, tolerance: Case) -> Iterator[str]:
    if isinstance(expected, dict):
        if not isinstance(got, dict) or got.keys() != expected.keys():
            yield f"{name}: got {got}, expected {expected}"
            return
        for key in expected:
            yield from _differences(f"{name}.{key}", got[key], expected[key], tolerance)
    elif isinstance(expected, list):
        if not isinstance(got, list) or len(got) != len(expected):
            yield f"{name}: got {got}, expected {expected}"
            return
        for k, (mine, theirs) in enumerate(zip(got, expected, strict=True)):
            yield from _differences(f"{name}[{k}]", mine, theirs, tolerance)
    elif isinstance(expected, bool) or expected is None or isinstance(expected, str):
        if got != expected or isinstance(got, bool) != isinstance(expected, bool):
            yield f"{name}: got {got!r}, expected {expected!r}"
    elif (
        got is None
        or isinstance(got, str | bool)
        or not (abs(got - expected) <= tolerance["abs"] + tolerance["rel"] * abs(expected))
    ):
        yield f"{name}: got {got!r}, expected {expected!r}"


def cases_of(folder: Path) -> Iterator[Case]:
    """Yield every case of a folder's vector files.

    Raises
    ------
    ValueError
        If a file is not of the known schema.
    """
    for path in sorted(folder.glob("*.json")):
        content = json.loads(path.read_text(encoding="utf-8"))
        if content.get("schema") != SCHEMA:
            raise ValueError(f"{path.name} is no file of {SCHEMA}")
        yield from content["cases"]


def run(folder: Path) -> int:
    """Run a folder, print misses and totals; 1 if any failed, 2 if there is nothing to run."""
    if not folder.is_dir() or not any(folder.glob("*.json")):
        print(f"{folder} holds no worked examples (*.json)")
        return 2
    outcomes = [run_case(case) for case in cases_of(folder)]
    for outcome in outcomes:
        for miss in outcome.misses or ():
            print(f"{outcome.case_id}: {miss}")
    unsupported = sum(outcome.misses is None for outcome in outcomes)
    failed = sum(bool(outcome.misses) for outcome in outcomes)
    print(f"{len(outcomes) - unsupported - failed} passed, {failed} failed, {unsupported} not supported")
    return 1 if failed else 0
