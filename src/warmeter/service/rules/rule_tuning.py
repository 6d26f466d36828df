"""Two slots of a home's rule swept over its logs, against what it should have caught."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from pydantic import TypeAdapter, ValidationError

from warmeter.core.arrays import Flags
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.rules import Rule
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.parts import conditions_of
from warmeter.core.rule.tuning import (
    Events,
    Knob,
    Middle,
    SweepMap,
    good,
    knobs_of,
    lasting,
    middle,
    place_of_now,
    sweep,
    values_around,
)
from warmeter.core.truth.scope import Scope
from warmeter.service.app import App
from warmeter.service.rules.replays import replay
from warmeter.store.work import Job

MARKED, ITSELF = "marked", "itself"
UP, ACROSS = 12, 14
MOST_AT_ONCE = 20_000_000  # reports times settings: about half a second


@dataclass(frozen=True, slots=True, kw_only=True)
class Goal:
    """What is wanted: against which events, how long those last at least [s], and how many needless firings a week."""

    against: str = ITSELF
    least_s: int = 300
    needless_a_week: float = 1.0

    @property
    def sensor(self) -> Signal | None:
        """The sensor whose state should be caught, None for marks and for what the rule itself watches."""
        quantity, _, subject = self.against.partition(":")
        return Signal(quantity=quantity, subject_id=subject) if subject else None


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepAsked:
    """A sweep as a job is asked for it: rule, slots, goal, stretch [ms UTC]."""

    rule_id: str
    up: str
    across: str
    goal: Goal
    start_ms: int
    end_ms: int
    revision: int


@dataclass(frozen=True, slots=True, kw_only=True)
class _KeptSweep:
    """A sweep's numbers as they are kept."""

    up_values: list[float]
    across_values: list[float]
    missed: list[list[int]]
    needless: list[list[int]]
    late_s: list[list[float | None]]
    events: int
    weeks: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuned:
    """A sweep with its goal, the good region's middle, and the setting in use."""

    map: SweepMap
    goal: Goal
    middle: Middle | None

    @property
    def is_good(self) -> Flags:
        """Which settings meet the goal."""
        return good(self.map, needless_a_week=self.goal.needless_a_week)


def usual_knobs(rule: Rule, up: str, across: str) -> tuple[Knob, Knob, list[Knob]]:
    """Return the two slots to sweep, by key or as usual, and all that could be."""
    knobs = knobs_of(rule)
    by_key = {knob.key: knob for knob in knobs}
    values = [k for k in knobs if k.kind != "time" and k.key.startswith("watch")] or [
        k for k in knobs if k.key == "back_for"
    ]
    first = by_key.get(up) or (values or knobs)[0]
    second = by_key.get(across) or next((k for k in (by_key["for"], *knobs) if k.key != first.key), None)
    if second is None or first.key == second.key:
        raise NotKnowable("This rule has one number only.", "Two are needed for a map.")
    return first, second, knobs


def events_of(rule: Rule, evaluator: ConditionEvaluator, goal: Goal) -> Events:
    """Return what the rule should have caught over a scope.

    Raises
    ------
    HomeError
        If the goal names a signal that is not there.
    """
    scope, stale_s = evaluator.scope, rule.limits.stale_s
    if goal.against == MARKED:
        inside = [m for m in rule.marks if m.end_ms > scope.start_ms and m.start_ms < scope.end_ms]
        rows = sorted((max(m.start_ms, scope.start_ms), m.end_ms) for m in inside)
        both = np.array(rows, dtype=np.int64).reshape(-1, 2)
        return Events(begin_ms=both[:, 0], until_ms=both[:, 1])
    if goal.against == ITSELF:
        return lasting(evaluator.clauses(rule.watch, stale_s), goal.least_s)
    signal = goal.sensor
    if signal is None or signal not in scope.tracks:
        raise HomeError("there is no such sensor to hold it against")
    return lasting(evaluator.truth(InState(of=signal), max(stale_s, 86_400)), goal.least_s)


def tuned(
    rule: Rule, scope: Scope, goal: Goal, up: str, across: str, progress: Callable[[int, int], bool] | None = None
) -> Tuned:
    """Return the sweep of two slots over a scope.

    Raises
    ------
    NotKnowable
        If there is nothing to catch, or the rule has one number only.
    """
    evaluator = ConditionEvaluator(scope)
    first, second, _ = usual_knobs(rule, up, across)
    values = [
        values_around(knob, count, **_range(rule, evaluator, knob)) for knob, count in ((first, UP), (second, ACROSS))
    ]
    found = sweep(
        rule, evaluator, first, second, values[0], values[1], events_of(rule, evaluator, goal), progress=progress
    )
    return Tuned(
        map=found, goal=goal, middle=middle(good(found, needless_a_week=goal.needless_a_week), place_of_now(found))
    )


