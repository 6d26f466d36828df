"""A rule over a stretch of its logs as a strip: what it watches, what it may, what it asks, and when it fired."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.claims.arbiter import Decision
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.machine_does import MachineDoes
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.conditions.silent import Silent
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule, SetLevel, SetPoint
from warmeter.core.home.zones import Zone
from warmeter.core.rule.actions import zone_claims
from warmeter.core.timetable.day import blocks_between, setpoint_decisions, timetable_claims
from warmeter.core.truth.track import value_of
from warmeter.core.truth.truth import TRUE, UNKNOWN, Truth
from warmeter.core.units import MS_PER_DAY, MS_PER_H, MS_PER_MIN, celsius_to, kelvin_to
from warmeter.service.rules.replays import Replay, RuleReplay
from warmeter.web import format as show
from warmeter.web.rules.wording import RuleWording
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import (
    Axis,
    Curve,
    Lane,
    ReferenceLine,
    StripBlock,
    StripStretch,
    StripView,
    Tick,
    gutter_name,
)
from warmeter.web.timetable.lanes import hatch_step

POINTS = 1400
MOST_LANES = 6
WIDE_NAME, WIDE_PX = 28, 196
WHY_HELD = {
    "suspended": "suspended",
    "locked": "locked after too many starts",
    "cool_off": "cooling off",
    "most_a_day": "often enough that day",
    "as_long_as": "as long as did not hold",
    "only_while": "only while did not hold",
    "too_soon": "within a minute of the last",
    "chatter": "too many starts",
    "min_off": "had not rested long enough",
}
WHY_ENDED = {
    "as_long_as": "as long as ended",
    "stale": "no data",
    "when": "put back",
    "after": "its time was over",
    "at": "the clock",
    "done": "done",
    "restarted": "begun anew",
}


def rule_strip(wording: RuleWording, replay: Replay, found: RuleReplay, width: int, *, ago: int) -> DrawnStrip:
    """Return a rule's strip over the replayed stretch for a width [px]."""
    rule, scope = wording.rule, replay.scope
    axis = stretch_axis(wording.home, replay)
    lanes = [*_watch_lanes(wording, replay), *_guard_lanes(wording, replay), *_zone_lanes(wording, replay, found)]
    lanes = [
        *lanes[:MOST_LANES],
        rule_lane(
            replay, found, name=f"Rule {ago}", note="triggered, suppressed", needless=_needless(rule, replay, found)
        ),
    ]
    return draw(
        StripView(
            id="rule",
            title=f"{rule.name}, replayed",
            axis=axis,
            lanes=lanes,
            width=width,
            attributes={"data-zoom": "1", "data-since": str(scope.start_ms), "data-snap": "5 1"},
        )
    )


def all_rules_strip(home: Home, replay: Replay, width: int) -> DrawnStrip:
    """Return every rule's lane over the replayed stretch, with what it came to at the right."""
    height = 20 if len(home.rules) > 16 else 28
    lanes = []
    for number, rule in enumerate(home.rules, 1):
        found = replay.rules.get(rule.id)
        if found is not None:
            lane = rule_lane(replay, found, name=show.shortened(f"{number} {rule.name}", WIDE_NAME), height=height)
            count = f"{len(found.rule_run.firings)}"
            lanes.append(replace(lane, table=[([count] * POINTS, "×", "")]))
    return draw(
        StripView(
            id="all",
            title="All rules",
            axis=stretch_axis(home, replay),
            lanes=lanes,
            width=width,
            left=WIDE_PX,
            attributes={"data-zoom": "1", "data-since": str(replay.scope.start_ms), "data-snap": "5 1"},
        )
    )


