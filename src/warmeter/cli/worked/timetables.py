"""Worked examples of timetables (O)."""

from collections.abc import Callable

from warmeter.cli.worked import Case
from warmeter.core.timetable.merge import BlockPiece, merge_blocks
from warmeter.core.timetable.pair_gap import HeatCoolPair, PairRule, keep_apart, saves


def o4(i: Case) -> Case:
    """Gap of a pair."""
    rule = PairRule(
        gap_k=i["gap_K"],
        step_k=i["step_K"],
        heat_range_c=(i["heat_range_C"][0], i["heat_range_C"][1]),
        cool_range_c=(i["cool_range_C"][0], i["cool_range_C"][1]),
    )
    pair = keep_apart(HeatCoolPair(i["heat_C"], i["cool_C"]), rule, i["moved"])
    if pair is None:
        return {"ok": False, "heat_C": None, "cool_C": None, "saves_heat": None, "saves_cool": None}
    in_use = i["in_use"]
    heat, cool = saves(pair, HeatCoolPair(in_use["heat_C"], in_use["cool_C"])) if in_use else (None, None)
    return {"ok": True, "heat_C": pair.heat_c, "cool_C": pair.cool_c, "saves_heat": heat, "saves_cool": cool}


def o3(i: Case) -> Case:
    """A day fitted to a device."""
    day = [BlockPiece(row["from_min"], row["setpoint_C"]) for row in i["blocks"]]
    found = merge_blocks(day, most=i["max_blocks"], step_min=i["step_min"], allowed_c=i["allowed_C"])
    return {
        "blocks": [{"from_min": p.from_min, "setpoint_C": p.setpoint_c} for p in found.pieces],
        "error_Kh": found.error_kh,
        "below_Kh": found.below_kh,
        "above_Kh": found.above_kh,
    }


METHODS: dict[str, Callable[[Case], Case]] = {"O3.merge_blocks": o3, "O4.pair_gap": o4}
