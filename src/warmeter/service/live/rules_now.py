"""A home's rules followed live: evaluated as in a replay, each firing written down before it does anything."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from hashlib import sha256

from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule
from warmeter.core.rule.ruleset import RuleSetRun, rule_runs_of
from warmeter.core.rule.run import Firing, RuleMemory, RuleRun
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_S
from warmeter.service.app import App
from warmeter.service.live.commanding import EDITED
from warmeter.service.rules.rule_signals import scope_of
from warmeter.store.live_commands import KeptFiring

LEAST_DAYS, MOST_DAYS = 2, 16
REMEMBERED_MS = 9 * MS_PER_DAY  # firings so old may still hold, count, or wait for an answer


@dataclass(slots=True)
class FollowedRules:
    """Which rules are followed, each from when on: a rule that is written or edited begins anew."""

    since: dict[str, tuple[str, int]] = field(default_factory=dict)

    def follow(self, rules: tuple[Rule, ...], now_ms: int) -> None:
        """Follow a home's rules from now on; those that are as they were go on."""
        found: dict[str, tuple[str, int]] = {}
        for rule in rules:
            mark = rule_mark(rule)
            before = self.since.get(rule.id)
            found[rule.id] = before if before is not None and before[0] == mark else (mark, now_ms)
        self.since = found

    def told(self) -> dict[str, list[object]]:
        """Return it as it is kept."""
        return {rule_id: [mark, since_ms] for rule_id, (mark, since_ms) in self.since.items()}


def rule_mark(rule: Rule) -> str:
    """Return a mark of what a rule does: another name, intent or marks of a person change it not."""
    what = (rule.kind, rule.watch, rule.reading, rule.for_s, rule.only_while, rule.as_long_as, rule.then)
    rest = (rule.put_back, rule.limits, rule.is_restarted, rule.suspended)
    return sha256(repr((*what, *rest)).encode()).hexdigest()[:16]


def followed_from(told: Mapping[str, object]) -> FollowedRules:
    """Return which rules were followed, as it was kept."""
    found = FollowedRules()
    for rule_id, row in told.items():
        if isinstance(row, list) and len(row) == 2:
            found.since[rule_id] = (str(row[0]), int(row[1]))
    return found


def window_start_ms(clock: LocalClock, rules: tuple[Rule, ...], since_ms: int, now_ms: int) -> int:
    """Return from when on logs are read to follow rules now: some local days back, as many as their waits need."""
    waits = [r.for_s for r in rules] + [r.put_back.for_s for r in rules if r.put_back is not None]
    waits += [condition_s for rule in rules for condition_s in _looks_back_s(rule)]
    days = min(MOST_DAYS, max(LEAST_DAYS, 2 + 2 * max(waits, default=0) * MS_PER_S // MS_PER_DAY))
    start = clock.day(clock.local(now_ms - days * MS_PER_DAY).date()).start_ms
    return max(start, since_ms)


def _looks_back_s(rule: Rule) -> list[int]:
    return [int(getattr(condition, name, 0)) for condition in rule.conditions for name in ("within_s", "for_s")]


@dataclass(frozen=True, slots=True, kw_only=True)
class RulesNow:
    """What rules came to up to now: their lives with what they did before, which firings are new, and those that ended."""

    runs: Mapping[str, RuleRun]
    found: RuleSetRun
    new: tuple[tuple[Rule, Firing], ...]
    ended: tuple[KeptFiring, ...]


def look_at_rules(app: App, home: Home, followed: FollowedRules, since_ms: int, now_ms: int) -> RulesNow:
    """Evaluate a home's rules up to now, and tell what is new against what was written down.

    Parameters
    ----------
    since_ms, now_ms : int
        Since when rules are followed at all, and now [ms UTC, home].

    Notes
    -----
    The evaluation is that of the replay (``rule_runs_of``). Firings before the stretch that is read come from what was
    written down, so that a rule that holds for weeks is still put back.
    """
    clock = app.clock(home)
    rules = home.rules
    start = min(window_start_ms(clock, rules, since_ms, now_ms), now_ms)
    kept = app.live_commands.firings(home.id, now_ms - REMEMBERED_MS)
    memory = {rule.id: _memory(rule, followed, kept, start) for rule in rules}
    scope = scope_of(app, home, [c for rule in rules for c in rule.conditions], start, now_ms + 1)
    found = rule_runs_of(rules, scope, home.notification_groups, memory)
    new: list[tuple[Rule, Firing]] = []
    ended: list[KeptFiring] = []
    by_key = {(each.rule_id, each.at_ms): each for each in kept}
    for rule in rules:
        run = found.rule_runs.get(rule.id)
        if run is None:
            continue
        for firing in run.firings:
            before = by_key.get((rule.id, firing.at_ms))
            if before is None:
                new.append((rule, firing))
            elif before.end_ms is None and firing.end_ms is not None:
                ended.append(_as_ended(before, firing.end_ms, firing.why))
    alive = {(rule_id, firing.at_ms) for rule_id, run in found.rule_runs.items() for firing in run.firings}
    ended += [
        _as_ended(each, now_ms, EDITED)
        for each in kept
        if each.end_ms is None and (each.rule_id, each.at_ms) not in alive
    ]
    return RulesNow(runs=found.rule_runs, found=found, new=tuple(new), ended=tuple(ended))


def _memory(rule: Rule, followed: FollowedRules, kept: list[KeptFiring], start_ms: int) -> RuleMemory:
    since_ms = followed.since[rule.id][1]
    begin = max(start_ms, since_ms)
    before = tuple(
        Firing(each.at_ms, each.end_ms, each.why)
        for each in kept
        if each.rule_id == rule.id and since_ms <= each.at_ms < begin
    )
    return RuleMemory(start_ms=begin, before=before)


def _as_ended(firing: KeptFiring, end_ms: int, why: str) -> KeptFiring:
    return KeptFiring(
        rule_id=firing.rule_id, at_ms=firing.at_ms, end_ms=end_ms, why=why, seen_ms=firing.seen_ms, found=firing.found
    )
