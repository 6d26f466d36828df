"""Worked examples of people and rooms in use (N, Q1, Q2)."""

from collections.abc import Callable, Mapping
from dataclasses import asdict
from math import isnan

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.arrays import Bytes, Floats
from warmeter.core.errors import OutOfRange
from warmeter.core.presence.home_presence import PersonTrack, home_presence
from warmeter.core.presence.idle_time import IdlePrices, idle_time
from warmeter.core.presence.person_presence import (
    WitnessReports,
    age_ms,
    door_motion_reports,
    person_presence,
    power_reports,
)
from warmeter.core.presence.presence_states import STATE_OF, STATE_VALUE, PresenceState
from warmeter.core.presence.room_use import SAYS_VALUE, RoomSensor, room_use
from warmeter.core.presence.usage_profile import ProfileSettings, UsedDay, usage_profile
from warmeter.core.presence.witness_trust import ShareRight, same_pairs, witness_trust
from warmeter.core.truth.truth import TRUE, UNKNOWN, from_changes
from warmeter.core.units import MS_PER_S

WORD = {"in": STATE_VALUE["in"], "out": STATE_VALUE["out"], "none": UNKNOWN}
USE_WORD = {0: "idle", 1: "not_known", 2: "in_use"}


def _ms(seconds: float | None) -> int:
    return round((seconds or 0) * MS_PER_S)


def _least(i: Case) -> dict[PresenceState, int]:
    return {state: _ms(i[f"min_{state}_s"]) for state in STATE_VALUE}


def _end(i: Case) -> int:
    """Return one past the last instant: the examples count it."""
    return _ms(i["end_s"]) + 1


def _witness(w: Case, events: list[Case], end_ms: int) -> WitnessReports:
    own = [e for e in events if e["witness"] == w["id"]]
    at = np.array([_ms(e["t_s"]) for e in own], dtype=np.int64)
    if w["kind"] == "door_motion":
        at, says = door_motion_reports(
            [(_ms(e["t_s"]), e["event"]) for e in own],
            within_ms=_ms(w["within_s"]),
            cancel_ms=_ms(w["cancel_s"]),
            end_ms=end_ms - 1,
        )
    elif w["kind"] == "power":
        says = power_reports(np.array([e["W"] for e in own], dtype=np.float64), w["on_W"])
    else:
        says = np.array([WORD[e["says"]] for e in own], dtype=np.int8)
    return WitnessReports(
        id=w["id"],
        at_ms=at,
        says=says,
        trust_in=w["trust"],
        trust_out=w["trust"],
        age_in_ms=_ms(w["age_in_s"]),
        age_out_ms=_ms(w["age_out_s"]),
    )


