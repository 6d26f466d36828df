"""``warmeter presence``: who was in, and which rooms were in use, by minute, from a home and a log as files."""

import argparse
import json
from typing import Any

from warmeter.cli.files import read_home, read_mapped_log
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.presence.guest_stays import guest_stays
from warmeter.core.presence.household_presence import HouseholdPresence, JudgedPerson, household_presence, minutes_of
from warmeter.core.presence.presence_log import PRESENCE_QUANTITIES, PresenceLog
from warmeter.core.presence.presence_states import STATE_OF
from warmeter.core.presence.room_presence import RoomPresence, rooms_presence
from warmeter.core.presence.witness_trust import Lateness, ShareRight
from warmeter.core.readings.csvlog import ReadLog
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.units import MS_PER_MIN, MS_PER_S, S_PER_MIN

Answer = dict[str, Any]
IN_USE = {TRUE: "in_use", FALSE: "empty", UNKNOWN: "not_known"}
CHANCE_DECIMALS = 3


def run(options: argparse.Namespace) -> int:
    """Print the estimate; 1 where nobody's presence and no room's use is known at any time."""
    home = read_home(options.home)
    log = presence_log_of(read_mapped_log(options, home))
    clock = LocalClock(home.time_zone)
    household = household_presence(home, log, guest_stays(home, clock, log.start_ms, log.end_ms))
    rooms = rooms_presence(home, log, household, clock)
    answer = _answer(home, log, household, rooms)
    if options.json:
        print(json.dumps(answer, ensure_ascii=False))
    else:
        _print(answer)
    is_known = bool((household.home.state.value != UNKNOWN).any()) or any((r.state != UNKNOWN).any() for r in rooms)
    return 0 if is_known else 1


def presence_log_of(log: ReadLog) -> PresenceLog:
    """Return what a log tells of presence.

    Raises
    ------
    NotKnowable
        If it tells nothing of it.
    """
    tracks, holds = {}, {}
    for each in log.series:
        key = each.record.quantity, each.record.subject
        if key[0] in PRESENCE_QUANTITIES:
            readings = each.readings.in_stored_unit(each.record)
            tracks[key] = Track(readings.at_ms, readings.value)
            holds[key] = each.record.longest_hold_s * MS_PER_S
    heard = [track for track in tracks.values() if track.at_ms.size]
    if not heard:
        raise NotKnowable("The log tells nothing of presence.", "Record telephones, doors, motion or beds.")
    start = min(int(t.at_ms[0]) for t in heard) // MS_PER_MIN * MS_PER_MIN
    end = (max(int(t.at_ms[-1]) for t in heard) // MS_PER_MIN + 1) * MS_PER_MIN
    return PresenceLog(tracks=tracks, start_ms=start, end_ms=end, holds_ms=holds)


def _answer(home: Home, log: PresenceLog, household: HouseholdPresence, rooms: tuple[RoomPresence, ...]) -> Answer:
    minutes = minutes_of(log.start_ms, log.end_ms)
    names = {room.id: room.name for room in home.rooms}
    return {
        "start": from_ms(log.start_ms).isoformat(),
        "step_s": S_PER_MIN,
        "minutes": int(minutes.size),
        "home": [STATE_OF[int(v)] for v in household.home.state.at(minutes)],
        "persons": [_person(each, minutes) for each in household.persons],
        "rooms": [
            {
                "id": each.room_id,
                "name": names[each.room_id],
                "state": [IN_USE[int(v)] for v in each.state],
                "chance": [round(float(v), CHANCE_DECIMALS) for v in each.probability.chance],
            }
            for each in rooms
        ],
    }


def _person(judged: JudgedPerson, minutes: Any) -> Answer:
    return {
        "id": judged.person.id,
        "name": judged.person.name,
        "state": [STATE_OF[int(v)] for v in judged.presence.state.at(minutes)],
        "witnesses": [
            {
                "id": each.witness.id,
                "kind": each.witness.kind,
                "heard": each.reports is not None,
                "trust_in": None if each.reports is None else each.reports.trust_in,
                "trust_out": None if each.reports is None else each.reports.trust_out,
                "learnt": each.is_learnt_in or each.is_learnt_out,
                "same_as": each.same_as or None,
                "against_the_others": None
                if each.against_others is None
                else {
                    "in": _right(each.against_others.right_in),
                    "out": _right(each.against_others.right_out),
                    "late_in": _late(each.against_others.late_in),
                    "late_out": _late(each.against_others.late_out),
                },
            }
            for each in judged.witnesses
        ],
    }


def _right(share: ShareRight) -> Answer:
    return {"share": share.share, "low": share.low_runs, "high": share.high_runs, "runs": share.runs}


def _late(late: Lateness) -> Answer:
    return {
        "matched": late.matched,
        "missed": late.missed,
        "extra": late.extra,
        "median_min": late.median_min,
        "q1_min": late.q1_min,
        "q3_min": late.q3_min,
    }


def _print(answer: Answer) -> None:
    """Print what share of the minutes each was in, out and not known."""
    print(f"from {answer['start']}, {answer['minutes']} minutes")
    rows = [("home", answer["home"]), *((p["name"], p["state"]) for p in answer["persons"])]
    rows += [(r["name"], r["state"]) for r in answer["rooms"]]
    for name, states in rows:
        shares = ", ".join(
            f"{state.replace('_', ' ')} {states.count(state) / len(states):.1%}" for state in sorted(set(states))
        )
        print(f"{name}: {shares}")
    for person in answer["persons"]:
        for each in person["witnesses"]:
            told = (
                "never heard"
                if not each["heard"]
                else f"trusted {each['trust_in']:.2f} in, {each['trust_out']:.2f} out"
            )
            print(f"{person['name']}, {each['kind'].replace('_', ' ')}: {told}")
