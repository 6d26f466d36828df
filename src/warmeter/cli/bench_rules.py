"""Speeds of rules: one and thirty over a year of minutes, sweeps, and the plain interpreter beside them."""

from dataclasses import replace
from functools import partial

import numpy as np

from warmeter.cli.bench_tools import cpu_seconds
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.conditions.of_signal import is_two_states
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.document import Home
from warmeter.core.home.rules import PutBack, Rule, RuleLimits, SetLevel
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.reference.interpreter import interpret
from warmeter.core.rule.ruleset import rule_runs_of
from warmeter.core.rule.run import RuleRun, rule_run_of
from warmeter.core.rule.tuning import Events, knobs_of, sweep, sweep_watch
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.truth.scope import LevelLine, Scope
from warmeter.core.truth.track import Track, heard
from warmeter.core.units import MIN_PER_DAY, MS_PER_DAY, MS_PER_H, MS_PER_MIN
from warmeter.service.homes.demo import demo_home

START_MS = parse_utc("2025-01-01T00:00:00Z")
MINUTES, PLAIN_DAYS = 525_600, 20
ROOM, DAMP, WINDOW = (Signal(quantity=q, subject_id="r") for q in ("room_temperature", "relative_humidity", "is_open"))
IDLE = (SetLevel(zone_ids=("z",), level_id="i"),)


def _wave(rng: np.random.Generator, middle: float, swing: float, noise: float) -> Track:
    """Return a year of minutes: a daily wave with noise."""
    minute = np.arange(MINUTES)
    value = (
        middle + swing * np.sin(2 * np.pi * minute / MIN_PER_DAY + rng.uniform(0, 6)) + rng.normal(0, noise, MINUTES)
    )
    return Track(START_MS + minute * MS_PER_MIN, value)


def _states(rng: np.random.Generator) -> Track:
    """Return a year of minutes of a contact: some two openings a day."""
    minute = np.arange(MINUTES)
    is_open = np.sin(minute / 300 + rng.uniform(0, 6)) > 0.97
    return Track(START_MS + minute * MS_PER_MIN, is_open.astype(np.float64))


def _tracks(rng: np.random.Generator, signals: set[Signal]) -> dict[Signal, Track]:
    """Return a year of minutes for each signal, by what it is."""
    usual = {"relative_humidity": (55.0, 8.0, 0.6), "electric_w": (20.0, 30.0, 3.0), "price": (0.2, 0.09, 0.0)}
    return {
        s: _states(rng) if is_two_states(s) else _wave(rng, *usual.get(s.quantity, (18.0, 3.0, 0.1)))
        for s in sorted(signals, key=repr)
    }


def _scope(tracks: dict[Signal, Track], days: int = 365) -> Scope:
    return Scope(
        start_ms=START_MS,
        end_ms=START_MS + days * MS_PER_DAY,
        clock=LocalClock("Europe/London"),
        latitude_deg=52.0,
        tracks=tracks,
    )


def _rules() -> dict[str, Rule]:
    opened: Clauses = ((InState(of=WINDOW),),)
    shut: Clauses = ((InState(of=WINDOW, is_on=False),),)
    warm, damp = (
        Compared(of=ROOM, how="over", value=17.0, hysteresis=0.5),
        Compared(of=DAMP, how="over", value=60.0, hysteresis=3.0),
    )
    base = Rule(id="x", name="x", watch=opened, then=IDLE, limits=RuleLimits(stale_s=3600))
    dry = PutBack(when=((replace(damp, how="under", value=57.0, hysteresis=0.0),),), for_s=300)
    return {
        "opening, guarded by a temperature": replace(base, for_s=180, only_while=((warm,),), put_back=PutBack(when=shut, for_s=120)),
        "humidity in hours": replace(base, watch=((damp,),), for_s=600, only_while=((Hours(from_min=420, until_min=1320),),), put_back=dry),
        "humidity without hysteresis": replace(base, watch=((replace(damp, hysteresis=0.0),),), put_back=replace(dry, for_s=0)),
        "falling within ten minutes": replace(base, watch=((Moving(of=ROOM, how="falling", by=0.5, within_s=600),),), put_back=PutBack(after_s=1800)),
        "dark": replace(base, watch=((Dark(),),), only_while=((warm,),), put_back=PutBack(when=((Dark(is_dark=False),),))),
        "a difference": replace(base, watch=((replace(damp, minus=ROOM, value=42.0),),), put_back=PutBack(after_s=1800)),
    }  # fmt: skip


