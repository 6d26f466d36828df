"""Worked examples of meters and machines at rest (Q)."""

from collections.abc import Callable
from datetime import UTC, date, datetime

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.matters.value_of_measuring import Measurement, UncertainItem, value_of_measuring
from warmeter.core.readings.intervals import completeness
from warmeter.core.signature.night_floor import night_floor
from warmeter.core.signature.standby_states import StateTime, standby_states
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH
from warmeter.core.water.litres_until_shut import AlarmFailures, AlarmTimes, WaterFlow, litres_until_shut
from warmeter.core.water.next_sensor import LeakPoint, SensorPlace, next_sensors


def _ms(readings: list[Case]) -> Ints:
    return np.array([round(datetime.fromisoformat(r["utc"]).timestamp() * 1000) for r in readings], dtype=np.int64)


def _utc(at_ms: int) -> str:
    return datetime.fromtimestamp(at_ms / 1000, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _known(readings: list[Case], key: str) -> Floats:
    return np.array([np.nan if r[key] is None else float(r[key]) for r in readings], dtype=np.float64)


def q3(i: Case) -> Case:
    """What to measure next."""
    try:
        found = value_of_measuring(
            [UncertainItem(id=x["id"], value=x["value"], half=x["half"], group=x["group"]) for x in i["items"]],
            i["groups"],
            [
                Measurement(
                    id=m["id"],
                    items=tuple(m["items"]),
                    factor=m["factor"],
                    minutes=m["minutes"],
                    has_own_error=m["own_error"],
                )
                for m in i["measurements"]
            ],
        )
    except OutOfRange as error:
        return {"refused": "minutes" if error.name == "minutes of work" else "range"}
    except HomeError:
        return {"refused": "unknown"}
    rows = [
        {"id": r.id, "half_after": r.half_after, "narrowing": r.narrowing, "per_minute": r.per_minute}
        for r in found.rows
    ]
    return {
        "total": found.total,
        "half": found.half,
        "low": found.total - found.half,
        "high": found.total + found.half,
        "rows": rows,
        "order": list(found.order),
    }


def q4(i: Case) -> Case:
    """Litres until shut."""
    decline = i.get("decline") or {}
    flow = WaterFlow(flow_l_min=i["flow_L_min"], to_l_min=decline.get("to_L_min"), tau_s=decline.get("tau_s"))
    times = AlarmTimes(**{f"{n}_s": i[f"{n}_s"] for n in ("wet", "sensed", "told", "acted", "shut")})
    try:
        found = litres_until_shut(
            flow,
            times,
            AlarmFailures(
                p_dead=i["p_dead"],
                p_stuck=i["p_stuck"],
                detect_s=i["dead"]["detect_s"],
                after_min=i["stuck"]["after_min"],
                stuck_shut_s=i["stuck"]["shut_s"],
            ),
        )
    except OutOfRange:
        return {"refused": "range"}
    return {
        "cases": [
            {"case": c.case, "p": c.p, "begin_s": c.begin_s, "shut_at_s": c.shut_at_s, "litres": c.litres}
            for c in found.cases
        ],
        "expected_L": found.expected_l,
        "parts_L": found.parts_l,
    }


def q9(i: Case) -> Case:
    """Night floor."""
    found = night_floor(
        _ms(i["readings"]),
        _known(i["readings"], "kWh") * J_PER_KWH / i["step_s"],
        step_s=i["step_s"],
        clock=LocalClock(i["zone"]),
        first=date.fromisoformat(i["first_date"]),
        last=date.fromisoformat(i["last_date"]),
        from_min=i["from_min"],
        to_min=i["to_min"],
        night_quantile=i["night_q"],
        floor_quantile=i["floor_q"],
        least_known=i["min_share"],
    )
    nights = [
        {
            "date": n.date.isoformat(),
            "hours": n.hours,
            "n": n.intervals,
            "known_share": n.known_share,
            "counted": n.floor_w is not None,
            "floor_W": n.floor_w,
        }
        for n in found.nights
    ]
    return {
        "nights": nights,
        "counted_nights": found.counted_nights,
        "floor_W": found.floor_w,
        "p10_W": found.p10_w,
        "p90_W": found.p90_w,
        "below_nights": found.below_nights,
        "below_share": found.below_share,
        "never_below": found.never_below,
    }


def q10(i: Case) -> Case:
    """Missing intervals."""
    readings = i["readings"]
    found = completeness(
        _ms(readings),
        np.array([round(1000 * r["dur_s"]) for r in readings], dtype=np.int64),
        _known(readings, "kWh"),
        clock=LocalClock(i["zone"]),
        first=date.fromisoformat(i["first_date"]),
        last=date.fromisoformat(i["last_date"]),
        step_s=i["step_s"],
    )
    return {
        "expected_n": found.expected,
        "full_n": found.full,
        "partial_n": len(found.partial_ms),
        "missing_n": found.missing_n,
        "missing": [[_utc(a), _utc(b)] for a, b in found.missing_ms],
        "partial": [_utc(a) for a in found.partial_ms],
        "overlapping_n": found.overlapping,
        "overlaps": [[_utc(a), _utc(b)] for a, b in found.overlaps_ms],
        "dropped_n": found.dropped,
        "coverage": found.coverage,
        "total_kWh": found.total,
        "total_raw_kWh": found.total_raw,
        "days": [
            {
                "date": d.date.isoformat(),
                "hours": d.hours,
                "expected_n": d.expected,
                "full_n": d.full,
                "coverage": d.coverage,
            }
            for d in found.days
        ],
    }


def q12(i: Case) -> Case:
    """Standing states."""
    samples, price = i["samples"], i["price_per_kWh"]
    found = standby_states(
        np.array([s["t_s"] for s in samples], dtype=np.float64),
        _known(samples, "W"),
        _known(samples, "switched"),
        floor_w=i["floor_W"],
        work_w=i["work_W"],
        longest_hold_s=i["max_gap_s"],
        end_s=i["end_s"],
    )

    def money(kwh: float | None) -> float | None:
        return None if kwh is None else kwh * price

    def state(time: StateTime) -> Case:
        return {"hours": time.hours, "mean_W": time.mean_w, "kWh": time.kwh}

    return {
        "known_h": found.known_h,
        "unknown_h": found.unknown_h,
        "states": {"off": state(found.off), "rest": state(found.rest), "work": state(found.work)},
        "rest_kWh_year": found.rest_kwh_year,
        "rest_money_year": money(found.rest_kwh_year),
        "saved_kWh": found.saved_kwh,
        "saved_kWh_year": found.saved_kwh_year,
        "saved_money_year": money(found.saved_kwh_year),
        "never_cut_kWh_year": found.never_cut_kwh_year,
    }


def q5(i: Case) -> Case:
    """Where the next leak sensor saves most."""
    points = [
        LeakPoint(
            id=p["id"], leaks_year=p["leaks_year"], litres_without=p["litres_without"], litres_with=p["litres_with"]
        )
        for p in i["points"]
    ]
    places = [SensorPlace(id=s["id"], covers=tuple(s["covers"])) for s in i["sensors"]]
    try:
        found = next_sensors(points, places, i["have"], i["max_n"])
    except HomeError:
        return {"refused": "unknown"}
    pair = found.best_pair
    return {
        "alone": [{"id": key, "saved": saved} for key, saved in found.alone_l.items()],
        "greedy": [{"id": each.id, "gain": each.gain_l, "total": each.total_l} for each in found.greedy],
        "best_pair": None
        if pair is None
        else {"ids": list(pair.ids), "saved": pair.saved_l, "gains": list(pair.gains_l)},
        "greedy_pair_short": found.greedy_pair_short_l,
    }


METHODS: dict[str, Callable[[Case], Case]] = {
    "Q3.value_of_measuring": q3,
    "Q4.litres_until_shut": q4,
    "Q5.next_sensor": q5,
    "Q9.night_floor": q9,
    "Q10.missing_intervals": q10,
    "Q12.standing_states": q12,
}