def n1(i: Case) -> Case:
    """A person's presence."""
    end = _end(i)
    witnesses = [_witness(w, i["events"], end) for w in i["witnesses"]]
    found = person_presence(witnesses, sure=i["sure"], least_ms=_least(i), initial=i["initial"], start_ms=0, end_ms=end)
    states = [int(s) for s in found.state.at(np.array([_ms(t) for t in i["at_s"]], dtype=np.int64))]
    ages = [age_ms(witnesses, s, _ms(t)) for s, t in zip(states, i["at_s"], strict=True)]
    return {
        "timeline": [
            {"t_s": int(t) // MS_PER_S, "state": STATE_OF[int(v)]}
            for t, v in zip(found.state.at_ms, found.state.value, strict=True)
        ],
        "at": [
            {"state": STATE_OF[s], "age_s": None if age is None else age // MS_PER_S}
            for s, age in zip(states, ages, strict=True)
        ],
    }


def n2(i: Case) -> Case:
    """The home's presence."""
    end = _end(i)
    persons = [
        PersonTrack(
            name=p["name"],
            state=from_changes(
                np.array([_ms(c["t_s"]) for c in p["changes"]], dtype=np.int64),
                np.array([STATE_VALUE[c["state"]] for c in p["changes"]], dtype=np.int8),
                0,
                end,
            ),
            way_reports=tuple((_ms(w["t_s"]), w["on_way"]) for w in i["on_way"] if w["person"] == p["name"]),
        )
        for p in i["persons"]
    ]
    found = home_presence(
        persons,
        guests=[(_ms(begin), _ms(until)) for begin, until in i["guests"]],
        way_max_ms=_ms(i["way_max_s"]),
        least_ms=_least(i),
        initial=i["initial"],
        start_ms=0,
        end_ms=end,
    )
    rows = zip(found.state.at_ms, found.state.value, found.by, strict=True)
    return {"timeline": [{"t_s": int(t) // MS_PER_S, "state": STATE_OF[int(v)], "by": by} for t, v, by in rows]}


def n3(i: Case) -> Case:
    """A room's use."""
    end = _ms(i["end_s"])
    use = room_use([_sensor(s, i["reports"]) for s in i["sensors"]], _ms(i["idle_s"]), 0, end)

    def seconds(value: int) -> int:
        begin, until = use.stretches(value)
        return int((until - begin).sum()) // MS_PER_S

    return {
        "timeline": [
            {"t_s": int(t) // MS_PER_S, "state": USE_WORD[int(v)]} for t, v in zip(use.at_ms, use.value, strict=True)
        ],
        "in_use_s": seconds(TRUE),
        "not_known_s": seconds(UNKNOWN),
    }


def _sensor(s: Case, reports: list[Case]) -> RoomSensor:
    own = [r for r in reports if r["sensor"] == s["id"]]
    return RoomSensor(
        at_ms=np.array([_ms(r["t_s"]) for r in own], dtype=np.int64),
        says=np.array([SAYS_VALUE[r["says"]] for r in own], dtype=np.int8),
        hold_ms=_ms(s["hold_s"]),
        sends_off=s["sends_off"],
        stale_ms=None if s["stale_s"] is None else _ms(s["stale_s"]),
    )


def n4(i: Case) -> Case:
    """When a room is really used."""
    found = usage_profile(
        [
            UsedDay(
                weekday=d["weekday"],
                used_min=tuple(map(tuple, d["in_use_min"])),
                known_min=tuple(map(tuple, d["known_min"])),
            )
            for d in i["days"]
        ],
        i["groups"],
        ProfileSettings(
            range_min=tuple(i["range_min"]),
            slot_min=i["slot_min"],
            use_share=i["use_share"],
            z=i["z"],
            min_days=i["min_days"],
            lower_least=i["lower_min"],
            fill_slots=i["fill_slots"],
            least_slots=i["least_slots"],
        ),
    )
    return {
        "groups": {
            name: {
                "k": p.used_days.tolist(),
                "n": p.days.tolist(),
                "share": _or_none(p.share),
                "low": _or_none(p.low),
                "high": _or_none(p.high),
                "blocks": [list(block) for block in p.blocks_min],
            }
            for name, p in found.items()
        }
    }


def _or_none(values: Floats) -> list[float | None]:
    return [None if isnan(value) else float(value) for value in values]


def q1(i: Case) -> Case:
    """How long to wait before off."""
    sensor = RoomSensor(
        at_ms=np.array([_ms(t) for t, _ in i["reports"]], dtype=np.int64),
        says=np.array([SAYS_VALUE[says] for _, says in i["reports"]], dtype=np.int8),
        hold_ms=_ms(i["hold_s"]),
        sends_off=i["sends_off"],
        stale_ms=None,
    )
    use = np.array([[_ms(begin), _ms(until)] for begin, until in i["use"]], dtype=np.int64).reshape(-1, 2)
    try:
        found = idle_time(
            [sensor],
            (use[:, 0], use[:, 1]),
            i["waits_s"],
            IdlePrices(wrong_off=i["wrong_off_price"], power_w=i["watts"], per_kwh=i["price_per_kWh"]),
            end_ms=_ms(i["end_s"]),
        )
    except OutOfRange as error:
        return {"refused": "no_time" if error.unit else "no_waits"}
    return {"rows": [asdict(row) for row in found.rows], "best_s": found.best.wait_s, "span_s": list(found.span_s)}


def _said(reports: list[tuple[int, str]], minutes: int) -> Bytes:
    """Return a witness's word in each minute from its reports."""
    said = np.full(minutes, UNKNOWN, dtype=np.int8)
    for minute, word in reports:
        said[max(0, minute) :] = WORD[word]
    return said


def q2(i: Case) -> Case:
    """What a witness's word is worth."""
    minutes = i["minutes"]
    truth = np.full(minutes, UNKNOWN, dtype=np.int8)
    for begin, until, word in i["truth"]:
        truth[begin:until] = WORD[word]
    said = [_said(w["reports"], minutes) for w in i["witnesses"]]
    rows = []
    for w, own in zip(i["witnesses"], said, strict=True):
        trust = witness_trust(own, truth, i["window_min"])
        rows.append(
            {
                "id": w["id"],
                "in": _right(trust.right_in),
                "out": _right(trust.right_out),
                "late_in": asdict(trust.late_in),
                "late_out": asdict(trust.late_out),
            }
        )
    names = [w["id"] for w in i["witnesses"]]
    pairs = [
        {"a": names[p.one], "b": names[p.other], "n": p.minutes, "agree": p.agree, "share": p.share, "same": p.is_same}
        for p in same_pairs(said, i["same_share"])
    ]
    return {"witnesses": rows, "pairs": pairs}


def _right(share: ShareRight) -> Case:
    told = asdict(share)
    return {"n_min": told.pop("minutes"), "right_min": told.pop("right_minutes"), **told}


METHODS: Mapping[str, Callable[[Case], Case]] = {
    "N1.person_presence": n1,
    "N2.home_presence": n2,
    "N3.room_use": n3,
    "N4.usage_profile": n4,
    "Q1.idle_time": q1,
    "Q2.witness_trust": q2,
}
