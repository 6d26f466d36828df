"""Worked examples of air on ducts (M5, Q7, Q8)."""

from collections.abc import Callable

from warmeter.cli.worked import Case
from warmeter.core.ducts.duct_shares import Branch, DuctLimits, FanCurve, duct_shares
from warmeter.core.ducts.vent_trim import RoomAir, TrimRoom, even_air, vent_trim
from warmeter.core.errors import HomeError, OutOfRange


def m5(i: Case) -> Case:
    """Air that would even the rooms."""
    rooms = [
        RoomAir(id=r["name"], room_c=r["theta_C"], target_c=r["target_C"], flow_m3_h=r["flow_m3_h"]) for r in i["rooms"]
    ]
    found = even_air(rooms, supply_c=i["supply_C"], outdoor_c=i["theta_ext_C"])
    return {
        "rooms": [
            {"name": e.id, "ratio": e.ratio, "flow_m3_h": e.flow_m3_h, "flow_scaled_m3_h": e.scaled_m3_h} for e in found
        ]
    }


def q7(i: Case) -> Case:
    """Which branch gets which air."""
    limits = i["limits"]
    try:
        found = duct_shares(
            FanCurve(still_pa=i["fan"]["p0_Pa"], b=i["fan"]["b"], c=i["fan"]["c"]),
            i["trunk_r"],
            [Branch(id=b["id"], resistance=b["r"], notch=b["notch"], least_m3_h=b["min_m3_h"]) for b in i["branches"]],
            i["factors"],
            DuctLimits(
                static_most_pa=limits["static_max_Pa"],
                flow_least_m3_h=limits["flow_min_m3_h"],
                curve_most_m3_h=limits["curve_max_m3_h"],
            ),
        )
    except OutOfRange:
        return {"refused": "range"}
    return {
        "flow_m3_h": found.flow_m3_h,
        "static_fan_Pa": found.static_fan_pa,
        "static_branch_Pa": found.static_branch_pa,
        "flags": list(found.flags),
        "branches": [
            {"id": key, "flow_m3_h": flow, "share": found.shares[key]} for key, flow in found.flows_m3_h.items()
        ],
    }


def q8(i: Case) -> Case:
    """Notches from room differences."""
    rooms = [
        TrimRoom(
            id=r["id"],
            diff_k=r["diff_K"],
            notch=r["notch"],
            k_per_notch=r["K_per_notch"],
            most_notch=r["max_notch"],
            full_notch=r["full_notch"],
            area=r["area"],
        )
        for r in i["rooms"]
    ]
    try:
        found = vent_trim(rooms, i["mode"], dead_k=i["dead_K"], most_share_shut=i["max_share_shut"])
    except HomeError:
        return {"refused": "no_rooms"}
    return {
        "ok": not found.is_refused,
        "why": "share_shut" if found.is_refused else None,
        "rooms": [
            {
                "id": s.id,
                "wanted": s.wanted,
                "step": s.step,
                "refused": s.refused,
                "why": s.why,
                "notch_after": s.notch_after,
                "diff_after_K": s.diff_after_k,
            }
            for s in found.steps
        ],
        "share_before": found.share_before,
        "share_after": found.share_after,
        "spread_before_K": found.spread_before_k,
        "spread_after_K": found.spread_after_k,
    }


METHODS: dict[str, Callable[[Case], Case]] = {"M5.air_balance": m5, "Q7.duct_shares": q7, "Q8.vent_trim": q8}