def _range(rule: Rule, evaluator: ConditionEvaluator, knob: Knob) -> dict[str, float]:
    """Return the ends of what the log holds of the quantity that a slot is about."""
    if knob.kind != "value":
        return {}
    for part in ("watch", "when"):
        for place, c in conditions_of(rule, part):
            if isinstance(c, Compared) and knob.key.startswith(place.path):
                values = evaluator.heard(c.of, rule.limits.stale_s).value
                heard = values[~np.isnan(values)]
                if heard.size:
                    return {"low": float(np.quantile(heard, 0.02)), "high": float(np.quantile(heard, 0.98))}
    return {}


def is_long(rule: Rule, scope: Scope) -> bool:
    """Return whether a sweep takes so long that it is better a job: settings times reports."""
    signals = {signal for condition in rule.conditions for signal in condition.signals}
    reports = sum(scope.track(signal).at_ms.size for signal in signals)
    return UP * ACROSS * reports > MOST_AT_ONCE


def ask_sweep(app: App, home_id: str, asked: SweepAsked) -> None:
    """Queue a sweep, unless the same is queued or runs."""
    request = TypeAdapter(SweepAsked).dump_json(asked).decode()
    last = app.work.latest_of_kind(home_id, "sweep")
    if last is not None and not last.is_over and app.work.request(last.id) == request:
        return
    app.jobs.submit(app.work.enqueue(home_id, "sweep", asked.rule_id, asked.revision, app.now_ms(), request))


def run_sweep(app: App, job: Job, progress: Callable[[float, str], None]) -> str:
    """Sweep as asked and keep the numbers; return what came of it."""
    asked = TypeAdapter(SweepAsked).validate_json(app.work.request(job.id))
    home, _ = app.homes.load(job.home_id)
    rule = home.rule(asked.rule_id)
    progress(0.02, "Reading the logs")
    sensor = asked.goal.sensor
    # All rules are run once: what they mark is looked at too.
    scope = replay(app, home, asked.start_ms, asked.end_ms, [] if sensor is None else [sensor]).scope

    def told(done: int, of: int) -> bool:
        progress(done / of, f"{done} of {of} settings tried")
        return True

    found = tuned(rule, scope, asked.goal, asked.up, asked.across, told).map
    kept = _KeptSweep(
        up_values=found.up_values.tolist(),
        across_values=found.across_values.tolist(),
        missed=found.missed.tolist(),
        needless=found.needless.tolist(),
        late_s=[[None if np.isnan(v) else v for v in row] for row in found.late_s.tolist()],
        events=found.events,
        weeks=found.weeks,
    )
    app.work.keep_result(job.id, TypeAdapter(_KeptSweep).dump_json(kept))
    return f"{found.missed.size} settings tried"


def kept_sweep(app: App, home_id: str, rule: Rule, asked: SweepAsked) -> Tuned | None:
    """Return the newest sweep that ended well, if it is the one that is asked."""
    last = app.work.latest_of_kind(home_id, "sweep", only_done=True)
    if last is None or app.work.request(last.id) != TypeAdapter(SweepAsked).dump_json(asked).decode():
        return None
    document = app.work.result(last.id)
    if document is None:
        return None
    try:
        kept = TypeAdapter(_KeptSweep).validate_json(document)
    except ValidationError:
        return None  # kept by another Warmeter: it is to be tried anew
    up, across, _ = usual_knobs(rule, asked.up, asked.across)
    found = SweepMap(
        up=up,
        across=across,
        up_values=np.array(kept.up_values),
        across_values=np.array(kept.across_values),
        missed=np.array(kept.missed, dtype=np.int64),
        needless=np.array(kept.needless, dtype=np.int64),
        late_s=np.array([[np.nan if v is None else v for v in row] for row in kept.late_s]),
        events=kept.events,
        weeks=kept.weeks,
    )
    wanted = good(found, needless_a_week=asked.goal.needless_a_week)
    return Tuned(map=found, goal=asked.goal, middle=middle(wanted, place_of_now(found)))
