"""Worked examples of rules (J1 to J4, J6, J10 to J14)."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from warmeter.cli.worked import Case, utc_text
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.rules import LIMITS, MarkFact, PutBack, Rule, RuleLimits
from warmeter.core.rule.asking import AskTerms, AskWish, GivenAnswer, ask_run
from warmeter.core.rule.chatter import chatter
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.notifications import notices, quiet_by_clock
from warmeter.core.rule.run import RuleRun, rule_run_of
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.truth.day_resets import reached_ms, resets_ms
from warmeter.core.truth.in_sequence import SequencePair, sequences
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.sun_states import dark_stretches, evening_stretches
from warmeter.core.truth.track import Track, heard, moving, silent
from warmeter.core.truth.truth import TRUE, Stretches, Truth

_MS = 1000
_FOR_EVER_MS = 10**12


def _minute(clock: str) -> int:
    hour, _, minute = clock.partition(":")
    return 60 * int(hour) + int(minute)


_SEEN = Signal(quantity="is_on", subject_id="it")


def _scope(track: Track, start_s: int, end_s: int) -> Scope:
    """Return a stretch [start, end] in which one signal is heard and never grows stale."""
    return Scope(
        start_ms=start_s * _MS,
        end_ms=end_s * _MS + 1,
        clock=LocalClock("UTC"),
        tracks={_SEEN: track},
        holds_s={_SEEN: _FOR_EVER_MS // _MS},
    )


def _reports(rows: Sequence[tuple[float, float]]) -> Track:
    return Track(np.array([round(at * _MS) for at, _ in rows], dtype=np.int64), np.array([value for _, value in rows]))


def j1(i: Case) -> Case:
    """Hysteresis, as a comparison of a rule: the state before the first value comes from one far beyond either end."""
    is_heat = i["mode"] == "heat"
    far = 1e6 if i["initial_on"] != is_heat else -1e6
    values = [np.nan if v is None else v for v in i["value"]]
    rows = [(-1, far), *((t, v) for t, v in enumerate(values) if not np.isnan(v))]
    condition = Compared(
        of=_SEEN,
        how="under" if is_heat else "over",
        value=i["low"] if is_heat else i["high"],
        hysteresis=i["high"] - i["low"],
    )
    truth = ConditionEvaluator(_scope(_reports(rows), -1, len(values))).truth(condition, 60)
    on = [bool(v == TRUE) for v in truth.at(np.arange(len(values)) * _MS)]
    return {"on": on, "switches": sum(a != b for a, b in zip([i["initial_on"], *on], on, strict=False))}


def _changes(rule_run: RuleRun, name: str) -> list[Case]:
    """Return the beginnings and ends of a rule's firings."""
    found = [(f.at_ms, True) for f in rule_run.firings]
    found += [(f.end_ms, False) for f in rule_run.firings if f.end_ms is not None]
    return [{"t_s": at // _MS, name: value} for at, value in sorted(found)]


def _followed(for_s: int, back_s: int, limits: RuleLimits) -> Rule:
    """Return a rule that holds while its signal is on, each side after holding so long."""
    return Rule(
        id="r",
        name="Followed",
        watch=((InState(of=_SEEN),),),
        reading="is",
        for_s=for_s,
        then=(MarkFact(word="on"),),
        put_back=PutBack(when=((InState(of=_SEEN, is_on=False),),), for_s=back_s),
        limits=replace(limits, lock_for_s=0),
    )


def j2(i: Case) -> Case:
    """Waiting, as the *for* of a rule and of its putting back."""
    rows = [(-1, 0.0), *((row["t_s"], float(row["value"])) for row in i["changes"])]
    rule = _followed(i["for_true_s"], i["for_false_s"], LIMITS)
    return {
        "transitions": _changes(rule_run_of(rule, ConditionEvaluator(_scope(_reports(rows), -1, i["end_s"]))), "active")
    }


def j3(i: Case) -> Case:
    """Minimum times, as the limits of a rule that was last begun or ended when the example says."""
    limits = replace(LIMITS, min_on_s=i["min_on_s"], min_off_s=i["min_off_s"])
    last = i["last_change_s"]
    before = last - i["min_on_s"] - 1
    rows = [(before - 1, 0.0), (last, 1.0)] if i["initial_on"] else [(before - 1, 0.0), (before, 1.0), (last, 0.0)]
    # What is asked in the very instant of the last change comes just after it.
    rows += [(row["t_s"] + 0.001 * (row["t_s"] == last), float(row["on"])) for row in i["requests"]]
    rule_run = rule_run_of(_followed(0, 0, limits), ConditionEvaluator(_scope(_reports(rows), before - 1, i["end_s"])))
    return {"transitions": [row for row in _changes(rule_run, "on") if row["t_s"] > last]}


def j4(i: Case) -> Case:
    """Reminders."""
    quiet = i["quiet_min_of_day"]
    # Second 0 is a midnight; hours of no length are never quiet.
    found = notices(
        [(a * _MS, b * _MS) for a, b in i["true_intervals_s"]],
        after=i["after_s"] * _MS,
        repeat=i["repeat_s"] * _MS,
        most=i["max_count"],
        quiet=quiet_by_clock(LocalClock("UTC"), *(quiet or (0, 0))),
        end=i["end_s"] * _MS,
    )
    return {"notify_s": [at // _MS for at in found]}


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
    clock, reset = LocalClock(i["tz"]), _minute(i["reset_local"])
    runs = [(parse_utc(a), None if b is None else parse_utc(b)) for a, b in i["runs_utc"]]
    value, begun, ran_s = [], [], []
    for at in map(parse_utc, i["at_utc"]):
        begin = resets_ms(clock, at, at + 1, reset)[0]
        known = [(a, b) for a, b in runs if a <= at]
        reached = reached_ms(known, counts=i["counts"], least_s=i["min_s"], begin_ms=begin, until_ms=at + 1)
        value.append(reached is not None)
        begun.append(utc_text(begin))
        ran_s.append(sum(max(0, min(at if b is None else b, at) - max(a, begin)) for a, b in known) / _MS)
    return {"value": value, "day_start_utc": begun, "ran_s": ran_s}


def j11(i: Case) -> Case:
    """A then B unless C."""
    found = sequences(
        [(row["t_s"], row["e"]) for row in i["events"]],
        within_ms=i["within_s"],
        cancel_ms=i["cancel_s"],
        is_first=i["repeat_a"] == "first",
        end_ms=i["end_s"],
    )

    def rows(pairs: tuple[SequencePair, ...], name: str) -> list[Case]:
        return [{"a_s": p.a_ms, "b_s": p.b_ms} | ({name: p.at_ms} if name else {}) for p in pairs]

    return {
        "fired": rows(found.told, "at_s"),
        "cancelled": rows(found.cancelled, "by_s"),
        "pending": rows(found.pending, ""),
    }


def j12(i: Case) -> Case:
    """A question, its answers, and none."""
    terms = AskTerms(
        options=tuple(i["options"]),
        wait=i["wait_s"] * _MS,
        late=i["late_s"] * _MS,
        in_quiet=i["in_quiet"],
        # Second 0 is a midnight; hours of no length are never quiet.
        quiet=quiet_by_clock(LocalClock("UTC"), *(i["quiet_min_of_day"] or (0, 0))),
    )
    found = ask_run(
        [AskWish(at * _MS) for at in i["asks_s"]],
        [GivenAnswer(row["t_s"] * _MS, row["answer"]) for row in i["answers"]],
        terms,
        end=i["end_s"] * _MS,
    )
    steps = [(o.at // _MS, i["none_step"] if o.label is None else o.label, o.is_late) for o in found.outcomes]
    return {
        "asked_s": [at // _MS for at in found.asked],
        "steps": [{"t_s": at, "step": step, "late": is_late} for at, step, is_late in steps],
        "ignored": [{"t_s": answer.at // _MS, "why": why} for answer, why in found.ignored],
        "folded_s": [at // _MS for at in found.folded],
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
    "J12.ask": j12,
    "J13.rise_fall": j13,
    "J14.dark": j14,
}
