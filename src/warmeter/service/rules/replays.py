"""A home's rules replayed over a stretch of its logs: what would have fired, been held back and put back."""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule
from warmeter.core.rule.actions import Notification, notifications_of
from warmeter.core.rule.asking import AskRun
from warmeter.core.rule.chatter import Chatter, chatter
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.parts import conditions_of
from warmeter.core.rule.questions import asked_notices
from warmeter.core.rule.ruleset import rule_runs_of
from warmeter.core.rule.run import RuleRun
from warmeter.core.truth.scope import Scope
from warmeter.core.units import MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.rules.rule_signals import holds_of, scope_of, track_of

NIGHT_FROM_MIN, NIGHT_UNTIL_MIN = 1320, 420
WINDOW_S = 600
ON_S = 60
_KEPT_REPLAYS: "Cache[Replay]" = Cache(2)  # a month of thirty rules is 8 MB


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleReplay:
    """What became of one rule.

    Parameters
    ----------
    life : Life
        Its firings, with what held it back.
    notices : tuple of Notice
        Who was told, quiet hours kept.
    held_min : float
        How long it stood in all [min].
    longest_min : float
        Its longest stand [min].
    chatter : Chatter
        How nervously it fired.
    nights : int
        Nights in which it told somebody aloud between 22:00 and 07:00.
    unheard : tuple of Signal
        What it watches of which nothing was heard in the stretch: that it did not fire says nothing then.
    question : AskRun or None
        What became of the question that it asks.
    """

    rule_run: RuleRun
    notices: tuple[Notification, ...]
    held_min: float
    longest_min: float
    chatter: Chatter
    nights: int
    unheard: tuple[Signal, ...] = ()
    question: AskRun | None = None

    @property
    def held_back(self) -> Mapping[str, int]:
        """How often each thing held it back."""
        return Counter(held.why for held in self.rule_run.held_back)


@dataclass(frozen=True, slots=True, kw_only=True)
class Replay:
    """A stretch replayed: what each rule came to, the conditions with what rules marked, and rules that run in a circle."""

    evaluator: ConditionEvaluator
    rules: Mapping[str, RuleReplay]
    circle_ids: tuple[str, ...]

    @property
    def scope(self) -> Scope:
        """What was looked at, with what rules marked."""
        return self.evaluator.scope


def replay(app: App, home: Home, start_ms: int, end_ms: int, also: Iterable[Signal] = ()) -> Replay:
    """Replay a home's rules over [start, end) of its logs; ``also`` are signals to be drawn beside them."""
    stamp = app.homes.stamp(home.id)
    # Ids of imports are never given twice, so a home that comes back under its old id is another one.
    imports = app.readings.import_stamp(home.id)
    key = (str(app.engine.url), home, imports, stamp and stamp.changes, start_ms, end_ms)
    found = _KEPT_REPLAYS.get(key, lambda: _replay(app, home, start_ms, end_ms))
    beside = [signal for signal in also if signal not in found.scope.tracks]
    if not beside:
        return found
    tracks = {signal: track_of(app, home, signal, start_ms, end_ms) for signal in beside}
    return replace(found, evaluator=found.evaluator.with_tracks(tracks, holds_of(app, home, beside)))


def _replay(app: App, home: Home, start_ms: int, end_ms: int) -> Replay:
    scope = scope_of(app, home, [c for rule in home.rules for c in rule.conditions], start_ms, end_ms)
    found = rule_runs_of(home.rules, scope, home.notification_groups)
    return Replay(
        evaluator=found.evaluator,
        rules={
            rule.id: _of(home, rule, found.rule_runs[rule.id], scope, found.questions.get(rule.id))
            for rule in home.rules
            if rule.id in found.rule_runs
        },
        circle_ids=found.circle_ids,
    )


def _of(home: Home, rule: Rule, rule_run: RuleRun, scope: Scope, question: AskRun | None) -> RuleReplay:
    ends = [(f.at_ms, scope.end_ms if f.end_ms is None else f.end_ms) for f in rule_run.firings]
    minutes = [(until - at) / MS_PER_MIN for at, until in ends]
    told = notifications_of(rule, rule_run, home.notification_groups, scope.clock, scope.end_ms)
    if question is not None:
        told = sorted([*told, *asked_notices(rule, question)], key=lambda notice: notice.at_ms)
    return RuleReplay(
        rule_run=rule_run,
        notices=tuple(told),
        held_min=float(sum(minutes)),
        longest_min=max(minutes, default=0.0),
        chatter=chatter(
            [((a - scope.start_ms) / 1000, (b - scope.start_ms) / 1000) for a, b in ends],
            min_on_s=ON_S,
            window_s=WINDOW_S,
            span_s=(scope.end_ms - scope.start_ms) / 1000,
        ),
        nights=len(_nights(home, scope, told)),
        unheard=unheard_in(rule, scope),
        question=question,
    )


def unheard_in(rule: Rule, scope: Scope) -> tuple[Signal, ...]:
    """Return the signals of a rule's watch that no report of the stretch tells; silence itself may be what is watched."""
    found: dict[Signal, None] = {}
    for _, condition in conditions_of(rule, "watch"):
        if isinstance(condition, Compared | Moving | InState):
            for signal in (condition.of, getattr(condition, "minus", None)):
                track = scope.tracks.get(signal) if signal is not None else None
                if signal is not None and (track is None or np.isnan(track.value).all()):
                    found[signal] = None
    return tuple(found)


def _nights(home: Home, scope: Scope, told: list[Notification]) -> set[int]:
    """Return the epoch days on whose evening or morning somebody was told aloud at night."""
    aloud = {chain.id for chain in home.notification_groups if chain.loudness != "quiet"}
    at = np.array([notice.at_ms for notice in told if notice.group_id in aloud], dtype=np.int64)
    if at.size == 0:
        return set()
    day, minute = scope.clock.local_minutes(at)
    night = (minute >= NIGHT_FROM_MIN) | (minute < NIGHT_UNTIL_MIN)
    return set((day - (minute < NIGHT_UNTIL_MIN))[night].tolist())
