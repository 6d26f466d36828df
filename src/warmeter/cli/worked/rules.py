"""Worked examples of rules (J1 to J4, J6, J10, J11, J13, J14)."""

from collections.abc import Callable

import numpy as np

from warmeter.cli.worked import Case
from warmeter.core.rule.chatter import chatter
from warmeter.core.rule.dark import dark_stretches, evening_stretches
from warmeter.core.rule.day_fact import fact_of_day
from warmeter.core.rule.renotify import never_quiet, notices, quiet_by_minute
from warmeter.core.rule.sequence import Pair, sequences
from warmeter.core.rule.switching import Change, debounced, two_step, with_minimum_times
from warmeter.core.rule.track import Track, heard, moving, silent
from warmeter.core.rule.truth import TRUE, Stretches, Truth
from warmeter.core.timegrid import LocalClock, parse_utc, utc_text

_MS = 1000
_FOR_EVER_MS = 10**12


def _minute(clock: str) -> int:
    hour, _, minute = clock.partition(":")
    return 60 * int(hour) + int(minute)


def j1(i: Case) -> Case:
    """Hysteresis."""
    on = two_step(i["value"], low=i["low"], high=i["high"], mode=i["mode"], is_on=i["initial_on"])
    return {"on": on, "switches": sum(a != b for a, b in zip([i["initial_on"], *on], on, strict=False))}


def j2(i: Case) -> Case:
    """Waiting."""
    found = debounced(
        [Change(row["t_s"], row["value"]) for row in i["changes"]],
        for_true_s=i["for_true_s"],
        for_false_s=i["for_false_s"],
        end_s=i["end_s"],
    )
    return {"transitions": [{"t_s": change.at_s, "active": change.is_on} for change in found]}


def j3(i: Case) -> Case:
    """Minimum times."""
    found = with_minimum_times(
        [Change(row["t_s"], row["on"]) for row in i["requests"]],
        min_on_s=i["min_on_s"],
        min_off_s=i["min_off_s"],
        last_change_s=i["last_change_s"],
        is_on=i["initial_on"],
        end_s=i["end_s"],
    )
    return {"transitions": [{"t_s": change.at_s, "on": change.is_on} for change in found]}


def j4(i: Case) -> Case:
    """Reminders."""
    quiet = i["quiet_min_of_day"]
    found = notices(
        [(a, b) for a, b in i["true_intervals_s"]],
        after=i["after_s"],
        repeat=i["repeat_s"],
        most=i["max_count"],
        quiet=never_quiet if quiet is None else quiet_by_minute(*quiet),
        end=i["end_s"],
    )
    return {"notify_s": found}


def j6(i: Case) -> Case:
    """Chatter."""
    found = chatter(i["on_intervals_s"], min_on_s=i["min_on_s"], window_s=i["window_s"], span_s=i["span_s"])
    return {
        "switches": found.switches,
        "switches_per_h": found.switches_per_h,
        "max_in_window": found.most_in_window,
        "short_on": found.short_on,
        "starts": found.starts,
        "chatter_index": found.index,
    }


def j10(i: Case) -> Case:
    """Has run today."""
    runs = [(parse_utc(a), None if b is None else parse_utc(b)) for a, b in i["runs_utc"]]
    found = [
        fact_of_day(
            LocalClock(i["tz"]),
            runs,
            counts=i["counts"],
            least_s=i["min_s"],
            reset_min=_minute(i["reset_local"]),
            at_ms=parse_utc(at),
        )
        for at in i["at_utc"]
    ]
    return {
        "value": [fact.value for fact in found],
        "day_start_utc": [utc_text(fact.day_start_ms) for fact in found],
        "ran_s": [fact.ran_s for fact in found],
    }


def j11(i: Case) -> Case:
    """A then B unless C."""
    found = sequences(
        [(row["t_s"], row["e"]) for row in i["events"]],
        within_ms=i["within_s"],
        cancel_ms=i["cancel_s"],
        is_first=i["repeat_a"] == "first",
        end_ms=i["end_s"],
    )

    def rows(pairs: tuple[Pair, ...], name: str) -> list[Case]:
        return [{"a_s": p.a_ms, "b_s": p.b_ms} | ({name: p.at_ms} if name else {}) for p in pairs]

    return {
        "fired": rows(found.told, "at_s"),
        "cancelled": rows(found.cancelled, "by_s"),
        "pending": rows(found.pending, ""),
    }


def j13(i: Case) -> Case:
    """Rising, falling, silent."""
    start, end = i["start_s"] * _MS, i["end_s"] * _MS + 1
    track = Track(
        np.array([row["t_s"] * _MS for row in i["samples"]], dtype=np.int64),
        np.array([np.nan if row["value"] is None else row["value"] for row in i["samples"]]),
    )
    known = heard(track, _FOR_EVER_MS if i["silent_s"] is None else i["silent_s"] * _MS)
    states: list[tuple[str, Truth]] = []
    if i["silent_s"] is not None:
        states.append(("silent", silent(track, i["silent_s"] * _MS, start, end)))
    for what in ("rising", "falling"):
        truth = moving(
            known, by=i["by"], within_ms=i["within_s"] * _MS, is_rising=what == "rising", start_ms=start, end_ms=end
        )
        states.append((what, truth))
    found = [
        {"t_s": at // _MS, "what": what, "value": value}
        for what, truth in states
        for begin, until in zip(*truth.stretches(TRUE), strict=True)
        for at, value in ((int(begin), True), (int(until), False))
        if at < end
    ]
    order = [what for what, _ in states]
    return {"transitions": sorted(found, key=lambda row: (row["t_s"], order.index(row["what"])))}


def j14(i: Case) -> Case:
    """Dark and evening."""
    start, end = parse_utc(i["from_utc"]), parse_utc(i["to_utc"])
    sky = {"latitude_deg": i["lat_deg"], "longitude_deg": i["lon_deg_east"], "below_deg": i["below_deg"]}

    def rows(stretches: Stretches) -> list[list[float]]:
        return [[(int(a) - start) / _MS, (int(b) - start) / _MS] for a, b in zip(*stretches, strict=True)]

    asked = i["evening"]
    evening = None
    if asked is not None:
        evening = rows(
            evening_stretches(
                LocalClock(i["tz"]),
                **sky,
                which=asked["which"],
                clock_min=None if asked["clock"] is None else _minute(asked["clock"]),
                until_min=_minute(asked["until"]),
                start_ms=start,
                end_ms=end,
            )
        )
    return {"dark": rows(dark_stretches(**sky, start_ms=start, end_ms=end)), "evening": evening}


METHODS: dict[str, Callable[[Case], Case]] = {
    "J1.hysteresis": j1,
    "J2.debounce": j2,
    "J3.min_on_off": j3,
    "J4.renotify": j4,
    "J6.chatter": j6,
    "J10.fact_of_day": j10,
    "J11.sequence": j11,
    "J13.rise_fall": j13,
    "J14.dark": j14,
}
