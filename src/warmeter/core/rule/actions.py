"""What a rule does when it fires: its steps as deeds in time, claims on zones, switchings, marks and notices."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.claims.arbiter import PRIORITY, Claim
from warmeter.core.home.document import Home
from warmeter.core.home.rules import (
    MarkFact,
    NotificationGroup,
    Rule,
    SetLevel,
    SetPoint,
    ShutOff,
    Step,
    Tell,
    TimedRun,
)
from warmeter.core.home.zones import Zone
from warmeter.core.rule.notifications import notices, quiet_by_clock
from warmeter.core.rule.run import Firing, RuleRun
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.day import blocks_between
from warmeter.core.truth.scope import NO_MARKS, Marks
from warmeter.core.units import MS_PER_S

QuietOf = Callable[[NotificationGroup], Callable[[int], int | None]]


@dataclass(frozen=True, slots=True, kw_only=True)
class ActionRun:
    """A step carried out: from when, until when it stands (None: until a person or another ends it) [ms UTC]."""

    step: Step
    from_ms: int
    until_ms: int | None
    fired_ms: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Notification:
    """Somebody told: when, whom, what, since when it held, and whether quiet hours held it back until then [ms UTC]."""

    at_ms: int
    group_id: str
    text: str
    since_ms: int
    is_late: bool = False
    is_again: bool = False


def action_runs_of(rule: Rule, rule_run: RuleRun) -> tuple[ActionRun, ...]:
    """Return what a rule does in its life; steps whose time comes after it was put back are left out."""
    return tuple(deed for firing in rule_run.firings for deed in _deeds(rule, firing))


def _deeds(rule: Rule, firing: Firing) -> Iterator[ActionRun]:
    at = firing.at_ms
    is_released = rule.put_back is not None or bool(rule.as_long_as)
    for step in rule.then:
        at += step.wait_s * MS_PER_S
        if is_released and firing.end_ms is not None and at >= firing.end_ms and at > firing.at_ms:
            return
        until = firing.end_ms if is_released or firing.why == "restarted" else None
        if isinstance(step, TimedRun):
            stop = at + step.for_s * MS_PER_S
            until = stop if until is None else min(stop, until)
        elif isinstance(step, ShutOff):
            until = None
        yield ActionRun(step=step, from_ms=at, until_ms=until, fired_ms=firing.at_ms)


def strength_of(rule: Rule, place: int, count: int) -> float:
    """Return how strong a rule's claims are: by its kind, and within it by its place in the list (0 is the first)."""
    return PRIORITY[rule.kind] + (0.0 if rule.kind == "safety" else (count - place) / (count + 1))


def zone_claims(
    home: Home, zone: Zone, rule: Rule, rule_run: RuleRun, clock: LocalClock, *, end_ms: int, side: str = "heating"
) -> list[Claim]:
    """Return what a rule claims of a zone's heating setpoint or cooling limit.

    Parameters
    ----------
    end_ms : int
        End of what is looked at: a change of what stands is laid block by block up to there [ms UTC].
    """
    place = next((k for k, each in enumerate(home.rules) if each.id == rule.id), 0)
    strength = strength_of(rule, place, max(len(home.rules), 1))
    claims = []
    for number, deed in enumerate(action_runs_of(rule, rule_run)):
        if not isinstance(deed.step, SetLevel | SetPoint) or zone.id not in deed.step.zone_ids:
            continue
        for from_ms, until_ms, value in _values(home, zone, deed, clock, end_ms, side):
            claims.append(
                Claim(
                    kind=rule.kind,
                    value=value,
                    from_ms=from_ms,
                    until_ms=until_ms,
                    reason=rule.name,
                    id=f"{rule.id}.{number}.{from_ms}",
                    rule=rule.id,
                    priority=strength,
                )
            )
    return claims


def _values(
    home: Home, zone: Zone, deed: ActionRun, clock: LocalClock, end_ms: int, side: str
) -> Iterator[tuple[int, int | None, float]]:
    """Yield stretches and values [°C] that a deed asks."""
    step = deed.step
    if isinstance(step, SetLevel):
        if all(level.id != step.level_id for level in home.levels):  # gone: the rule has a finding
            return
        value = home.heating_c(zone, step.level_id) if side == "heating" else home.cooling_c(zone, step.level_id)
        if value is not None:
            yield deed.from_ms, deed.until_ms, value
        return
    assert isinstance(step, SetPoint)  # asked of these two only
    if step.side != side:
        return
    if step.value_c is not None:
        yield deed.from_ms, deed.until_ms, step.value_c
        return
    until = end_ms if deed.until_ms is None else deed.until_ms
    for block in blocks_between(home, zone, clock, deed.from_ms, until):
        asked = block.setpoint_c if side == "heating" else block.cooling_c
        begin, end = max(block.from_ms, deed.from_ms), min(block.until_ms, until)
        if asked is not None and begin < end:
            yield begin, end, asked + (step.change_k or 0.0)


def marked(rule: Rule, rule_run: RuleRun, marks: Mapping[str, Marks]) -> dict[str, Marks]:
    """Return marked facts with what a rule marks added, in order of time."""
    found = dict(marks)
    for deed in action_runs_of(rule, rule_run):
        if isinstance(deed.step, MarkFact):
            before = found.get(deed.step.word, NO_MARKS)
            place = int(np.searchsorted(before.at_ms, deed.from_ms, side="right"))
            found[deed.step.word] = Marks(
                np.insert(before.at_ms, place, deed.from_ms), np.insert(before.is_true, place, deed.step.is_true)
            )
    return found


def notifications_of(
    rule: Rule, rule_run: RuleRun, chains: Sequence[NotificationGroup], clock: LocalClock, end_ms: int
) -> list[Notification]:
    """Return who is told and when; what quiet hours swallow is left out.

    A safety rule, and a chain that goes through quiet hours, is told at once. A rule without an end is told once; in
    quiet hours nothing is left of it when they end.

    References
    ----------
    docs/methods J4.
    """
    by_id = {chain.id: chain for chain in chains}
    found = []
    for deed in action_runs_of(rule, rule_run):
        chain = by_id.get(deed.step.group_id) if isinstance(deed.step, Tell) else None
        if not isinstance(deed.step, Tell) or chain is None:
            continue
        at, last = deed.from_ms, deed.from_ms if deed.until_ms is None and rule.put_back is None else deed.until_ms
        stretch = (at, min(end_ms, end_ms if last is None else last))
        is_safety = rule.kind == "safety"
        told = notices(
            [stretch],
            after=0,
            repeat=None if deed.step.repeat_s is None else deed.step.repeat_s * MS_PER_S,
            most=10_000 if is_safety and deed.step.repeat_s else deed.step.most,
            quiet=quiet_of(chain, clock, is_safety=is_safety),
            end=end_ms - 1,
            is_closed=last == at,
        )
        found += [
            Notification(
                at_ms=t,
                group_id=chain.id,
                text=deed.step.text or rule.name,
                since_ms=deed.fired_ms,
                is_late=k == 0 and t > at,
                is_again=k > 0,
            )
            for k, t in enumerate(told)
        ]
    return sorted(found, key=lambda notice: notice.at_ms)


def quiet_of(chain: NotificationGroup, clock: LocalClock, *, is_safety: bool) -> Callable[[int], int | None]:
    """Return when a chain's quiet hours that hold at an instant end, None where nothing keeps it quiet."""
    begin, until = chain.quiet_from_min, chain.quiet_until_min
    if is_safety or chain.passes_quiet or begin is None or until is None:
        return lambda _: None
    return quiet_by_clock(clock, begin, until)
