"""Worked examples of timetables (O)."""

from collections.abc import Callable

from warmeter.cli.worked import Case
from warmeter.core.timetable.pair_gap import Pair, PairRule, keep_apart, saves


def o4(i: Case) -> Case:
    """Gap of a pair."""
    rule = PairRule(
        gap_k=i["gap_K"],
        step_k=i["step_K"],
        heat_range_c=(i["heat_range_C"][0], i["heat_range_C"][1]),
        cool_range_c=(i["cool_range_C"][0], i["cool_range_C"][1]),
    )
    pair = keep_apart(Pair(i["heat_C"], i["cool_C"]), rule, i["moved"])
    if pair is None:
        return {"ok": False, "heat_C": None, "cool_C": None, "saves_heat": None, "saves_cool": None}
    in_use = i["in_use"]
    heat, cool = saves(pair, Pair(in_use["heat_C"], in_use["cool_C"])) if in_use else (None, None)
    return {"ok": True, "heat_C": pair.heat_c, "cool_C": pair.cool_c, "saves_heat": heat, "saves_cool": cool}


METHODS: dict[str, Callable[[Case], Case]] = {"O4.pair_gap": o4}
