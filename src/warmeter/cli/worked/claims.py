"""Worked examples of claims (J5, J9)."""

from collections.abc import Callable

from warmeter.cli.worked import Case
from warmeter.core.claims.arbiter import PRIORITY, Claim, Guard, decisions
from warmeter.core.claims.timeline import TimelineEvent, base_of, timeline

_MS = 1000


def _claim(row: Case, name: str) -> Claim:
    kind = row.get("kind", "")
    return Claim(
        kind=kind if kind in PRIORITY else "timetable",
        value=row["setpoint_C"] if "setpoint_C" in row else row["value"],
        from_ms=row["from_s"] * _MS,
        until_ms=None if row["until_s"] is None else row["until_s"] * _MS,
        id=row[name],
        rule=row.get("rule", ""),
        priority=float(row["priority"]),
    )


def j5(i: Case) -> Case:
    """Who decides at an instant."""
    claims = [_claim(row, "source") for row in i["claims"]]
    guard = Guard(low=i["guard_C"][0], high=i["guard_C"][1])
    now = i["now_s"] * _MS
    found = decisions(claims, base_of(i["base_C"], 0), [guard], now, now + 1)[0]
    winner = None if found.claim.id == "base" and found.claim.kind == "base" else found.claim.id
    return {"winner": winner, "setpoint_C": found.value}


def _guard(row: Case) -> Guard:
    return Guard(
        low=row["clamp"][0],
        high=row["clamp"][1],
        from_ms=row["from_s"] * _MS,
        until_ms=None if row["until_s"] is None else row["until_s"] * _MS,
        id=row["id"],
    )


def _happening(row: Case) -> TimelineEvent:
    def ms(name: str) -> int | None:
        return None if row.get(name) is None else row[name] * _MS

    return TimelineEvent(
        at_ms=row["t_s"] * _MS,
        do=row["do"],
        id=row.get("id", ""),
        value=row.get("value", 0.0),
        until_ms=ms("until_s"),
        empty_ms=ms("empty_s"),
        state=row.get("state", "not_known"),
        rule=row.get("rule", ""),
    )


def j9(i: Case) -> Case:
    """Who decides through a day."""
    found = timeline(
        [_claim(row, "id") for row in i["claims"] if "clamp" not in row],
        [_guard(row) for row in i["claims"] if "clamp" in row],
        [_happening(row) for row in i["events"]],
        base=base_of(i["base_value"], i["start_s"] * _MS),
        room=i["room"],
        start_ms=i["start_s"] * _MS,
        end_ms=i["end_s"] * _MS,
    )
    # The example lists an entry only where value, asked, by, clamped or refused differ.
    found = [entry for k, entry in enumerate(found) if not k or not entry.same_as(found[k - 1])]
    return {
        "timeline": [
            {
                "t_s": entry.at_ms // _MS,
                "value": entry.value,
                "asked": entry.decision.value,
                "by": entry.decision.claim.id,
                "clamped": entry.decision.is_clamped,
                "refused": entry.is_refused,
            }
            for entry in found
        ]
    }


METHODS: dict[str, Callable[[Case], Case]] = {"J5.priority": j5, "J9.claims_timeline": j9}
