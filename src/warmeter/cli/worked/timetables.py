"""Worked examples of timetables (O)."""

from collections.abc import Callable
from datetime import date

from warmeter.cli.worked import Case
from warmeter.core.timegrid import LocalClock, parse_utc, utc_text
from warmeter.core.timetable.merge import Piece, merge_blocks
from warmeter.core.timetable.pair_gap import Pair, PairRule, keep_apart, saves
from warmeter.core.timetable.written import FromTo, WrittenCalendar, WrittenTimetable, held_at, week_hours


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


def _clock_min(text: str) -> int:
    hour, minute = text.split(":")
    return int(hour) * 60 + int(minute)


def _calendar(i: Case) -> WrittenCalendar:
    timetables = {
        name: WrittenTimetable(
            else_level=row["else_level"],
            days={
                key: [FromTo(_clock_min(b["from"]), _clock_min(b["to"]), b["level"]) for b in blocks]
                for key, blocks in row["days"].items()
            },
        )
        for name, row in i["timetables"].items()
    }
    return WrittenCalendar(
        clock=LocalClock(i["tz"]),
        timetables=timetables,
        default=i["default_timetable"],
        periods=[
            (row["timetable"], date.fromisoformat(row["from_date"]), date.fromisoformat(row["to_date"]))
            for row in i["calendar"]
        ],
        kinds={date.fromisoformat(on): kind for on, kind in i["day_kinds"].items()},
    )


def o1(i: Case) -> Case:
    """Level in force."""
    calendar = _calendar(i)
    found = [held_at(calendar, parse_utc(at)) for at in i["at_utc"]]

    def text(at_ms: int | None) -> str | None:
        return None if at_ms is None else utc_text(at_ms)

    return {
        "level": [held.level for held in found],
        "block_start_utc": [text(held.block_start_ms) for held in found],
        "next_utc": [text(held.next_ms) for held in found],
    }


def o2(i: Case) -> Case:
    """Hours of a week by level."""
    found = week_hours(_calendar(i), date.fromisoformat(i["week_start"]))
    return {"hours": dict(found.hours), "total_h": found.total_h, "changes": found.changes}


def o3(i: Case) -> Case:
    """A day fitted to a device."""
    day = [Piece(row["from_min"], row["setpoint_C"]) for row in i["blocks"]]
    found = merge_blocks(day, most=i["max_blocks"], step_min=i["step_min"], allowed_c=i["allowed_C"])
    return {
        "blocks": [{"from_min": p.from_min, "setpoint_C": p.setpoint_c} for p in found.pieces],
        "error_Kh": found.error_kh,
        "below_Kh": found.below_kh,
        "above_Kh": found.above_kh,
    }


METHODS: dict[str, Callable[[Case], Case]] = {
    "O1.timetable_at": o1,
    "O2.timetable_week": o2,
    "O3.merge_blocks": o3,
    "O4.pair_gap": o4,
}