def rules() -> None:
    """Print all of it."""
    rng = np.random.default_rng(11)
    tracks = _tracks(rng, {ROOM, DAMP, WINDOW})
    year, part = _scope(tracks), _scope(tracks, PLAIN_DAYS)
    for words, rule in _rules().items():
        taken = cpu_seconds(partial(_rule_run, rule, year))
        plain = cpu_seconds(partial(interpret, rule, part), 1)
        same = interpret(rule, part) == _rule_run(rule, part)
        slow = plain * 365 / PLAIN_DAYS
        print(
            f"rule over a year of minutes, {words}: {1000 * taken:.0f} ms (asked: 50 ms); plain interpreter {slow:.0f} s "
            f"(from {PLAIN_DAYS} days, {'the same result' if same else 'ANOTHER RESULT'}), ratio {slow / taken:.0f}"
        )
    _thirty(rng, demo_home("weir-cottage"))
    _sweeps(tracks, year)


def _rule_run(rule: Rule, scope: Scope) -> RuleRun:
    return rule_run_of(rule, ConditionEvaluator(scope))


def _thirty(rng: np.random.Generator, home: Home) -> None:
    signals = {signal for rule in home.rules for c in rule.conditions for signal in c.signals}
    signals |= {Signal(quantity="electric_w", subject_id=machine.id) for machine in home.appliances}
    levels = LevelLine(np.array([START_MS], dtype=np.int64), (home.levels[0].id,))
    scope = replace(
        _scope(_tracks(rng, signals)),
        levels={zone.id: levels for zone in home.zones},
        settings={(m.id, s.tells): s for m in home.appliances for s in m.settings},
    )
    fired = sum(len(rule_run.firings) for rule_run in rule_runs_of(home.rules, scope).rule_runs.values())
    taken = cpu_seconds(lambda: rule_runs_of(home.rules, scope))
    print(f"{len(home.rules)} rules over a year of minutes, {fired} triggerings: {taken:.2f} s (asked: 1 s)")


def _sweeps(tracks: dict[Signal, Track], year: Scope) -> None:
    begin = START_MS + np.arange(300, dtype=np.int64) * MS_PER_DAY + 18 * MS_PER_H
    events = Events(begin_ms=begin, until_ms=begin + 4 * MS_PER_H)
    known = heard(tracks[DAMP], 3_600_000)
    for counts in ((20, 10, 10), (50, 40, 1)):
        grids = (np.linspace(50, 64, counts[0]), np.linspace(0, 6, counts[1]), np.linspace(0, 3600, counts[2]))
        values, hystereses, waits = (grid.tolist() for grid in grids)
        taken = cpu_seconds(partial(sweep_watch, known, values, hystereses, waits, events, end_ms=year.end_ms))
        print(
            f"{np.prod(counts)} settings of threshold, hysteresis and wait ({'×'.join(map(str, counts))}): "
            f"{taken:.2f} s (asked: 1 s)"
        )
    rule = _rules()["humidity in hours"]
    knobs = {knob.key: knob for knob in knobs_of(rule)}
    one, other = knobs["watch.0.0.value"], knobs["for"]
    values, waits = np.linspace(50, 64, 20), np.linspace(0, 3600, 10)
    taken = cpu_seconds(lambda: sweep(rule, ConditionEvaluator(year), one, other, values, waits, events), 1)
    print(f"200 settings of two blanks of a whole rule over a year of minutes: {taken:.2f} s (asked: 5 s)")
