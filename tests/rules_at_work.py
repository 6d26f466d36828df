"""A rule at work on tracks, for tests."""

import unittest
from dataclasses import replace

import numpy as np

from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.rules import Rule, SetLevel
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.reference.interpreter import interpret
from warmeter.core.rule.run import RuleRun, rule_run_of
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.track import Track

ROOM = Signal(quantity="room_temperature", subject_id="kitchen")
POWER = Signal(quantity="electric_w", subject_id="washer")
WINDOW = Signal(quantity="is_open", subject_id="window")


NOON = parse_utc("2026-01-14T12:00:00Z")


MIN, H = 60, 3600


IDLE = (SetLevel(zone_ids=("kitchen",), level_id="idle"),)


OPEN: Clauses = ((InState(of=WINDOW),),)


SHUT: Clauses = ((InState(of=WINDOW, is_on=False),),)


def track(*reports: tuple[float, float]) -> Track:
    """Return reports given in seconds after noon."""
    return Track(
        np.array([NOON + round(1000 * at) for at, _ in reports], dtype=np.int64),
        np.array([value for _, value in reports], dtype=float),
    )


def scope(hours: float = 6, zone: str = "Europe/London", **parts: object) -> Scope:
    """Return a stretch from noon on."""
    base = Scope(start_ms=NOON, end_ms=NOON + round(hours * H * 1000), clock=LocalClock(zone), latitude_deg=52.0)
    return replace(base, **parts)  # type: ignore[arg-type]


def rule(watch: Clauses = OPEN, **parts: object) -> Rule:
    """Return a rule that sets Idle."""
    return replace(Rule(id="r", name="Opening", watch=watch, then=IDLE), **parts)  # type: ignore[arg-type]


class AtWork(unittest.TestCase):
    def live(self, one: Rule, at: Scope) -> RuleRun:
        """Return the life by the fast evaluator, having seen that the plain one tells the same."""
        fast = rule_run_of(one, ConditionEvaluator(at))
        self.assertEqual(fast, interpret(one, at))
        return fast

    def fired(self, one: Rule, at: Scope) -> list[tuple[float, float | None, str]]:
        """Return firings in seconds after noon."""
        return [
            ((f.at_ms - NOON) / 1000, None if f.end_ms is None else (f.end_ms - NOON) / 1000, f.why)
            for f in self.live(one, at).firings
        ]

    def held_back(self, one: Rule, at: Scope) -> list[tuple[float, str]]:
        return [((h.at_ms - NOON) / 1000, h.why) for h in self.live(one, at).held_back]

    def told(self, condition: Condition, at: Scope, stale_s: int = 36_000) -> list[tuple[float, int]]:
        """Return a condition's changes in seconds after noon."""
        truth = ConditionEvaluator(at).truth(condition, stale_s)
        return [((int(t) - NOON) / 1000, int(v)) for t, v in zip(truth.at_ms, truth.value, strict=True)]
