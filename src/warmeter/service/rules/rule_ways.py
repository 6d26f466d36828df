"""Ways to do what a starter does, all replayed on the same stretch of a home's logs."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule, SetLevel, SetPoint
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.ruleset import rule_runs_of
from warmeter.core.rule.run import RuleRun
from warmeter.core.rule.tuning import Events, lasting
from warmeter.core.rule.way_outcome import WayOutcome, energy_after, way_outcome
from warmeter.core.starters.openings import with_drop
from warmeter.core.starters.rule_ways import RuleTarget, RuleWay, target_of, ways_at
from warmeter.core.starters.way_needs import WayNeeds, way_needs
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.track import heard, value_of
from warmeter.core.truth.truth import TRUE, UNKNOWN
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, S_PER_H
from warmeter.service.app import App
from warmeter.service.rules.replays import replay, unheard_in
from warmeter.service.rules.rule_evidence import drop_of
from warmeter.service.rules.rule_saving import rule_saving
from warmeter.service.rules.rule_signals import scope_of
from warmeter.service.tariffs.pricing import known_prices

# A report of what should be caught, and of a machine's power, stands until the next, at most so long [s].
REPORT_STANDS_S = S_PER_H
NO_EVENTS = Events(begin_ms=np.zeros(0, dtype=np.int64), until_ms=np.zeros(0, dtype=np.int64))


@dataclass(frozen=True, slots=True, kw_only=True)
class WayReplay:
    """A way with what it came to; ``unheard`` are signals without any report, of which nothing can be said then.

    ``kwh_less`` is what it spares on the log against doing nothing, with its range where rooms were run, and ``money``
    its price; None where that is not known.
    """

    way: RuleWay
    needs: WayNeeds | None
    outcome: WayOutcome | None = None
    unheard: tuple[Signal, ...] = ()
    kwh_less: Estimate | None = None
    money: Estimate | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class WaysReplay:
    """The ways at a place over [start, end): what all should catch, when it was so, and each way.

    ``why_not`` says why it is not known when it was so; there are no figures then, only what each way hangs on.
    """

    target: RuleTarget | None
    events: Events
    ways: tuple[WayReplay, ...]
    start_ms: int
    end_ms: int
    why_not: str = ""

    @property
    def days(self) -> float:
        """Length of the stretch [days]."""
        return (self.end_ms - self.start_ms) / MS_PER_DAY


def ways_replay(
    app: App, home: Home, starter_key: str, place_id: str, *, start_ms: int, end_ms: int, comes_s: int
) -> WaysReplay:
    """Replay every way of a starter at a place over [start, end) of the log.

    Parameters
    ----------
    comes_s : int
        How long after being told somebody comes, where a way only tells [s].

    Raises
    ------
    HomeError
        If there is no such starter or place.
    """
    ways = [_by_log(app, home, way) for way in ways_at(home, starter_key, place_id)]

    def nothing(why: str, target: RuleTarget | None = None) -> WaysReplay:
        bare = tuple(WayReplay(way=way, needs=way_needs(way.home, way.rules) if way.rule else None) for way in ways)
        return WaysReplay(target=target, events=NO_EVENTS, ways=bare, start_ms=start_ms, end_ms=end_ms, why_not=why)

    try:
        target = target_of(home, starter_key, place_id)
    except NotKnowable as error:
        return nothing(error.args[0])
    watched = [c for clause in target.watch for c in clause]
    watched += [c for way in ways for rule in way.rules for c in rule.conditions]
    scope = scope_of(app, home, watched, start_ms, end_ms)
    if home.rules:
        scope = replace(scope, marks=replay(app, home, start_ms, end_ms).scope.marks)
    truth = ConditionEvaluator(scope).clauses(target.watch, REPORT_STANDS_S)
    if not np.any(truth.value == TRUE) and np.any(truth.value == UNKNOWN):
        return nothing(
            "No reading of these days tells when that was so: import a log of it, or take other days.", target
        )
    events = lasting(truth, target.least_s)
    return WaysReplay(
        target=target,
        events=events,
        ways=tuple(_replayed(app, way, target, events, scope, comes_s) for way in ways),
        start_ms=start_ms,
        end_ms=end_ms,
    )


def _by_log(app: App, home: Home, way: RuleWay) -> RuleWay:
    """Return a way with the fall that its sensor's log allows, where it goes by a fall."""
    if way.rule is None:
        return way
    falling = next((c for clause in way.rule.watch for c in clause if isinstance(c, Moving)), None)
    drop_k = None if falling is None else drop_of(app, home, falling.of.subject_id or "")
    return way if drop_k is None else replace(way, rule=with_drop(way.rule, drop_k))


def _replayed(app: App, way: RuleWay, target: RuleTarget, events: Events, scope: Scope, comes_s: int) -> WayReplay:
    if way.rule is None:
        return WayReplay(way=way, needs=None)
    found = rule_runs_of(way.rules, scope, way.home.notification_groups)
    runs = [(rule, found.rule_runs[rule.id]) for rule in way.rules]
    needs = way_needs(way.home, way.rules)
    unheard = unheard_in(way.rule, scope)
    if unheard and not runs[0][1].firings:
        return WayReplay(way=way, needs=needs, unheard=unheard)
    outcome = way_outcome(runs, events, scope.end_ms, ahead_s=target.ahead_s, comes_s=comes_s)
    kwh, money = _spared(app, way, target, events, scope, runs, outcome)
    return WayReplay(way=way, needs=needs, outcome=outcome, kwh_less=kwh, money=money)


def _spared(
    app: App,
    way: RuleWay,
    target: RuleTarget,
    events: Events,
    scope: Scope,
    runs: Sequence[tuple[Rule, RuleRun]],
    outcome: WayOutcome,
) -> tuple[Estimate | None, Estimate | None]:
    """Return energy [kWh] and money less than with nothing done; None where nothing tells it."""
    if target.machine_id is not None:
        return _machine_spared(app, way.home, target.machine_id, events, scope, outcome)
    rule, run = runs[0]
    if not any(isinstance(step, SetLevel | SetPoint) for step in rule.then):
        return None, None
    try:
        saving = rule_saving(app, way.home, rule, run, scope)
    except NotKnowable:
        return None, None
    return (None, None) if saving is None or saving.unfitted else (saving.heat_kwh, saving.cost)


def _machine_spared(
    app: App, home: Home, machine_id: str, events: Events, scope: Scope, outcome: WayOutcome
) -> tuple[Estimate | None, Estimate | None]:
    minutes = minutes_between(scope.start_ms // MS_PER_MIN * MS_PER_MIN, scope.end_ms)
    signal = Signal(quantity="electric_w", subject_id=machine_id)
    power: Floats = value_of(heard(scope.track(signal), scope.stale_ms(signal, REPORT_STANDS_S)), minutes)
    if np.isnan(power).all():
        return None, None
    prices = known_prices(app, home, minutes)
    price = None if prices is None else prices.by_step
    kwh, money = energy_after(outcome.ended_ms, events.until_ms, minutes, power, price)
    return _sure(kwh), None if money is None else _sure(money)


def _sure(value: float) -> Estimate:
    """Return what the log itself says, without a range."""
    return Estimate(value=value, low=value, high=value)