def stretch_axis(home: Home, replay: Replay) -> Axis:
    """Return the axis of a replayed stretch in minutes: a grid line each midnight, the names of days, the clock's names."""
    scope = replay.scope
    minutes = (scope.end_ms - scope.start_ms) / MS_PER_MIN
    days = scope.clock.days(scope.start_ms, scope.end_ms)
    every = max(1, -(-len(days) // 10))
    grid, numerals = [], []
    for k, day in enumerate(days):
        at = (day.start_ms - scope.start_ms) / MS_PER_MIN
        if at >= 0:
            grid.append((at, k % every == 0))
        noon = (scope.clock.instant(day.date, 720) - scope.start_ms) / MS_PER_MIN
        if k % every == 0 and 0 < noon < minutes:
            name = f"{day.date:%a} {day.date.day}" if len(days) <= 10 else show.day_short(day.date, home.country)
            numerals.append((noon, name))
    at_ms = _instants(replay).astype(np.int64)
    names = [(k * minutes / POINTS, scope.clock.abbreviation(t)) for k, t in enumerate(at_ms.tolist()) if k % 50 == 0]
    return Axis(
        length=minutes,
        grid=grid,
        numerals=numerals,
        table_step=minutes / POINTS,
        table_times=[f"{scope.clock.local(t):%a %d %H:%M}" for t in at_ms.tolist()],
        crosshair=0.6 * minutes,
        clock_names=[n for k, n in enumerate(names) if not k or n[1] != names[k - 1][1]],
    )


def _instants(replay: Replay) -> Floats:
    scope = replay.scope
    return scope.start_ms + np.arange(POINTS, dtype=np.float64) * ((scope.end_ms - scope.start_ms) / POINTS)


def _place(replay: Replay, at_ms: int) -> float:
    return (at_ms - replay.scope.start_ms) / MS_PER_MIN


def _bars(truth: Truth, replay: Replay, *, is_yes: bool = True) -> list[StripStretch]:
    """Return the stretches in which something holds, and hatched those in which it is not known."""
    found = []
    for value, css in ((TRUE if is_yes else 0, "wm-bar"), (UNKNOWN, "wm-gap")):
        for begin, until in zip(*(edge.tolist() for edge in truth.stretches(value)), strict=True):
            found.append(StripStretch(start=_place(replay, begin), end=_place(replay, until), css=css))
    return found


def _yes_no(truth: Truth, replay: Replay, words: tuple[str, str]) -> list[str]:
    said = {TRUE: words[1], UNKNOWN: "", 0: words[0]}
    return [said[int(v)] for v in truth.at(_instants(replay).astype(np.int64)).tolist()]


def _watch_lanes(wording: RuleWording, replay: Replay) -> Iterator[Lane]:
    """Yield a lane for each signal that the rule looks at, once."""
    seen: set[object] = set()
    evaluator, stale = replay.evaluator, wording.rule.limits.stale_s
    for condition in wording.rule.conditions:
        for lane_key, lane in _lanes_of(wording, replay, evaluator.truth(condition, stale), condition):
            if lane_key not in seen:
                seen.add(lane_key)
                yield lane


def _lanes_of(
    wording: RuleWording, replay: Replay, truth: Truth, condition: Condition
) -> Iterator[tuple[object, Lane]]:
    if isinstance(condition, InState):
        found = wording.signals.get(condition.of)
        words = found.states if found and found.states else ("no", "yes")
        bars = _bars(truth, replay, is_yes=condition.is_on)
        read = _yes_no(truth, replay, (words[0], words[1]) if condition.is_on else (words[1], words[0]))
        name = found.name if found else "gone"
        yield condition.of, Lane(name=gutter_name(name), height=26, stretches=bars, table=[(read, "", "")])
    elif isinstance(condition, MachineDoes):
        signal = Signal(quantity="electric_w", subject_id=condition.appliance_id)
        yield signal, _curve_lane(wording, replay, signal, (), is_power=True)
    elif isinstance(condition, Compared | Moving) and condition.minus is None:
        levels = _thresholds(condition) if isinstance(condition, Compared) else ()
        yield condition.of, _curve_lane(wording, replay, condition.of, levels)
    elif isinstance(condition, Compared | Moving) and condition.minus is not None:
        levels = _thresholds(condition) if isinstance(condition, Compared) else ()
        yield (condition.of, condition.minus), _curve_lane(wording, replay, condition.of, levels, minus=condition.minus)
    elif isinstance(condition, Silent):
        yield condition.of, _curve_lane(wording, replay, condition.of, ())


def _thresholds(condition: Compared) -> tuple[float, ...]:
    low, high = condition.bounds
    other = low - condition.hysteresis if condition.how == "over" else high + condition.hysteresis
    values = [v for v in (low, high) if np.isfinite(v)]
    return (*values, other) if condition.hysteresis and np.isfinite(other) else tuple(values)


def _curve_lane(
    wording: RuleWording,
    replay: Replay,
    signal: Signal,
    levels: tuple[float, ...],
    *,
    minus: Signal | None = None,
    is_power: bool = False,
) -> Lane:
    """Return a lane of a quantity, with the values at which the rule begins and ends."""
    home, unit = wording.home, wording.names.unit(signal)
    track = replay.evaluator.heard(signal, wording.rule.limits.stale_s, minus)
    values = value_of(track, _instants(replay).astype(np.int64))
    is_difference = minus is not None

    def shown(value: float) -> float:
        if unit != "°C":
            return value
        return (kelvin_to if is_difference else celsius_to)(value, home.temperature_unit)

    values = np.array([shown(v) for v in values.tolist()])
    marks = [shown(v) for v in levels]
    known = [*values[~np.isnan(values)].tolist(), *marks]
    low, high = (min(known), max(known)) if known else (0.0, 1.0)
    margin = max(0.08 * (high - low), 1e-6 + 0.02 * abs(high), 0.2)
    decimals = 0 if unit in ("%", "W") else 1
    name = wording.names.name(signal) + (f" less {wording.names.name(minus)}" if minus is not None else "")
    words = {"°C": show.difference_unit(home) if is_difference else show.temperature_unit(home), "price": "/kWh"}
    curve = Curve(values=values, css="wm-pw" if is_power or unit == "W" else "wm-temp", step=_length(replay) / POINTS)
    return Lane(
        name=gutter_name(name),
        note=words.get(unit, unit),
        height=54,
        low=0.0 if unit == "W" else low - margin,
        high=high + margin,
        axis=[(v, show.number(v, decimals)) for v in dict.fromkeys(round(v, 3) for v in marks[:2])],
        curves=() if unit == "W" else (curve,),
        fills=(curve,) if unit == "W" else (),
        levels=[
            ReferenceLine(value=v, css="wm-thr" if k == 0 else "wm-thr wm-dash", label="") for k, v in enumerate(marks)
        ],
        table=[(["" if np.isnan(v) else show.number(v, decimals) for v in values.tolist()], words.get(unit, unit), "")],
    )


def _length(replay: Replay) -> float:
    return (replay.scope.end_ms - replay.scope.start_ms) / MS_PER_MIN


def _guard_lanes(wording: RuleWording, replay: Replay) -> Iterator[Lane]:
    """Yield one lane for only while and one for as long as."""
    rule = wording.rule
    parts: tuple[tuple[str, Clauses], ...] = (("Only while", rule.only_while), ("As long as", rule.as_long_as))
    for name, clauses in parts:
        if clauses:
            truth = replay.evaluator.clauses(clauses, rule.limits.stale_s)
            read = _yes_no(truth, replay, ("no", "yes"))
            yield Lane(name=name, height=26, stretches=_bars(truth, replay), table=[(read, "", "")])


def zones_of(home: Home, rule: Rule) -> list[Zone]:
    """Return the zones that a rule acts on and that are there."""
    ids = [i for step in rule.then if isinstance(step, SetLevel | SetPoint) for i in step.zone_ids]
    return [zone for zone in home.zones if zone.id in ids]


def _zone_lanes(wording: RuleWording, replay: Replay, found: RuleReplay) -> Iterator[Lane]:
    """Yield a lane for each zone that the rule acts on: what is asked with it, and what was measured."""
    home, scope = wording.home, replay.scope
    for zone in zones_of(home, wording.rule)[:2]:
        claims = timetable_claims(blocks_between(home, zone, scope.clock, scope.start_ms, scope.end_ms), {})
        claims += zone_claims(home, zone, wording.rule, found.rule_run, scope.clock, end_ms=scope.end_ms)
        asked = setpoint_decisions(home, zone, claims, scope.start_ms, scope.end_ms)
        signal = Signal(quantity="room_temperature", subject_id=zone.room_ids[0] if zone.room_ids else None)
        track = replay.evaluator.heard(signal, 3600)
        values = value_of(track, _instants(replay).astype(np.int64))
        measured = celsius_to(values, home.temperature_unit)
        blocks = list(_asked_blocks(replay, asked, home))
        known = [*measured[~np.isnan(measured)].tolist(), *(b.value for b in blocks)]
        low, high = min(known) - 1.5, max(known) + 1.0
        yield Lane(
            name=gutter_name(zone.name),
            note=show.temperature_unit(home),
            height=86,
            low=low,
            high=high,
            axis=[(float(v), show.number(float(v))) for v in range(5 * int(low // 5 + 1), int(high) + 1, 5)],
            blocks=blocks,
            curves=(Curve(values=measured, css="wm-temp", step=_length(replay) / POINTS),),
            table=[
                (
                    ["" if np.isnan(v) else show.number(v, 1) for v in measured.tolist()],
                    show.temperature_unit(home),
                    "",
                ),
                (_asked_read(replay, asked, home), "", "set"),
            ],
        )


def _asked_blocks(replay: Replay, asked: list[Decision], home: Home) -> Iterator[StripBlock]:
    ends = [d.at_ms for d in asked[1:]] + [replay.scope.end_ms]
    for decision, end in zip(asked, ends, strict=True):
        value = celsius_to(decision.value, home.temperature_unit)
        yield StripBlock(
            start=_place(replay, decision.at_ms),
            end=_place(replay, end),
            value=value,
            label="",
            hatch=hatch_step(decision.value),
        )


def _asked_read(replay: Replay, asked: list[Decision], home: Home) -> list[str]:
    at = np.array([d.at_ms for d in asked], dtype=np.int64)
    place = np.maximum(np.searchsorted(at, _instants(replay), side="right") - 1, 0)
    texts = [show.temperature(d.value, home) for d in asked]
    return [texts[k] for k in place.tolist()]


def rule_lane(
    replay: Replay, found: RuleReplay, *, name: str, note: str = "", height: int = 44, needless: Sequence[int] = ()
) -> Lane:
    """Return a rule's lane: a tick where it fired, a cross where that was needless, a bar while it holds, hollow if held back."""
    scope, rule_run = replay.scope, found.rule_run
    clock = scope.clock
    ticks = [
        Tick(
            at=_place(replay, h.at_ms),
            is_hollow=True,
            title=f"{clock.local(h.at_ms):%a %d %b %H:%M} suppressed: {WHY_HELD[h.why]}",
        )
        for h in rule_run.held_back
    ]
    ticks += [
        Tick(
            at=_place(replay, f.at_ms),
            title=f"{clock.local(f.at_ms):%a %d %b %H:%M} triggered{f', then {WHY_ENDED[f.why]}' if f.why else ''}",
        )
        for f in rule_run.firings
    ]
    ticks += [Tick(at=_place(replay, n.at_ms), is_notice=True) for n in found.notices]
    ticks += [Tick(at=_place(replay, at), is_false=True) for at in needless]
    bars = [
        StripStretch(
            start=_place(replay, f.at_ms),
            end=_place(replay, scope.end_ms if f.end_ms is None else f.end_ms),
            css="wm-bar wm-holds",
        )
        for f in rule_run.firings
        if f.end_ms is None or f.end_ms > f.at_ms
    ]
    return Lane(
        name=name, note=note, height=height, stretches=bars, ticks=ticks, table=[(_holds_read(replay, found), "", "")]
    )


def _needless(rule: Rule, replay: Replay, found: RuleReplay) -> list[int]:
    """Return firings outside everything that a person marked as what it should catch; none where nothing is marked."""
    inside = [m for m in rule.marks if m.end_ms > replay.scope.start_ms and m.start_ms < replay.scope.end_ms]
    fired = [f.at_ms for f in found.rule_run.firings]
    return [at for at in fired if not any(m.start_ms <= at < m.end_ms for m in inside)] if inside else []


def _holds_read(replay: Replay, found: RuleReplay) -> list[str]:
    at = _instants(replay)
    read = np.full(at.size, "", dtype=object)
    for firing in found.rule_run.firings:
        end = replay.scope.end_ms if firing.end_ms is None else firing.end_ms
        read[(at >= firing.at_ms) & (at < end)] = "holds"
    return [str(text) for text in read.tolist()]


def span_text(minutes: float) -> str:
    """Return a length in words: 23 min, 3 h 05 min, 2.5 days."""
    days = minutes * MS_PER_MIN / MS_PER_DAY
    return f"{show.number(days, 1)} days" if minutes * MS_PER_MIN > 48 * MS_PER_H else show.duration(minutes)
